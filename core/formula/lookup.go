package formula

import (
	"fmt"
	"slices"
	"strings"

	"github.com/expr-lang/expr"
	"github.com/expr-lang/expr/ast"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Tables gives another table by its name, for formulas that look things up in it.
type Tables func(name string) (*table.Table, error)

// lookups are the tables a formula looks into, with the columns it takes cells of and the
// indexes it finds rows by, under the names the formula gives them.
type lookups struct {
	tables  map[string]*table.Table
	columns map[string]*table.Column
	indexes map[string]*index
}

// index finds the rows of a table by what stands in its key columns.
type index struct {
	group map[string]uint32 // of a key: its number, from 1
	rows  [][]uint32        // base rows of each, in order
}

// looking are the functions that look into another table, with the number of names before
// the pairs of a key column and what it must be.
var looking = map[string]int{"lookup": 2, "lookupAll": 2, "lookupCount": 1}

// lookupFunctions documents them; what they give depends on the tables of the book.
var lookupFunctions = []Function{
	{Name: "lookup", Does: "from another table: the cell of the first row whose column is equal; more pairs of column and value narrow it", Example: `lookup("Vessel register", "home_port", "name", vessel)`, Gives: "Port Kestrel"},
	{Name: "lookupAll", Does: "the cells of all such rows, as a list", Example: `lookupAll("Vessel register", "name", "home_port", "Skerry Bay")`, Gives: `["Morning Star","Tern"]`},
	{Name: "lookupCount", Does: "how many such rows there are", Example: `lookupCount("Vessel register", "name", vessel, "year", year)`, Gives: "1"},
}

// lookupCall is a call of one of them in a formula: the tables and columns it names.
type lookupCall struct {
	at     int
	table  string
	column string // empty for a count
	keys   []string
	err    error
}

// called reads a call; nil where it is of another function. Names must stand in the formula
// itself, so that it is known before the first row what it depends on.
func called(function string, n *ast.CallNode) *lookupCall {
	names := looking[function]
	if names == 0 {
		return nil
	}
	c := &lookupCall{at: n.Location().From}
	if len(n.Arguments) < names+2 || (len(n.Arguments)-names)%2 != 0 {
		c.err = problem.New("Give "+map[int]string{1: "the table", 2: "the table, the column to take"}[names]+", and then pairs of a column and what it must be",
			"at character %d: %s has %d arguments", c.at+1, function, len(n.Arguments))
		return c
	}
	name := func(i int) string {
		s, ok := n.Arguments[i].(*ast.StringNode)
		if !ok {
			c.err = problem.New("Write it in quotation marks", "at character %d: the names of tables and columns must stand in the formula itself", n.Arguments[i].Location().From+1)
			return ""
		}
		return s.Value
	}
	c.table = name(0)
	if names == 2 {
		c.column = name(1)
	}
	for i := names; i < len(n.Arguments); i += 2 {
		c.keys = append(c.keys, name(i))
	}
	return c
}

// prepare loads and indexes what the calls look into. Cost: O(rows) and O(distinct) of each
// table and combination of keys.
func (l *lookups) prepare(calls []*lookupCall, tables Tables) error {
	for _, c := range calls {
		if c.err != nil {
			return c.err
		}
		t := l.tables[c.table]
		if t == nil {
			if tables == nil {
				return problem.New("Give the table too", "at character %d: there is no table called %q here", c.at+1, c.table)
			}
			var err error
			if t, err = tables(c.table); err != nil {
				return err
			}
			l.tables[c.table] = t
		}
		if c.column != "" {
			column, err := c.find(t, c.column)
			if err != nil {
				return err
			}
			l.columns[of(c.table, []string{c.column})] = column
		}
		id := of(c.table, c.keys)
		if l.indexes[id] != nil {
			continue
		}
		var keys []*table.Column
		for _, name := range c.keys {
			key, err := c.find(t, name)
			if err != nil {
				return err
			}
			keys = append(keys, key)
		}
		l.indexes[id] = indexed(t, keys)
	}
	return nil
}

// find gives a column of the table by its name, or by the one it has in formulas.
func (c *lookupCall) find(t *table.Table, name string) (*table.Column, error) {
	if column, _, err := t.Column(name); err == nil {
		return column, nil
	}
	names := Names(t)
	if at := slices.Index(names, name); at >= 0 {
		return t.Columns()[at], nil
	}
	return nil, problem.New("Use one of "+strings.Join(names[:min(len(names), 12)], ", "), "at character %d: the table %q has no column %q", c.at+1, c.table, name)
}

// of is the name of an index, or of a column.
func of(name string, columns []string) string { return name + "\x00" + strings.Join(columns, "\x00") }

// indexed makes the index of a table by columns.
func indexed(t *table.Table, keys []*table.Column) *index {
	x := &index{group: map[string]uint32{}, rows: [][]uint32{nil}}
	var numbers []uint32
	n := 0
	for _, c := range keys {
		numbers, n = duplicate.Number(t.LogicalCodes(c), numbers)
	}
	group := make([]uint32, n+1) // two keys that read alike are one
	seen := make([]bool, n+1)
	for row, number := range numbers {
		base := t.BaseRow(row)
		if !seen[number] {
			seen[number] = true
			values := make([]any, len(keys))
			for i, c := range keys {
				if v, ok := c.Value(base); ok {
					values[i] = cell(c.Effective(), v, true)
				}
			}
			if key, ok := joined(values); ok {
				if x.group[key] == 0 {
					x.group[key] = uint32(len(x.rows))
					x.rows = append(x.rows, nil)
				}
				group[number] = x.group[key]
			}
		}
		if g := group[number]; g > 0 {
			x.rows[g] = append(x.rows[g], base)
		}
	}
	return x
}

// joined writes the values of a key; false where one is blank.
func joined(values []any) (string, bool) {
	parts := make([]string, len(values))
	for i, v := range values {
		text, err := write(v)
		if err != nil || strings.TrimSpace(text) == "" {
			return "", false
		}
		parts[i] = text
	}
	return strings.Join(parts, "\x00"), true
}

// options are the functions of one formula.
func (l *lookups) options() []expr.Option {
	find := func(p []any) (column *table.Column, rows []uint32) {
		names := 2
		if len(p)%2 == 1 {
			names = 1
		}
		var keys []string
		var values []any
		for i := names; i < len(p); i += 2 {
			keys, values = append(keys, p[i].(string)), append(values, p[i+1])
		}
		name := p[0].(string)
		x := l.indexes[of(name, keys)]
		if key, ok := joined(values); ok {
			rows = x.rows[x.group[key]]
		}
		if names == 2 {
			column = l.columns[of(name, []string{p[1].(string)})]
		}
		return column, rows
	}
	taken := func(c *table.Column, base uint32) any {
		v, ok := c.Value(base)
		if !ok || strings.TrimSpace(v) == "" {
			return nil
		}
		return cell(c.Effective(), v, true)
	}
	return []expr.Option{
		expr.Function(own("lookup"), func(p ...any) (any, error) {
			c, rows := find(p)
			if len(rows) == 0 {
				return nil, nil
			}
			return taken(c, rows[0]), nil
		}),
		expr.Function(own("lookupAll"), func(p ...any) (any, error) {
			c, rows := find(p)
			if len(rows) > budget {
				return nil, fmt.Errorf("%d rows are equal, more than %d", len(rows), budget)
			}
			out := []any{}
			for _, base := range rows {
				if v := taken(c, base); v != nil {
					out = append(out, v)
				}
			}
			return out, nil
		}),
		expr.Function(own("lookupCount"), func(p ...any) (any, error) {
			_, rows := find(p)
			return len(rows), nil
		}),
	}
}
