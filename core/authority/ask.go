package authority

import (
	"cmp"
	"context"
	"math"
	"slices"

	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Testimony pairs a column with the property of the authority that it should agree with; two of each for latitude and longitude.
type Testimony struct {
	Columns    []string `json:"columns"`
	Properties []string `json:"properties"`
}

// Question is what is asked of an authority: a column of names, and what testifies.
type Question struct {
	Column string      `json:"column"`
	With   []Testimony `json:"with"`
}

// Rule says which candidates are taken without a look.
type Rule struct {
	Probability float64 `json:"probability"` // at least
	Lead        float64 `json:"lead"`        // bits before the second one, at least
}

// Usual is the rule where none is given: fewer than one error in a hundred on lists whose truth is known (docs/quality.md), and four times the odds of the next one.
var Usual = Rule{Probability: 0.9, Lead: 2}

// State is where a value stands.
type State string

// The states.
const (
	Identified State = "identified"
	Undecided  State = "undecided"
	NotListed  State = "not listed"
)

// Candidate is an entry that may be meant.
type Candidate struct {
	Entry       int // row of the register
	Weight      float64
	Probability float64

	line int // of the names
}

// Answer is what was found for one combination.
type Answer struct {
	Values     []string // the name, and the testimony
	Row        int      // the first row that has it
	Rows       int
	Candidates []Candidate // the best first
	State      State       // by the rule
}

// Answers are those of a column.
type Answers struct {
	Of       []Answer
	Register *Register
	Notes    []string

	group  []uint32 // the answer of each row of the table; len(Of) for those that say nothing
	asked  *table.Table
	named  *table.Table
	result *linkage.Result
}

// mostCandidates is how many candidates are kept of a value.
const mostCandidates = 8

// listed is the probability below which no candidate is worth a look.
const listed = 0.01

// Ask finds the candidates of every distinct combination of a table's column and its testimony. only, where it is not nil, says for a combination which entries were offered for it.
// Refusals are *problem.Problem. Cost: that of a linkage of the combinations with the names of the register.
func Ask(ctx context.Context, t *table.Table, q Question, r *Register, rule Rule, only func(name string, entry int) bool) (*Answers, error) {
	out := &Answers{Register: r}
	if err := out.combine(t, q); err != nil {
		return nil, err
	}
	if len(out.Of) == 0 {
		return nil, problem.New("Choose a column that says something", "%s is blank in every row", q.Column)
	}
	if len(r.Names) == 0 {
		own := *r
		if own.Names = likelyNames(t, q, r); own.Names == nil {
			return nil, problem.New("Say which of its columns are names", "no column of the register looks like %s", q.Column)
		}
		r, out.Register = &own, &own
	}
	var properties []string
	for _, w := range q.With {
		if len(w.Columns) != len(w.Properties) || len(w.Columns) < 1 || len(w.Columns) > 2 {
			return nil, problem.New("Pair one column with one property, or two with two for latitude and longitude", "testimony pairs columns with properties")
		}
		properties = append(properties, w.Properties...)
	}
	var entries []uint32
	var err error
	if out.named, entries, err = r.named(properties); err != nil {
		return nil, err
	}
	if out.named.Rows() == 0 {
		return nil, problem.New("Choose its column of names", "the register has no names")
	}
	attributes, err := out.attributes(q)
	if err != nil {
		return nil, err
	}
	tables := []*table.Table{out.asked, out.named}
	res, err := linkage.Link(ctx, tables, linkage.Spec{Attributes: attributes, Across: true, Many: true, Link: 0.5, Possible: 1e-7})
	if err != nil {
		return nil, err
	}
	out.result = res
	out.take(res, entries, rule, only)
	return out, nil
}

// combine makes a table of the distinct combinations, with the rows that have each.
func (a *Answers) combine(t *table.Table, q Question) error {
	names := []string{q.Column}
	for _, w := range q.With {
		names = append(names, w.Columns...)
	}
	columns := make([]*table.Column, len(names))
	for i, n := range names {
		c, _, err := t.Column(n)
		if err != nil {
			p := problem.New("Choose a column the table has", "the table has no column %q", n)
			p.Column = n
			return p
		}
		columns[i] = c
	}
	blank := map[uint32]bool{0: true}
	for _, code := range columns[0].Dict.Blank() {
		blank[code] = true
	}
	known := map[string]uint32{}
	a.group = make([]uint32, t.Rows())
	codes := make([][]uint32, len(columns))
	key := make([]byte, 0, 4*len(columns))
	const none = ^uint32(0)
	for row := range t.Rows() {
		base := t.BaseRow(row)
		if blank[columns[0].Code(base)] {
			a.group[row] = none
			continue
		}
		key = key[:0]
		for _, c := range columns {
			code := c.Code(base)
			key = append(key, byte(code), byte(code>>8), byte(code>>16), byte(code>>24))
		}
		at, ok := known[string(key)]
		if !ok {
			at = uint32(len(a.Of))
			known[string(key)] = at
			values := make([]string, len(columns))
			for i, c := range columns {
				values[i], _ = c.Value(base)
				codes[i] = append(codes[i], c.Code(base))
			}
			a.Of = append(a.Of, Answer{Values: values, Row: row})
		}
		a.Of[at].Rows++
		a.group[row] = at
	}
	for row, g := range a.group {
		if g == none {
			a.group[row] = uint32(len(a.Of))
		}
	}
	var out []*table.Column
	for i, c := range columns {
		name := nameColumn
		if i > 0 {
			name = propertyColumn(i - 1)
		}
		out = append(out, &table.Column{Name: name, Codes: &table.Codes{At: codes[i]}, Dict: c.Dict, Reading: c.Reading})
	}
	var err error
	a.asked, err = table.New(out, len(a.Of))
	return err
}

// attributes says how names and testimony are compared.
func (a *Answers) attributes(q Question) ([]linkage.Attribute, error) {
	pair := func(name string) [][]string { return [][]string{{name}, {name}} }
	out := []linkage.Attribute{{Name: nameColumn, Kind: nameKind(linkage.KindOf(pair(nameColumn), a.asked, a.named)), Columns: pair(nameColumn)}}
	at := 0
	for _, w := range q.With {
		if len(w.Columns) == 2 {
			both := []string{propertyColumn(at), propertyColumn(at + 1)}
			out = append(out, linkage.Attribute{Name: w.Columns[0], Kind: linkage.Coordinates, Columns: [][]string{both, both}})
			at += 2
			continue
		}
		columns := pair(propertyColumn(at))
		kind := linkage.KindOf(columns, a.asked, a.named)
		out = append(out, linkage.Attribute{Name: w.Columns[0], Kind: kind, Columns: columns})
		at++
	}
	return out, nil
}

// nameKind holds what is compared as names to kinds of names.
func nameKind(k linkage.Kind) linkage.Kind {
	switch k {
	case linkage.Category, linkage.YesNo, linkage.List, linkage.Word, linkage.Country, "":
		return linkage.Text
	}
	return k
}

// take ranks the candidates of each combination, an entry once, by its best name.
func (a *Answers) take(res *linkage.Result, entries []uint32, rule Rule, only func(name string, entry int) bool) {
	for _, p := range res.Pairs {
		asked, line := p.LeftRow, p.RightRow
		entry := int(entries[line])
		if only != nil && !only(a.Of[asked].Values[0], entry) {
			continue
		}
		of := &a.Of[asked].Candidates
		if at := slices.IndexFunc(*of, func(c Candidate) bool { return c.Entry == entry }); at >= 0 {
			if p.Weight > (*of)[at].Weight {
				(*of)[at].Weight, (*of)[at].line = p.Weight, line
			}
			continue
		}
		*of = append(*of, Candidate{Entry: entry, Weight: p.Weight, line: line})
	}
	for i := range a.Of {
		answer := &a.Of[i]
		// Of the candidates one is meant at most: the odds of each against all others and against none of them.
		odds, sum := make([]float64, len(answer.Candidates)), 1.0
		for n, c := range answer.Candidates {
			odds[n] = math.Exp2(min(c.Weight+res.Prior, 60))
			sum += odds[n]
		}
		for n := range answer.Candidates {
			answer.Candidates[n].Probability = odds[n] / sum
		}
		slices.SortFunc(answer.Candidates, func(x, y Candidate) int {
			return cmp.Or(cmp.Compare(y.Weight, x.Weight), cmp.Compare(x.Entry, y.Entry))
		})
		answer.Candidates = answer.Candidates[:min(len(answer.Candidates), mostCandidates)]
		answer.State = rule.State(answer.Candidates)
	}
}

// State is where a value stands by a rule: its best candidate is taken, one is to be looked at, or there is none.
func (rule Rule) State(c []Candidate) State {
	switch {
	case len(c) == 0 || c[0].Probability < listed:
		return NotListed
	case c[0].Probability >= rule.Probability && (len(c) == 1 || c[0].Weight-c[1].Weight >= rule.Lead):
		return Identified
	}
	return Undecided
}

// Answer gives the number of the answer of each row; len(a.Of) for one that says nothing.
func (a *Answers) Answer(row int) int { return int(a.group[row]) }

// Name is the standard name of an entry.
func (r *Register) Name(entry int) string { return r.cell(r.Names[0], entry) }

// Identifier is that of an entry.
func (r *Register) Identifier(entry int) string { return r.cell(r.ID, entry) }

func (r *Register) cell(column string, entry int) string {
	c, _, err := r.Table.Column(column)
	if err != nil {
		return ""
	}
	v, _ := c.Value(r.Table.BaseRow(entry))
	return v
}

// Cell is a property of an entry.
func (r *Register) Cell(property string, entry int) string { return r.cell(property, entry) }

// Explain says what speaks for a candidate, part by part; the bits add up to its weight.
func (a *Answers) Explain(answer int, c Candidate) []linkage.Finding {
	return a.result.Findings([]*table.Table{a.asked, a.named}, linkage.Pair{LeftTable: 0, LeftRow: answer, RightTable: 1, RightRow: c.line})
}

// Words says what a finding means.
func (a *Answers) Words(part int, f linkage.Finding) string {
	return a.result.Spec.Attributes[part].LevelWords(f.Level)
}

// likelyNames finds the columns of a register that hold names as a column does: those called names, and the one whose values are most alike.
func likelyNames(t *table.Table, q Question, r *Register) []string {
	best := linkage.Alike(t, q.Column, r.Table, r.ID)
	if best == "" {
		return nil
	}
	names := []string{best}
	for _, c := range r.Table.Columns() {
		if c.Name != best && c.Name != r.ID && (called(c.Name, "alias", "aliases", "alternative", "alternatives", "aka", "synonym", "synonyms", "former", "variants") || called(c.Name, "name", "names") && called(c.Name, "other", "alt", "old", "previous", "short", "official")) {
			names = append(names, c.Name)
		}
	}
	return names
}

// Count says how many combinations and rows are in a state.
func (a *Answers) Count(state State) (combinations, rows int) {
	for _, answer := range a.Of {
		if answer.State == state {
			combinations++
			rows += answer.Rows
		}
	}
	return combinations, rows
}
