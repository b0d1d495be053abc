// Package watch checks rules that a table is to hold: a key is unique, every value is in a crosswalk, a
// total lies within bounds, no row holds a condition. A watch changes nothing; it says how many rows
// break it, and which.
package watch

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"grandledger/core/condition"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Kind is what a watch asks.
type Kind string

// The kinds of watch.
const (
	Unique Kind = "unique" // no two rows have the same key
	Known  Kind = "known"  // every value of a column is in a crosswalk, as a spelling or a standard value
	Total  Kind = "total"  // the sum of a column lies within bounds
	None   Kind = "none"   // no row holds a condition
)

// Rule is a watch with its parameters.
type Rule struct {
	Kind      Kind                    `json:"kind"`
	Key       []string                `json:"key,omitempty"`       // of unique
	As        map[string]duplicate.As `json:"as,omitempty"`        // how its columns are compared, where not to the letter
	Column    string                  `json:"column,omitempty"`    // of known and total
	Crosswalk string                  `json:"crosswalk,omitempty"` // of known
	Least     string                  `json:"least,omitempty"`     // of total: a number with a decimal point, or none
	Most      string                  `json:"most,omitempty"`
	Where     *condition.Condition    `json:"where,omitempty"` // of none
}

// Finding is what a watch comes to on a table.
type Finding struct {
	Holds   bool         `json:"holds"`
	Against int          `json:"against"` // rows that break it; of a total that does not hold, all rows it adds up
	Figure  string       `json:"figure"`  // of total: the sum
	Unread  int          `json:"unread"`  // of total: rows that are no number
	Values  []tally.Line `json:"values"`  // of known: values that are not in the crosswalk, most rows first, 50 at most

	rows func(from, n int) []int
}

// Rows lists the positions of rows that break the watch, n after skipping from: equal rows behind
// one another, otherwise in order. A total has none. Cost: O(rows).
func (f *Finding) Rows(from, n int) []int {
	if f.rows == nil {
		return []int{}
	}
	return f.rows(from, n)
}

const maxValues = 50

// Words says what has to hold.
func (r Rule) Words() string {
	switch r.Kind {
	case Unique:
		names := slices.Clone(r.Key)
		for i, name := range names {
			if as := r.As[name]; as != duplicate.Exact {
				names[i] += " (" + map[duplicate.As]string{duplicate.Folded: "folded", duplicate.Words: "words in any order", duplicate.Read: "as it is read"}[as] + ")"
			}
		}
		return strings.Join(names, " + ") + map[bool]string{true: " is unique", false: " are unique together"}[len(names) == 1]
	case Known:
		return "every " + r.Column + " is in the crosswalk " + r.Crosswalk
	case Total:
		switch {
		case r.Most == "":
			return "the total of " + r.Column + " is at least " + r.Least
		case r.Least == "":
			return "the total of " + r.Column + " is at most " + r.Most
		}
		return "the total of " + r.Column + " is between " + r.Least + " and " + r.Most
	}
	if r.Where != nil {
		return "there is no row where " + r.Where.Words()
	}
	return ""
}

// Check refuses a rule that does not say enough, whatever the table.
func (r Rule) Check() error {
	switch {
	case r.Kind == Unique && len(r.Key) == 0:
		return problem.New("Choose the columns that are to be unique", "the watch has no key")
	case r.Kind == Known && (r.Column == "" || strings.TrimSpace(r.Crosswalk) == ""):
		return problem.New("Choose a column and a crosswalk", "the watch does not say which values are known")
	case r.Kind == Total && (r.Column == "" || r.Least == "" && r.Most == ""):
		return problem.New("Choose a column, and give the least, the most or both", "the watch has no total, or no bounds")
	case r.Kind == None && r.Where == nil:
		return problem.New("Give a condition that no row may hold", "the watch has no condition")
	case !slices.Contains([]Kind{Unique, Known, Total, None}, r.Kind):
		return problem.New("Use unique, known, total or none", "there is no kind of watch called %q", r.Kind)
	}
	for _, bound := range []string{r.Least, r.Most} {
		if _, err := decimal.NewFromString(bound); bound != "" && (err != nil || len(bound) > 60) {
			return problem.New("Write it in figures, with a point before decimals", "the bound “%s” is no number", bound)
		}
	}
	if r.Where != nil {
		return r.Where.Check()
	}
	return nil
}

// Look checks a table. known says of a crosswalk which values it has. Cost: O(rows x key columns) for a
// key, O(distinct) for a crosswalk and a total, that of the condition otherwise.
func (r Rule) Look(ctx context.Context, t *table.Table, known func(crosswalk string) (func(value string) bool, error)) (*Finding, error) {
	if err := r.Check(); err != nil {
		return nil, err
	}
	switch r.Kind {
	case Unique:
		return r.unique(t)
	case Known:
		has, err := known(r.Crosswalk)
		if err != nil {
			return nil, err
		}
		return r.known(t, has)
	case Total:
		return r.total(t)
	}
	part, _, err := condition.Narrow(ctx, t, r.Where)
	if err != nil {
		return nil, err
	}
	f := &Finding{Holds: part.Rows() == 0, Against: part.Rows(), Values: []tally.Line{}}
	at := map[uint32]bool{}
	f.rows = func(from, n int) []int {
		for row := range min(from+n, part.Rows()) {
			at[part.BaseRow(row)] = true
		}
		return picked(t, func(row int) bool { return at[t.BaseRow(row)] }, from, n)
	}
	return f, nil
}

func column(t *table.Table, name string) (*table.Column, error) {
	c, _, err := t.Column(name)
	if err != nil {
		p := problem.New("Mend the watch, or the name of the column", "the table has no column %q", name)
		p.Column = name
		return nil, p
	}
	return c, nil
}

func (r Rule) unique(t *table.Table) (*Finding, error) {
	var key []duplicate.Key
	for _, name := range r.Key {
		c, err := column(t, name)
		if err != nil {
			return nil, err
		}
		key = append(key, duplicate.Key{Column: c, As: r.As[name]})
	}
	g := duplicate.Find(t, key, false)
	s := g.Summary()
	f := &Finding{Holds: s.Groups == 0, Against: s.Repeats + s.Groups, Values: []tally.Line{}}
	f.rows = func(from, n int) []int {
		out := []int{}
		for _, group := range g.Largest(t, duplicate.Rule{}, nil, 0, from+n, from+n) {
			if out = append(out, group.Rows...); len(out) >= from+n {
				break
			}
		}
		return out[min(from, len(out)):min(from+n, len(out))]
	}
	return f, nil
}

func (r Rule) known(t *table.Table, has func(string) bool) (*Finding, error) {
	c, err := column(t, r.Column)
	if err != nil {
		return nil, err
	}
	f := &Finding{Values: []tally.Line{}}
	unknown := make([]bool, c.Dict.Len()+1)
	for code, rows := range t.Counts(c) {
		v := c.Dict.Value(uint32(code))
		if rows == 0 || strings.TrimSpace(v) == "" || has(v) {
			continue
		}
		unknown[code] = true
		f.Against += int(rows)
		f.Values = append(f.Values, tally.Line{Value: v, Rows: int(rows)})
	}
	slices.SortFunc(f.Values, func(a, b tally.Line) int { return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.Value, b.Value)) })
	f.Holds, f.Values = f.Against == 0, slices.Clone(f.Values[:min(maxValues, len(f.Values))])
	f.rows = func(from, n int) []int {
		return picked(t, func(row int) bool { return unknown[c.Code(t.BaseRow(row))] }, from, n)
	}
	return f, nil
}

// picked lists the positions of rows that are meant.
func picked(t *table.Table, is func(row int) bool, from, n int) []int {
	out := []int{}
	for row := 0; row < t.Rows() && len(out) < from+n; row++ {
		if is(row) {
			out = append(out, row)
		}
	}
	return out[min(from, len(out)):]
}

func (r Rule) total(t *table.Table) (*Finding, error) {
	c, err := column(t, r.Column)
	if err != nil {
		return nil, err
	}
	read := c.Effective()
	if read.Kind != reading.Number {
		p := problem.New("Read it as numbers first", "%s cannot be added up, as it is read as %s", r.Column, read.Words())
		p.Column = r.Column
		return nil, p
	}
	f := &Finding{Values: []tally.Line{}}
	sum, places, added := decimal.Zero, int32(0), 0
	for code, rows := range t.Counts(c) {
		v := c.Dict.Value(uint32(code))
		if rows == 0 || strings.TrimSpace(v) == "" {
			continue
		}
		d, ok := read.Exact(v)
		if !ok {
			f.Unread += int(rows)
			continue
		}
		added += int(rows)
		places = max(places, -d.Exponent())
		sum = sum.Add(d.Mul(decimal.NewFromInt(int64(rows))))
	}
	f.Figure = sum.StringFixed(places)
	f.Holds = true
	if least, err := decimal.NewFromString(r.Least); err == nil && sum.LessThan(least) {
		f.Holds = false
	}
	if most, err := decimal.NewFromString(r.Most); err == nil && sum.GreaterThan(most) {
		f.Holds = false
	}
	if !f.Holds {
		f.Against = added
	}
	return f, nil
}
