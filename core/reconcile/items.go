package reconcile

import (
	"math"
	"strings"

	"github.com/shopspring/decimal"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// item is a line of a ledger as it is compared.
type item struct {
	row      int32
	day      int32 // since 1970; noDay where it is not known
	currency uint32
	amount   int64  // of the smallest part in use, positive for us
	ref      uint32 // its reference, 0 for none
	words    uint32 // its text, 0 for none
}

const noDay = math.MinInt32

// ledger is a side made ready.
type ledger struct {
	columns Columns
	items   []item
	total   int64
	bad     []Unread
}

// Unread is a line whose amount or date does not read.
type Unread struct {
	Row    int // from 0
	Column string
	Value  string
}

// world are the numbers given to currencies, references and texts, the same for both sides.
type world struct {
	places     int32 // decimals of the smallest part in use
	digits     bool  // references are known by their digits, as one side writes more around them than the other
	currencies map[string]uint32
	refs       *table.DictBuilder
	texts      *table.DictBuilder
	worded     [][]string // words of each text
}

// amounts are those of each code of a column, in the smallest part; state says of each whether it reads, is blank, or does neither.
func amounts(c *table.Column, counts []uint32, places int32) (minor []int64, state []byte) {
	r := c.Effective()
	if r.Kind != reading.Number {
		r = reading.Reading{Kind: reading.Number, Decimal: "."}
	}
	minor, state = make([]int64, len(counts)), make([]byte, len(counts))
	most := decimal.NewFromInt(math.MaxInt64 / 4)
	for code, n := range counts {
		if n == 0 {
			continue
		}
		v := ""
		if code > 0 {
			v = c.Dict.Value(uint32(code))
		}
		if strings.TrimSpace(v) == "" {
			state[code] = blank
			continue
		}
		d, ok := r.Exact(v)
		if ok {
			d = d.Shift(places)
			ok = d.IsInteger() && d.Abs().LessThan(most)
		}
		if !ok {
			state[code] = unread
			continue
		}
		minor[code], state[code] = d.IntPart(), reads
	}
	return minor, state
}

const (
	reads byte = iota
	blank
	unread
)

// read makes a side ready. Lines whose amount does not read are told, and are no items. Cost: O(rows).
func (w *world) read(t *table.Table, c Columns) (*ledger, error) {
	l := &ledger{columns: c}
	column := func(name string) (*table.Column, error) {
		if name == "" {
			return nil, nil
		}
		col, _, err := t.Column(name)
		if err != nil {
			p := problem.New("Choose a column the table has", "there is no column %q", name)
			p.Column = name
			return nil, p
		}
		return col, nil
	}
	var cols [6]*table.Column
	for i, name := range []string{c.Date, c.Amount, c.Debit, c.Credit, c.Reference, c.Currency} {
		var err error
		if cols[i], err = column(name); err != nil {
			return nil, err
		}
	}
	direction, err := column(c.Direction)
	if err != nil {
		return nil, err
	}
	var texts []*table.Column
	for _, name := range c.Texts {
		col, err := column(name)
		if err != nil {
			return nil, err
		}
		texts = append(texts, col)
	}
	date, amount, debit, credit, ref, currency := cols[0], cols[1], cols[2], cols[3], cols[4], cols[5]
	if amount == nil && debit == nil && credit == nil {
		return nil, problem.New("Choose one, or one of debits and one of credits", "there is no column of amounts")
	}
	days := w.days(date)
	var minors [3][]int64
	var states [3][]byte
	for i, col := range []*table.Column{amount, debit, credit} {
		if col != nil {
			minors[i], states[i] = amounts(col, t.Counts(col), w.places)
		}
	}
	var signs []int64
	if direction != nil {
		signs = make([]int64, direction.Dict.Len()+1)
		for code := 1; code < len(signs); code++ {
			signs[code] = sign(direction.Dict.Value(uint32(code)))
		}
	}
	refOf := map[uint32]uint32{}
	textOf := map[string]uint32{}
	for row := range t.Rows() {
		base := t.BaseRow(row)
		it := item{row: int32(row), day: noDay}
		any := false
		for i, col := range []*table.Column{amount, debit, credit} {
			if col == nil {
				continue
			}
			code := col.Code(base)
			switch states[i][code] {
			case unread:
				l.bad = append(l.bad, Unread{row, col.Name, col.Dict.Value(code)})
				continue
			case blank:
				continue
			}
			minor := minors[i][code]
			if i == 1 {
				minor = -max(minor, -minor)
			}
			if i == 2 {
				minor = max(minor, -minor)
			}
			it.amount += minor
			any = true
		}
		if !any {
			continue
		}
		if direction != nil {
			if s := signs[direction.Code(base)]; s != 0 {
				it.amount = s * max(it.amount, -it.amount)
			}
		}
		if c.Turned {
			it.amount = -it.amount
		}
		if date != nil {
			it.day = days[date.Code(base)]
		}
		if currency != nil {
			v, _ := currency.Value(base)
			it.currency = w.currency(strings.ToUpper(strings.TrimSpace(v)))
		}
		if ref != nil {
			code := ref.Code(base)
			at, ok := refOf[code]
			if !ok {
				if k := w.refKey(ref.Dict.Value(code)); k != "" {
					at = w.refs.Add(k)
				}
				refOf[code] = at
			}
			it.ref = at
		}
		if len(texts) > 0 {
			var parts []string
			for _, col := range texts {
				if v, _ := col.Value(base); strings.TrimSpace(v) != "" {
					parts = append(parts, v)
				}
			}
			said := strings.Join(parts, " ")
			at, ok := textOf[said]
			if !ok {
				if k := strings.Join(text.Words(said), " "); k != "" {
					at = w.texts.Add(k)
				}
				textOf[said] = at
			}
			it.words = at
		}
		l.items = append(l.items, it)
		l.total += it.amount
	}
	return l, nil
}

func (w *world) currency(v string) uint32 {
	at, ok := w.currencies[v]
	if !ok {
		at = uint32(len(w.currencies) + 1)
		w.currencies[v] = at
	}
	return at
}

// days are those of each code of a column of dates.
func (w *world) days(c *table.Column) []int32 {
	if c == nil {
		return nil
	}
	read := c.Read()
	out := make([]int32, c.Dict.Len()+1)
	for code := range out {
		out[code] = noDay
		if read.Reading.Kind == reading.Date && read.OK[code] {
			out[code] = int32(math.Floor(read.At[code]))
		}
	}
	return out
}

// places is how many decimals the amounts of columns have at most. Cost: O(distinct).
func places(t *table.Table, c Columns) (int32, error) {
	var most int32
	for _, name := range []string{c.Amount, c.Debit, c.Credit} {
		col, _, err := t.Column(name)
		if name == "" || err != nil {
			continue
		}
		r := col.Effective()
		if r.Kind != reading.Number {
			r = reading.Reading{Kind: reading.Number, Decimal: "."}
		}
		for code, n := range t.Counts(col) {
			if n == 0 || code == 0 {
				continue
			}
			if d, ok := r.Exact(col.Dict.Value(uint32(code))); ok {
				most = max(most, -d.Exponent())
			}
		}
	}
	if most > 9 {
		return 0, problem.New("Round them, or choose another column", "amounts have %d decimals, more than 9", most)
	}
	return most, nil
}

// amount writes a number of smallest parts as it is written in ledgers.
func (w *world) amount(minor int64) string {
	return decimal.New(minor, -w.places).StringFixed(w.places)
}
