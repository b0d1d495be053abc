// Package entry has the kinds of change that can be made to a table. An entry is a
// pure function from a table and its parameters to another table and an effect; a
// preview is the same function with nothing stored. Each kind is one file here.
//
// Every entry balances: rows before + added - set aside - merged = rows after. Apply
// refuses to give out a result that does not.
package entry

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Entry is one change with its parameters.
type Entry interface {
	// Words says what the entry does as the start of a sentence, without counts.
	Words() string
	// apply works the change out. The table it is given is never altered.
	apply(ctx context.Context, t *table.Table, in Inputs) (*Result, error)
}

// Inputs gives an entry what it needs beside the table.
type Inputs struct {
	// Aside gives the base rows that an earlier entry of the same table set aside.
	Aside func(number int) (*table.Selection, error)
	// Tables gives another table of the book at a revision, or as it stands where that is 0,
	// and which revision it gave.
	Tables func(name string, revision int64) (*table.Table, int64, error)
	// Taken gives so a table that rows of this one were taken apart into; the first shared base rows
	// of both are the same. It is nil where the rows are not those they were.
	Taken func(name string, revision int64) (of *table.Table, at int64, shared int, err error)
}

// Balance is the row account of an entry.
type Balance struct {
	Before   int `json:"before"`
	Added    int `json:"added"`
	SetAside int `json:"setAside"`
	Merged   int `json:"merged"`
	After    int `json:"after"`
}

// Check says whether the account comes out and agrees with the rows of the result.
func (b Balance) Check(rows int) error {
	if b.Before+b.Added-b.SetAside-b.Merged != b.After || b.After != rows {
		return fmt.Errorf("entry does not balance: %d before + %d added - %d set aside - %d merged is not %d after (the table has %d)",
			b.Before, b.Added, b.SetAside, b.Merged, b.After, rows)
	}
	return nil
}

// ColumnEffect is what an entry does to one column.
type ColumnEffect struct {
	Column         string       `json:"column"`
	Cells          int          `json:"cells"`             // cells rewritten
	Dropped        int          `json:"dropped,omitempty"` // cells of merged rows that said something else than the one that stays
	Differ         int          `json:"differ,omitempty"`  // groups of merged rows whose cells are not all the same
	DistinctBefore int          `json:"distinctBefore"`
	DistinctAfter  int          `json:"distinctAfter"`
	Top            []tally.Line `json:"top,omitempty"` // of a new column, or one split into rows, its most frequent values
}

// Pair is a distinct value that changes, with the rows it stands in. Collides is set
// where the new value is the result of another value too, or already stood there.
type Pair struct {
	Column   string `json:"column"`
	From     string `json:"from"`
	To       string `json:"to"`
	Rows     int    `json:"rows"`
	Collides bool   `json:"collides"`
}

// Effect is what an entry did, or would do, counted over all rows.
type Effect struct {
	Balance Balance        `json:"balance"`
	Columns []ColumnEffect `json:"columns"`
	Pairs   []Pair         `json:"pairs"`   // most rows first, at most MaxPairs
	Changed int            `json:"changed"` // distinct values that change, listed or not
	// Unread is the rows that the rule by which one of a group is kept could not compare.
	Unread int `json:"unread,omitempty"`
	// Shape is the columns before and after, where the entry changes which there are.
	Shape *Shape `json:"shape,omitempty"`
	// Evaluation is what a formula came to.
	Evaluation *Evaluation `json:"evaluation,omitempty"`
	// Readings is what a change of reading comes to.
	Readings []ReadingEffect `json:"readings,omitempty"`
}

// MaxPairs is how many changed values an effect lists.
const MaxPairs = 200

// Result is the table after an entry, its effect, and the base rows it set aside.
type Result struct {
	Table  *table.Table
	Effect Effect
	Aside  *table.Selection // nil where no row was set aside
}

// kinds is the registry: the name of each kind and how to make an empty one.
var kinds = map[string]func() Entry{
	"tidy":       func() Entry { return &Tidy{} },
	"values":     func() Entry { return &Values{} },
	"duplicates": func() Entry { return &Duplicates{} },
	"return":     func() Entry { return &Return{} },
	"putback":    func() Entry { return &PutBack{} },
	"rows":       func() Entry { return &Rows{} },
	"beside":     func() Entry { return &Beside{} },
	"reading":    func() Entry { return &Reading{} },
	"columns":    func() Entry { return &Columns{} },
	"split":      func() Entry { return &Split{} },
	"combine":    func() Entry { return &Combine{} },
	"fill":       func() Entry { return &Fill{} },
	"number":     func() Entry { return &Number{} },
	"formula":    func() Entry { return &Formula{} },
	"cell":       func() Entry { return &Cell{} },
	"gather":     func() Entry { return &Gather{} },
	"merge":      func() Entry { return &Merge{} },
	"add":        func() Entry { return &Add{} },
	"review":     func() Entry { return &Review{} },
	"check":      func() Entry { return &Check{} },
	"mark":       func() Entry { return &Mark{} },
	"renumber":   func() Entry { return &Renumber{} },
	"identify":   func() Entry { return &Identify{} },
}

// whole are the kinds that concern all rows, or one alone, and cannot be narrowed by a condition: they change
// which columns there are, or how one is read.
var whole = map[string]bool{"reading": true, "beside": true, "columns": true, "split": true, "combine": true, "number": true, "cell": true, "gather": true, "merge": true, "putback": true, "add": true, "review": true, "check": true, "mark": true, "renumber": true, "identify": true}

// Kinds lists the registered kinds by name.
func Kinds() []string {
	var names []string
	for name := range kinds {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// Decode reads an entry of a kind from its JSON parameters; unknown fields are refused. A
// condition among them, "where", narrows the entry to the rows that hold it.
func Decode(kind string, params []byte) (Entry, error) {
	empty, ok := kinds[kind]
	if !ok {
		return nil, problem.New("", "there is no kind of entry called %q", kind)
	}
	e := empty()
	where, params, err := narrow(params)
	if err != nil {
		return nil, err
	}
	d := json.NewDecoder(bytes.NewReader(params))
	d.DisallowUnknownFields()
	if err := d.Decode(e); err != nil {
		return nil, problem.New("", "the parameters of the %s entry cannot be read: %v", kind, err)
	}
	if where != nil {
		if err := where.Check(); err != nil {
			return nil, err
		}
		if whole[kind] {
			return nil, problem.New("Post it without the condition", "the entry concerns the whole column")
		}
		return &narrowed{e, *where}, nil
	}
	return e, nil
}

// Apply works an entry out over all rows of a table.
func Apply(ctx context.Context, e Entry, t *table.Table, in Inputs) (*Result, error) {
	r, err := e.apply(ctx, t, in)
	if err != nil {
		return nil, err
	}
	if err := r.Effect.Balance.Check(r.Table.Rows()); err != nil {
		return nil, err
	}
	return r, nil
}

// column finds a column or says which there are.
func column(t *table.Table, name string) (*table.Column, int, error) {
	c, i, err := t.Column(name)
	if err != nil {
		p := problem.New("Choose a column the table has now", "the table has no column %q", name)
		p.Column = name
		return nil, 0, p
	}
	return c, i, nil
}
