package entry

import (
	"bytes"
	"context"
	"encoding/json"
	"slices"

	"grandledger/core/condition"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// narrowed is an entry that concerns only the rows that hold a condition, given as "where"
// among its parameters; all other rows stay as they are.
type narrowed struct {
	Entry
	where condition.Condition
}

// narrow takes the condition out of the parameters of an entry, if they have one.
func narrow(params []byte) (where *condition.Condition, rest []byte, err error) {
	var all map[string]json.RawMessage
	if json.Unmarshal(params, &all) != nil || all["where"] == nil {
		return nil, params, nil
	}
	d := json.NewDecoder(bytes.NewReader(all["where"]))
	d.DisallowUnknownFields()
	if err := d.Decode(&where); err != nil {
		return nil, nil, problem.New("", "the condition of the entry cannot be read: %v", err)
	}
	delete(all, "where")
	rest, err = json.Marshal(all)
	return where, rest, err
}

// Inner is the entry without the condition it is narrowed by, if any.
func Inner(e Entry) Entry {
	if n, ok := e.(*narrowed); ok {
		return n.Entry
	}
	return e
}

// MarshalJSON writes the parameters of the entry with the condition among them, as Decode
// reads them.
func (e *narrowed) MarshalJSON() ([]byte, error) {
	raw, err := json.Marshal(e.Entry)
	if err != nil {
		return nil, err
	}
	all := map[string]json.RawMessage{}
	if err := json.Unmarshal(raw, &all); err != nil {
		return nil, err
	}
	if all["where"], err = json.Marshal(e.where); err != nil {
		return nil, err
	}
	return json.Marshal(all)
}

func (e *narrowed) Words() string { return e.Entry.Words() + ", where " + e.where.Words() }

// Cost: that of the entry on the narrowed table, and O(rows) for each column it changes.
func (e *narrowed) apply(ctx context.Context, t *table.Table, in Inputs) (*Result, error) {
	part, _, err := condition.Narrow(ctx, t, &e.where)
	if err != nil {
		return nil, err
	}
	r, err := e.Entry.apply(ctx, part, in)
	if err != nil || part == t {
		return r, err
	}
	if len(r.Table.Columns()) != len(t.Columns()) || r.Effect.Balance.Added > 0 {
		return nil, problem.New("Post it on the whole table", "this entry cannot be narrowed by a condition")
	}
	out := t
	for i, c := range r.Table.Columns() {
		if c != part.Columns()[i] {
			out = out.With(i, merged(t.Columns()[i], c, part))
		}
	}
	if r.Aside != nil {
		gone := make(map[uint32]bool, len(r.Aside.Rows))
		for _, base := range r.Aside.Rows {
			gone[base] = true
		}
		kept := &table.Selection{Rows: make([]uint32, 0, t.Rows()-len(gone))}
		for row := range t.Rows() {
			if base := t.BaseRow(row); !gone[base] {
				kept.Rows = append(kept.Rows, base)
			}
		}
		out = out.Select(kept)
	}
	r.Table = out
	others := t.Rows() - part.Rows()
	r.Effect.Balance.Before += others
	r.Effect.Balance.After += others
	for i := range r.Effect.Columns {
		e.recount(&r.Effect.Columns[i], t, out)
	}
	return r, nil
}

// merged gives a column that is the new one in the rows of a part and the old one in all
// others.
func merged(old, next *table.Column, part *table.Table) *table.Column {
	b := table.NewDictBuilder()
	adding := func(d *table.Dict) []uint32 {
		recode := make([]uint32, d.Len()+1)
		for code := uint32(1); code <= uint32(d.Len()); code++ {
			recode[code] = b.Add(d.Value(code))
		}
		return recode
	}
	olds, news := adding(old.Dict), adding(next.Dict)
	codes := make([]uint32, len(old.Codes.At))
	for base := range codes {
		codes[base] = olds[old.Code(uint32(base))]
	}
	for row := range part.Rows() {
		base := part.BaseRow(row)
		codes[base] = news[next.Code(base)]
	}
	out := *next
	out.Codes, out.View, out.Dict = &table.Codes{At: codes}, nil, b.Dict()
	return &out
}

// recount counts the distinct values over the whole table: a value that is rewritten in
// some rows still stands in others.
func (e *narrowed) recount(effect *ColumnEffect, before, after *table.Table) {
	i := slices.IndexFunc(before.Columns(), func(c *table.Column) bool { return c.Name == effect.Column })
	if i < 0 {
		return
	}
	effect.DistinctBefore = distinct(before.Counts(before.Columns()[i]))
	effect.DistinctAfter = distinct(after.Counts(after.Columns()[i]))
}
