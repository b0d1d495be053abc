package entry

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Fill fills the blank cells of columns, or blanks the repeats of the value above.
type Fill struct {
	Columns []string `json:"columns"`
	With    FillWith `json:"with"`
	Value   string   `json:"value,omitempty"` // of constant
	From    string   `json:"from,omitempty"`  // of column
}

// FillWith says what blank cells become.
type FillWith string

// What blank cells become.
const (
	Above    FillWith = "above"    // the value of the nearest row above that has one
	Constant FillWith = "constant" // Value
	Other    FillWith = "column"   // the value of the column From in the same row
	Next     FillWith = "next"     // ids that continue after the highest one
	Repeats  FillWith = "repeats"  // the other way: cells that repeat the one above become blank
)

// Words says what the cells become.
func (e *Fill) Words() string {
	of := listing(e.Columns)
	switch e.With {
	case Above:
		return "Fill blank cells of " + of + " from above"
	case Other:
		return "Fill blank cells of " + of + " from " + e.From
	case Next:
		return "Give new ids in " + of + " after the highest one"
	case Repeats:
		return "Blank what repeats the cell above in " + of
	}
	return "Fill blank cells of " + of + " with “" + brief(e.Value) + "”"
}

// Cost: O(base rows) and O(distinct) for each column.
func (e *Fill) apply(ctx context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Columns) == 0 {
		return nil, problem.New("Choose at least one column", "no column was chosen")
	}
	all := &Result{Table: t}
	for _, name := range e.Columns {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		c, at, err := column(all.Table, name)
		if err != nil {
			return nil, err
		}
		r, err := e.fill(all.Table, c, at)
		if err != nil {
			return nil, err
		}
		all.Table = r.Table
		all.Effect.Balance = r.Effect.Balance
		all.Effect.Columns = append(all.Effect.Columns, r.Effect.Columns...)
		all.Effect.Changed += r.Effect.Changed
		all.Effect.Pairs = append(all.Effect.Pairs, r.Effect.Pairs...)
	}
	slices.SortStableFunc(all.Effect.Pairs, byRows)
	all.Effect.Pairs = all.Effect.Pairs[:min(len(all.Effect.Pairs), MaxPairs)]
	return all, nil
}

// fill fills one column.
func (e *Fill) fill(t *table.Table, c *table.Column, at int) (*Result, error) {
	f := newFilling(t, c)
	switch e.With {
	case Above:
		last := uint32(0)
		f.each(func(_ uint32, code uint32) uint32 {
			if !f.blank(code) {
				last = code
			} else if last != 0 {
				return last
			}
			return code
		})
	case Constant:
		if strings.TrimSpace(e.Value) == "" {
			return nil, problem.New("Type what blank cells become", "there is no value to fill with")
		}
		value := f.add(e.Value)
		f.each(func(_ uint32, code uint32) uint32 {
			if f.blank(code) {
				return value
			}
			return code
		})
	case Other:
		from, _, err := column(t, e.From)
		if err != nil {
			return nil, err
		}
		there := make([]uint32, from.Dict.Len()+1)
		for code := uint32(1); code < uint32(len(there)); code++ {
			there[code] = f.add(from.Dict.Value(code))
		}
		f.each(func(base uint32, code uint32) uint32 {
			if other := there[from.Code(base)]; f.blank(code) && other != table.Missing {
				return other
			}
			return code
		})
	case Next:
		next, err := f.ids()
		if err != nil {
			return nil, err
		}
		f.each(func(_ uint32, code uint32) uint32 {
			if f.blank(code) {
				return f.add(next())
			}
			return code
		})
	case Repeats:
		empty := f.add("")
		last := uint32(0)
		f.each(func(_ uint32, code uint32) uint32 {
			if !f.blank(code) && code == last {
				return empty
			}
			last = code
			return code
		})
	default:
		return nil, problem.New("Use above, constant, column, next or repeats", "cells cannot be filled with %q", e.With)
	}
	return f.result(at), nil
}

// filling rewrites single cells of a column, and keeps account of them by value.
type filling struct {
	t       *table.Table
	c       *table.Column
	b       *table.DictBuilder
	codes   []uint32 // of the new dictionary, by base row
	blanks  []bool   // by code of the old dictionary, whose codes the new one begins with
	changed map[[2]uint32]int
}

func newFilling(t *table.Table, c *table.Column) *filling {
	f := &filling{t: t, c: c, b: table.NewDictBuilder(), codes: make([]uint32, t.Base()), blanks: make([]bool, c.Dict.Len()+1), changed: map[[2]uint32]int{}}
	for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
		f.b.Add(c.Dict.Value(code))
	}
	for base := range f.codes {
		f.codes[base] = c.Code(uint32(base))
	}
	f.blanks[table.Missing] = true
	for _, code := range c.Dict.Blank() {
		f.blanks[code] = true
	}
	return f
}

func (f *filling) add(value string) uint32 { return f.b.Add(value) }

func (f *filling) blank(code uint32) bool { return int(code) < len(f.blanks) && f.blanks[code] }

// each goes through the rows as they stand; of gives the code a cell has afterwards.
func (f *filling) each(of func(base, code uint32) uint32) {
	for row := range f.t.Rows() {
		base := f.t.BaseRow(row)
		was := f.codes[base]
		if is := of(base, was); is != was {
			f.codes[base] = is
			f.changed[[2]uint32{was, is}]++
		}
	}
}

// ids continues the ids of a column after the highest one: their longest run of digits at the
// end is counted on, with what stands before it and as many digits.
func (f *filling) ids() (func() string, error) {
	highest, width, prefix := -1, 0, ""
	for code, rows := range f.t.Counts(f.c) {
		v := strings.TrimSpace(f.c.Dict.Value(uint32(code)))
		digits := len(v) - len(strings.TrimRight(v, "0123456789"))
		if rows == 0 || digits == 0 || digits > 18 {
			continue
		}
		if n, err := strconv.Atoi(v[len(v)-digits:]); err == nil && n > highest {
			highest, width, prefix = n, digits, v[:len(v)-digits]
		}
	}
	if highest < 0 {
		p := problem.New("Fill it with a constant, or number the rows", "no value of it ends in a number to continue after")
		p.Column = f.c.Name
		return nil, p
	}
	return func() string {
		highest++
		return fmt.Sprintf("%s%0*d", prefix, width, highest)
	}, nil
}

func (f *filling) result(at int) *Result {
	next := *f.c
	next.Codes, next.View, next.Dict = &table.Codes{At: f.codes}, nil, f.b.Dict()
	out := f.t.With(at, &next)
	n := f.t.Rows()
	effect := Effect{Balance: Balance{Before: n, After: n}}
	e := ColumnEffect{Column: f.c.Name, DistinctBefore: distinct(f.t.Counts(f.c)), DistinctAfter: distinct(out.Counts(&next))}
	after := out.Counts(&next)
	byValue := map[[2]string]int{}
	for pair, rows := range f.changed {
		e.Cells += rows
		byValue[[2]string{f.c.Dict.Value(pair[0]), next.Dict.Value(pair[1])}] += rows
	}
	for pair, rows := range byValue {
		code, _ := next.Dict.Find(pair[1])
		effect.Pairs = append(effect.Pairs, Pair{f.c.Name, pair[0], pair[1], rows, int(after[code]) > rows})
	}
	slices.SortFunc(effect.Pairs, func(a, b Pair) int {
		return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.From, b.From), cmp.Compare(a.To, b.To))
	})
	effect.Changed = len(effect.Pairs)
	effect.Pairs = effect.Pairs[:min(len(effect.Pairs), MaxPairs)]
	effect.Columns = []ColumnEffect{e}
	return &Result{Table: out, Effect: effect}
}

// Number puts a column of running numbers before the others, in the order the rows stand.
type Number struct {
	Name   string `json:"name"`
	Start  int    `json:"start"`
	Prefix string `json:"prefix,omitempty"`
	Width  int    `json:"width,omitempty"` // digits, with zeros before
}

// Words names the column.
func (e *Number) Words() string {
	return fmt.Sprintf("Number the rows in %s from %s on", e.Name, e.id(e.Start))
}

func (e *Number) id(n int) string { return fmt.Sprintf("%s%0*d", e.Prefix, e.Width, n) }

// Cost: O(base rows).
func (e *Number) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if strings.TrimSpace(e.Name) == "" || e.Start < 0 || e.Width < 0 || e.Width > 18 || len(e.Prefix) > 100 {
		return nil, problem.New("Give a name, a start of 0 or more, and at most 18 digits", "the rows cannot be numbered so")
	}
	b := table.NewDictBuilder()
	codes := &table.Codes{At: make([]uint32, t.Base())}
	n := t.Rows()
	for row := range n {
		codes.At[t.BaseRow(row)] = b.Add(e.id(e.Start + row))
	}
	made := &table.Column{Name: strings.TrimSpace(e.Name), Codes: codes, Dict: b.Dict()}
	effect := Effect{Balance: Balance{Before: n, After: n}, Columns: []ColumnEffect{added(t, made)}}
	out, err := shaped(t, append([]*table.Column{made}, t.Columns()...), &effect)
	if err != nil {
		return nil, err
	}
	return &Result{Table: out, Effect: effect}, nil
}
