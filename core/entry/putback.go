package entry

import (
	"context"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// PutBack returns rows that were taken apart into a table of their own, as they stand there: with the
// values they were given, without those that were set aside there, and with the rows that were made
// of them.
type PutBack struct {
	Table    string `json:"table"`              // the table they were taken apart into
	Revision int64  `json:"revision,omitempty"` // how it stood; as it stands where this is 0
	Behind   bool   `json:"behind,omitempty"`   // behind the other rows; otherwise where the source has them
}

// Words names the table.
func (e *PutBack) Words() string {
	words := "Put the rows of " + e.Table + " back"
	if e.Behind {
		words += " behind the others"
	}
	return words
}

// Cost: O(base rows) for each column of both tables.
func (e *PutBack) apply(ctx context.Context, t *table.Table, in Inputs) (*Result, error) {
	if in.Taken == nil {
		return nil, problem.New("Leave it out", "the rows of %s are not those of this delivery", e.Table)
	}
	from, revision, shared, err := in.Taken(e.Table, e.Revision)
	if err != nil {
		return nil, err
	}
	e.Revision = revision
	if !table.SameRows(t, from, shared) {
		return nil, problem.New("Take the rows apart again", "the journal was amended since %s was taken apart, so its rows are not those of this table any more", e.Table)
	}
	p := newPuttingBack(t, from, shared)
	if len(p.rows) == 0 {
		return nil, problem.New("Set them aside here first, or leave them where they are", "all rows of %s stand in this table already", e.Table)
	}
	var columns []*table.Column
	var effects []ColumnEffect
	for _, c := range t.Columns() {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		with, _, err := from.Column(c.Name)
		if err != nil {
			with = nil
		}
		columns = append(columns, p.column(c, with))
	}
	for _, c := range from.Columns() {
		if _, _, err := t.Column(c.Name); err != nil {
			columns = append(columns, p.column(nil, c))
		}
	}
	if len(columns) > maxColumns {
		return nil, problem.New("Leave columns out there first", "the table would have %d columns, at most %d can stand", len(columns), maxColumns)
	}
	made, err := table.New(columns, t.Base()+p.made, p.origins()...)
	if err != nil {
		return nil, problem.New("Narrow the table first", "%v", err)
	}
	rows := make([]uint32, 0, t.Rows()+len(p.rows))
	for row := range t.Rows() {
		rows = append(rows, t.BaseRow(row))
	}
	for _, r := range p.rows {
		rows = append(rows, r.base)
	}
	if !e.Behind {
		sortBySource(made, rows)
	}
	out := made.Select(&table.Selection{Rows: rows})
	for i, c := range columns {
		effect := ColumnEffect{Column: c.Name, DistinctAfter: distinct(out.Counts(c))}
		var was *table.Column
		if i < len(t.Columns()) {
			was = t.Columns()[i]
			effect.DistinctBefore = distinct(t.Counts(was))
		}
		if effect.Cells = p.changed(was, c); effect.Cells > 0 {
			effects = append(effects, effect)
		}
	}
	effect := Effect{Balance: Balance{Before: t.Rows(), Added: len(p.rows), After: len(rows)}, Columns: effects}
	if len(columns) > len(t.Columns()) {
		effect.Shape = &Shape{names(t), names(made)}
	}
	return &Result{Table: out, Effect: effect}, nil
}

// puttingBack is rows of one table on their way into another.
type puttingBack struct {
	t, from *table.Table
	rows    []backRow
	made    int // of them, those that are base rows of from alone
}

// backRow is a row that comes back: its base row here, and there.
type backRow struct{ base, there uint32 }

// newPuttingBack finds the rows that do not stand. The first shared base rows of both are the same.
func newPuttingBack(t, from *table.Table, shared int) *puttingBack {
	p := &puttingBack{t: t, from: from}
	stands := make([]bool, t.Base())
	for row := range t.Rows() {
		stands[t.BaseRow(row)] = true
	}
	for row := range from.Rows() {
		there := from.BaseRow(row)
		switch {
		case int(there) >= shared:
			p.rows = append(p.rows, backRow{uint32(t.Base() + p.made), there})
			p.made++
		case !stands[there]:
			p.rows = append(p.rows, backRow{there, there})
		}
	}
	return p
}

// column is one of the table with the cells of the rows that come back from another; either may be
// nil where one of the tables has no such column.
func (p *puttingBack) column(c, with *table.Column) *table.Column {
	b := table.NewDictBuilder()
	add := func(of *table.Column) []uint32 {
		if of == nil {
			return nil
		}
		to := make([]uint32, of.Dict.Len()+1)
		for code := uint32(1); code < uint32(len(to)); code++ {
			to[code] = b.Add(of.Dict.Value(code))
		}
		return to
	}
	own, theirs := add(c), add(with)
	codes := make([]uint32, p.t.Base()+p.made)
	if c != nil {
		for base := range p.t.Base() {
			codes[base] = own[c.Code(uint32(base))]
		}
	}
	if with != nil {
		for _, r := range p.rows {
			codes[r.base] = theirs[with.Code(r.there)]
		}
	}
	var next table.Column
	if c != nil {
		next = *c
	} else {
		next = *with
	}
	next.Codes, next.View, next.Dict = &table.Codes{At: codes}, nil, b.Dict()
	return &next
}

// changed counts the cells of the rows that come back which hold something else than they did.
func (p *puttingBack) changed(was, is *table.Column) int {
	n := 0
	for _, r := range p.rows {
		now, held := is.Value(r.base)
		if was == nil || int(r.base) >= p.t.Base() {
			if held {
				n++
			}
			continue
		}
		if before, had := was.Value(r.base); before != now || had != held {
			n++
		}
	}
	return n
}

// origins says where the rows came from, those made in the other table as it says.
func (p *puttingBack) origins() []table.Origin {
	if p.made == 0 {
		return p.t.Origins()
	}
	var out []table.Origin
	for i, o := range p.t.Origins() {
		rows := make([]uint32, p.t.Base()+p.made)
		for base := range p.t.Base() {
			rows[base] = o.Row(uint32(base))
		}
		for _, r := range p.rows {
			if int(r.base) >= p.t.Base() && i < len(p.from.Origins()) {
				rows[r.base] = p.from.Origins()[i].Row(r.there)
			}
		}
		out = append(out, table.Origin{Source: o.Source, Rows: &table.Codes{At: rows}})
	}
	return out
}
