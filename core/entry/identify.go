package entry

import (
	"context"
	"fmt"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Identify brings home what an authority says of the values of a column, or of combinations of several: their identifiers, standard names and properties become columns. Rows whose combination is not
// among the lines have no cell in them; they wait to be asked.
type Identify struct {
	From    string         `json:"from"`    // the authority
	On      []string       `json:"on"`      // the columns that were asked for
	Columns []string       `json:"columns"` // the names of the new ones
	Lines   []IdentifyLine `json:"lines"`
}

// IdentifyLine is what is known of one combination.
type IdentifyLine struct {
	Of    []string `json:"of"`    // a value of each column of On
	Cells []string `json:"cells"` // a cell of each new column; an empty one is none
}

const maxIdentified = 500_000 // lines of an entry

// Words names the columns.
func (e *Identify) Words() string {
	if len(e.On) == 0 {
		return "Identify by " + e.From
	}
	return fmt.Sprintf("Identify %s by %s, as %s", e.On[0], e.From, listing(e.Columns))
}

// Cost: O(base rows) for the combinations, and O(lines).
func (e *Identify) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.On) == 0 || len(e.Columns) == 0 || len(e.Lines) > maxIdentified {
		return nil, problem.New("Ask the authority first", "nothing is brought home, or more than %d combinations", maxIdentified)
	}
	on := make([]*table.Column, len(e.On))
	for i, name := range e.On {
		c, _, err := column(t, name)
		if err != nil {
			return nil, err
		}
		on[i] = c
	}
	// A combination is known by the codes of its values; those with a value the column does not have are of no row.
	key := func(codes []uint32) string {
		b := make([]byte, 0, 4*len(codes))
		for _, code := range codes {
			b = append(b, byte(code), byte(code>>8), byte(code>>16), byte(code>>24))
		}
		return string(b)
	}
	at := make([]map[string]uint32, len(on))
	for i, c := range on {
		at[i] = map[string]uint32{}
		for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
			at[i][c.Dict.Value(code)] = code
		}
	}
	builders := make([]*table.DictBuilder, len(e.Columns))
	for i := range builders {
		builders[i] = table.NewDictBuilder()
	}
	known := map[string][]uint32{}
	for n, l := range e.Lines {
		if len(l.Of) != len(on) || len(l.Cells) != len(e.Columns) {
			return nil, problem.New("", "line %d has %d values and %d cells, there are %d and %d columns", n+1, len(l.Of), len(l.Cells), len(on), len(e.Columns))
		}
		codes := make([]uint32, len(on))
		whole := true
		for i, v := range l.Of {
			code, ok := at[i][v]
			codes[i] = code
			whole = whole && (ok || v == "")
		}
		if !whole {
			continue
		}
		cells := make([]uint32, len(l.Cells))
		for i, v := range l.Cells {
			if v != "" {
				cells[i] = builders[i].Add(v)
			}
		}
		known[key(codes)] = cells
	}
	made := make([][]uint32, len(e.Columns))
	for i := range made {
		made[i] = make([]uint32, t.Base())
	}
	n := t.Rows()
	effect := Effect{Balance: Balance{Before: n, After: n}}
	used := make([]map[uint32]bool, len(e.Columns))
	for i := range used {
		used[i] = map[uint32]bool{}
	}
	codes := make([]uint32, len(on))
	for row := range n {
		base := t.BaseRow(row)
		for i, c := range on {
			codes[i] = c.Code(base)
		}
		for i, code := range known[key(codes)] {
			if code > 0 {
				made[i][base] = code
				used[i][code] = true
			}
		}
	}
	columns := append([]*table.Column{}, t.Columns()...)
	for i, name := range e.Columns {
		columns = append(columns, &table.Column{Name: name, Codes: &table.Codes{At: made[i]}, Dict: builders[i].Dict()})
		effect.Columns = append(effect.Columns, ColumnEffect{Column: name, Cells: n, DistinctAfter: len(used[i])})
	}
	out, err := t.WithColumns(columns)
	if err != nil {
		return nil, problem.New("Give it another name", "%v", err)
	}
	return &Result{Table: out, Effect: effect}, nil
}
