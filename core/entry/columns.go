package entry

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Columns renames, orders, copies and drops the columns of a table: those listed are the ones
// it has afterwards.
type Columns struct {
	Columns []ColumnAs `json:"columns"`
}

// ColumnAs is a column and the name it has afterwards; empty keeps its name.
type ColumnAs struct {
	From string `json:"from"`
	As   string `json:"as,omitempty"`
}

func (c ColumnAs) name() string {
	if as := strings.TrimSpace(c.As); as != "" {
		return as
	}
	return c.From
}

// Words names what is renamed and counts the rest.
func (e *Columns) Words() string {
	var renamed []string
	seen := map[string]bool{}
	copied := 0
	for _, c := range e.Columns {
		switch {
		case seen[c.From]:
			copied++
		case c.name() != c.From:
			renamed = append(renamed, fmt.Sprintf("%s to %s", c.From, c.name()))
		}
		seen[c.From] = true
	}
	switch {
	case len(renamed) > 3:
		return fmt.Sprintf("Rename %d columns and set their order", len(renamed))
	case len(renamed) > 0:
		return "Rename " + listing(renamed)
	case copied > 0:
		return fmt.Sprintf("Copy columns: %d more", copied)
	}
	return fmt.Sprintf("Keep %d columns, in a new order", len(e.Columns))
}

// Cost: O(distinct) to count; no row is touched.
func (e *Columns) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Columns) == 0 {
		return nil, problem.New("Keep at least one column", "no column would be left")
	}
	n := t.Rows()
	effect := Effect{Balance: Balance{Before: n, After: n}}
	var columns []*table.Column
	kept := map[string]bool{}
	for _, choice := range e.Columns {
		c, _, err := column(t, choice.From)
		if err != nil {
			return nil, err
		}
		named := *c
		named.Name = choice.name()
		columns = append(columns, &named)
		if kept[c.Name] {
			effect.Columns = append(effect.Columns, added(t, &named))
		}
		kept[c.Name] = true
	}
	for _, c := range t.Columns() {
		if !kept[c.Name] {
			effect.Columns = append(effect.Columns, ColumnEffect{Column: c.Name, Cells: n, DistinctBefore: distinct(t.Counts(c))})
		}
	}
	out, err := shaped(t, columns, &effect)
	if err != nil {
		return nil, err
	}
	return &Result{Table: out, Effect: effect}, nil
}

// added is the effect of a new column on the account.
func added(t *table.Table, c *table.Column) ColumnEffect {
	counts := t.Counts(c)
	return ColumnEffect{Column: c.Name, Cells: t.Rows(), DistinctAfter: distinct(counts), Top: tally.Top(c, counts, 3)}
}

// Shape is the columns of a table before and after an entry that changes which there are.
type Shape struct {
	Before []string `json:"before"`
	After  []string `json:"after"`
}

// shaped gives the table with other columns and notes them in the effect.
func shaped(t *table.Table, columns []*table.Column, effect *Effect) (*table.Table, error) {
	if len(columns) > maxColumns {
		return nil, problem.New("Split into fewer columns", "the table would have %d columns, at most %d can stand", len(columns), maxColumns)
	}
	out, err := t.WithColumns(columns)
	if err != nil {
		return nil, problem.New("Give each column a name of its own", "%v", err)
	}
	effect.Shape = &Shape{names(t), names(out)}
	if slices.Equal(effect.Shape.Before, effect.Shape.After) {
		return nil, problem.New("Change a name, the order, or which columns stay", "the columns would be as they are")
	}
	return out, nil
}

// maxColumns is how many columns a table has at most.
const maxColumns = 16_384

func names(t *table.Table) []string {
	var out []string
	for _, c := range t.Columns() {
		out = append(out, c.Name)
	}
	return out
}

// free gives names that the table has not yet, those asked for where it can.
func free(t *table.Table, wanted []string) []string {
	used := map[string]bool{}
	for _, name := range names(t) {
		used[name] = true
	}
	out := make([]string, len(wanted))
	for i, name := range wanted {
		base := name
		for n := 2; used[name]; n++ {
			name = fmt.Sprintf("%s (%d)", base, n)
		}
		used[name] = true
		out[i] = name
	}
	return out
}
