package tidy

import (
	"fmt"

	"grandledger/core/table"
)

// Suggestion is a step that columns need, with what it would fix.
type Suggestion struct {
	Step    Step     `json:"step"`
	Words   string   `json:"words"` // what it fixes: "31 values have spaces at an edge"
	Columns []string `json:"columns"`
	Values  int      `json:"values"` // distinct values that would change
	Rows    int      `json:"rows"`   // cells that would change
	Example string   `json:"example"`
	Becomes string   `json:"becomes"`
}

// suggested are the steps that are looked for, in the order in which they make sense: what
// cannot be seen first, so that what is looked for after it is not hidden by it.
var suggested = []struct {
	op          Op
	one, others string
}{
	{Invisible, "value holds characters that are not printed", "values hold characters that are not printed"},
	{Punctuation, "value has quotes, dashes or spaces of print", "values have quotes, dashes or spaces of print"},
	{Footnotes, "value ends in a footnote mark", "values end in footnote marks"},
	{Trim, "value has spaces at an edge", "values have spaces at an edge"},
	{Collapse, "value has doubled spaces", "values have doubled spaces"},
}

// Suggest finds what the columns of a table need, each step by itself. Cost: O(bytes of the
// distinct values) for each step.
func Suggest(t *table.Table) []Suggestion {
	out := []Suggestion{}
	for _, s := range suggested {
		found := Suggestion{Step: Step{Op: s.op}, Columns: []string{}}
		do := found.Step.Compile()
		most := 0
		for _, c := range t.Columns() {
			values := 0
			for code, rows := range t.Counts(c) {
				if rows == 0 || code == int(table.Missing) {
					continue
				}
				v := c.Dict.Value(uint32(code))
				next := do(v)
				if next == v || next == "" {
					continue
				}
				values++
				found.Rows += int(rows)
				if int(rows) > most {
					most, found.Example, found.Becomes = int(rows), v, next
				}
			}
			if values > 0 {
				found.Values += values
				found.Columns = append(found.Columns, c.Name)
			}
		}
		if found.Values > 0 {
			words := s.others
			if found.Values == 1 {
				words = s.one
			}
			found.Words = fmt.Sprintf("%d %s", found.Values, words)
			out = append(out, found)
		}
	}
	return out
}
