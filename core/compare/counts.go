package compare

import (
	"cmp"
	"slices"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Counts is how often each value of a column stands in two tables, with figures of other columns:
// what a steward looks at to believe a clean-up.
type Counts struct {
	Lines  []CountLine `json:"lines"`  // most changed first, then most rows
	Values int         `json:"values"` // of both tables together
	Differ int         `json:"differ"` // of them, those in another number of rows
}

// CountLine is a value in both tables. Figures are to the last decimal, "" where there is none.
type CountLine struct {
	Value         string   `json:"value"`
	Before        int      `json:"before"`
	After         int      `json:"after"`
	FiguresBefore []string `json:"figuresBefore"`
	FiguresAfter  []string `json:"figuresAfter"`
}

// CountsOf counts by a column that either table may call otherwise; the measures are of columns that
// both have. Cost: O(distinct) for the values and O(rows) for each measure.
func CountsOf(before, after *table.Table, by Pair, measures []tally.Measure, lines int) (*Counts, error) {
	sides := [2]*table.Table{before, after}
	var columns [2]*table.Column
	for i, name := range []string{by.Before, by.After} {
		c, _, err := sides[i].Column(name)
		if err != nil {
			p := problem.New("Choose a column the table has", "the %s table has no column %q", []string{"first", "second"}[i], name)
			p.Column = name
			return nil, p
		}
		columns[i] = c
	}
	at := map[string]int{}
	out := &Counts{}
	for i, c := range columns {
		for code, rows := range sides[i].Counts(c) {
			if rows == 0 {
				continue
			}
			v := c.Dict.Value(uint32(code)) // "" of a missing cell: blank as an empty one is
			n, known := at[v]
			if !known {
				n = len(out.Lines)
				at[v] = n
				out.Lines = append(out.Lines, CountLine{Value: v, FiguresBefore: []string{}, FiguresAfter: []string{}})
			}
			if i == 0 {
				out.Lines[n].Before += int(rows)
			} else {
				out.Lines[n].After += int(rows)
			}
		}
	}
	out.Values = len(out.Lines)
	for _, l := range out.Lines {
		if l.Before != l.After {
			out.Differ++
		}
	}
	off := func(l CountLine) int { return max(l.Before-l.After, l.After-l.Before) }
	slices.SortFunc(out.Lines, func(a, b CountLine) int {
		return cmp.Or(cmp.Compare(off(b), off(a)), cmp.Compare(max(b.Before, b.After), max(a.Before, a.After)), cmp.Compare(a.Value, b.Value))
	})
	out.Lines = slices.Clone(out.Lines[:min(lines, len(out.Lines))])
	if len(measures) == 0 {
		return out, nil
	}
	var values []string
	for _, l := range out.Lines {
		values = append(values, l.Value)
	}
	for i, c := range columns {
		for _, m := range measures {
			if _, _, err := sides[i].Column(m.Column); m.Column != "" && err != nil {
				p := problem.New("Choose a column that both tables have", "the %s table has no column %q", []string{"first", "second"}[i], m.Column)
				p.Column = m.Column
				return nil, p
			}
		}
		measured, err := tally.MeasuresOf(sides[i], c, measures, values)
		if err != nil {
			return nil, err
		}
		for n, l := range measured.Lines {
			if i == 0 {
				out.Lines[n].FiguresBefore = l.Written
			} else {
				out.Lines[n].FiguresAfter = l.Written
			}
		}
	}
	return out, nil
}
