package linkage

import (
	"math"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/survivorship"
	"grandledger/core/table"
)

// The rules by which a golden value comes from one record that goes before the others, beside those of package survivorship.
const (
	// Fullest takes it from the record that says most: the one with the most attributes that are not blank.
	Fullest survivorship.Rule = "fullest"
	// Newest takes it from the record with the latest date, of the first attribute of dates, or of the one named behind a colon: newest:registered on.
	Newest survivorship.Rule = "newest"
	// Nearest takes it from the record that is tied to the others by the most: whose links weigh most together.
	Nearest survivorship.Rule = "nearest"
)

// ranks gives for a rule of this package how far each record goes before others, the higher the earlier; nil where the rule is none of this package.
func (r *Result) ranks(all *table.Table, rule survivorship.Rule) ([]float64, error) {
	name, of, _ := strings.Cut(string(rule), ":")
	n := all.Rows()
	switch survivorship.Rule(name) {
	case Fullest:
		out := make([]float64, n)
		for _, c := range all.Columns() {
			blank := map[uint32]bool{0: true}
			for _, code := range c.Dict.Blank() {
				blank[code] = true
			}
			for row := range n {
				if !blank[c.Code(all.BaseRow(row))] {
					out[row]++
				}
			}
		}
		return out, nil
	case Nearest:
		out := make([]float64, n)
		for _, p := range r.Pairs {
			if p.Verdict == Linked {
				out[p.a] += p.Weight
				out[p.b] += p.Weight
			}
		}
		return out, nil
	case Newest:
		at := slices.IndexFunc(r.Spec.Attributes, func(a Attribute) bool { return of == "" && a.Kind == Date || of != "" && a.Name == of })
		if at < 0 {
			return nil, problem.New("Name an attribute of dates, as newest:NAME", "nothing says which record is the newest: there is no attribute of dates %q", of)
		}
		c, _, err := all.Column(r.Spec.Attributes[at].Columns[0][0])
		if err != nil {
			return nil, err
		}
		how := c.Sampled(maxLooked)
		if how.Kind != reading.Date {
			return nil, problem.New("Change its reading to a date", "%s is read as %s, by which no record is the newest", c.Name, how.Words())
		}
		read := c.Dict.ReadAs(how)
		out := make([]float64, n)
		for row := range n {
			code := c.Code(all.BaseRow(row))
			if out[row] = math.Inf(-1); read.OK[code] {
				out[row] = read.At[code]
			}
		}
		return out, nil
	}
	return nil, nil
}

// foremost takes of each group the first value that is not blank, the records with the highest rank first, of equals the first. It counts the groups whose values differ. Cost: O(rows).
func foremost(t *table.Table, c *table.Column, groups survivorship.Groups, ranks []float64) (codes []uint32, dict *table.Dict, differ int) {
	blank := make([]bool, c.Dict.Len()+1)
	blank[0] = true
	for _, code := range c.Dict.Blank() {
		blank[code] = true
	}
	best := make([]int, groups.Len())
	differs := make([]bool, groups.Len())
	for g := range best {
		best[g] = -1
	}
	for row, g := range groups.Group {
		code := c.Code(t.BaseRow(row))
		if blank[code] {
			continue
		}
		if best[g] >= 0 && c.Code(t.BaseRow(best[g])) != code {
			differs[g] = true
		}
		if best[g] < 0 || ranks[row] > ranks[best[g]] {
			best[g] = row
		}
	}
	b := table.NewDictBuilder()
	now := make([]uint32, c.Dict.Len()+1)
	codes = make([]uint32, groups.Len())
	for g, row := range best {
		if row < 0 {
			row = int(groups.First[g])
		}
		code := c.Code(t.BaseRow(row))
		if code > 0 && now[code] == 0 {
			now[code] = b.Add(c.Dict.Value(code))
		}
		codes[g] = now[code]
		if differs[g] {
			differ++
		}
	}
	return codes, b.Dict(), differ
}
