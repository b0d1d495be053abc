package tidy

import (
	"fmt"
	"runtime"
	"sync"

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
// distinct values) for each step, on all cores.
func Suggest(t *table.Table) []Suggestion {
	columns := t.Columns()
	found := make([][]need, len(columns))
	var work sync.WaitGroup
	for worker := range runtime.GOMAXPROCS(0) {
		work.Go(func() {
			for i := worker; i < len(columns); i += runtime.GOMAXPROCS(0) {
				found[i] = needs(t, columns[i])
			}
		})
	}
	work.Wait()
	out := []Suggestion{}
	for i, s := range suggested {
		all := Suggestion{Step: Step{Op: s.op}, Columns: []string{}}
		most := 0
		for at, c := range columns {
			n := found[at][i]
			if n.values == 0 {
				continue
			}
			all.Columns = append(all.Columns, c.Name)
			all.Values += n.values
			all.Rows += n.rows
			if n.most > most {
				most, all.Example, all.Becomes = n.most, n.example, n.becomes
			}
		}
		if all.Values > 0 {
			words := s.others
			if all.Values == 1 {
				words = s.one
			}
			all.Words = fmt.Sprintf("%d %s", all.Values, words)
			out = append(out, all)
		}
	}
	return out
}

// need is what one step would change in one column.
type need struct {
	values, rows, most int // most: rows of the example
	example, becomes   string
}

func needs(t *table.Table, c *table.Column) []need {
	out := make([]need, len(suggested))
	var do []func(string) string
	for _, s := range suggested {
		do = append(do, Step{Op: s.op}.Compile())
	}
	for code, rows := range t.Counts(c) {
		if rows == 0 || code == int(table.Missing) {
			continue
		}
		v := c.Dict.Value(uint32(code))
		for i := range suggested {
			next := do[i](v)
			if next == v || next == "" {
				continue
			}
			n := &out[i]
			n.values++
			n.rows += int(rows)
			if int(rows) > n.most {
				n.most, n.example, n.becomes = int(rows), v, next
			}
		}
	}
	return out
}
