package entry

import (
	"cmp"
	"context"
	"slices"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Reading says how a column is read from now on. No cell changes.
type Reading struct {
	Column  string          `json:"column"`
	Reading reading.Reading `json:"reading"`
}

// ReadingEffect is what reading a column otherwise comes to, in rows that hold something.
type ReadingEffect struct {
	Column  string       `json:"column"`
	Before  string       `json:"before"` // the reading it had, in words
	After   string       `json:"after"`
	Read    int          `json:"read"`    // rows of the reading
	NotRead int          `json:"notRead"` // rows that stay as they came
	Newly   int          `json:"newly"`   // rows that were not read before and are
	Lost    int          `json:"lost"`    // rows that were read before and are not
	Unread  []tally.Line `json:"unread"`  // values that are not read, most rows first, at most maxSamples
	As      []AsRead     `json:"as"`      // values and what they are understood as, those written otherwise first, at most maxSamples
}

// maxSamples is how many values the effect of a reading lists of either kind.
const maxSamples = 50

// AsRead is a value and what it is understood as: for other readings than numbers and dates
// the value itself.
type AsRead struct {
	Value string `json:"value"`
	As    string `json:"as"`
	Rows  int    `json:"rows"`
}

// Words names the column and its reading.
func (e *Reading) Words() string { return "Read " + e.Column + " as " + e.Reading.Words() }

// Cost: O(bytes of the distinct values).
func (e *Reading) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if err := e.Reading.Check(); err != nil {
		return nil, err
	}
	c, at, err := column(t, e.Column)
	if err != nil {
		return nil, err
	}
	if c.Reading == e.Reading {
		p := problem.New("Choose another reading, or leave it", "the column is read as %s already", e.Reading.Words())
		p.Column = e.Column
		return nil, p
	}
	next := *c
	next.Reading = e.Reading
	n := t.Rows()
	effect := readingEffect(t, c, &next)
	return &Result{Table: t.With(at, &next), Effect: Effect{Balance: Balance{Before: n, After: n}, Readings: []ReadingEffect{effect}}}, nil
}

func readingEffect(t *table.Table, c, next *table.Column) ReadingEffect {
	before, after := c.Read(), next.Read()
	out := ReadingEffect{Column: c.Name, Before: before.Reading.Words(), After: after.Reading.Words(), Unread: []tally.Line{}, As: []AsRead{}}
	blank := map[uint32]bool{}
	for _, code := range c.Dict.Blank() {
		blank[code] = true
	}
	var read, unread []uint32
	counts := t.Counts(c)
	for code := uint32(1); code < uint32(len(counts)); code++ {
		rows := int(counts[code])
		switch {
		case rows == 0 || blank[code]:
			continue
		case after.OK[code]:
			out.Read += rows
			read = append(read, code)
			if !before.OK[code] {
				out.Newly += rows
			}
		default:
			out.NotRead += rows
			unread = append(unread, code)
			if before.OK[code] {
				out.Lost += rows
			}
		}
	}
	as := func(code uint32) string {
		if after.At == nil {
			return c.Dict.Value(code)
		}
		return after.Reading.Write(after.At[code])
	}
	// What is understood otherwise than it stands is worth seeing first.
	other := make([]bool, len(counts))
	for _, code := range read {
		other[code] = as(code) != c.Dict.Value(code)
	}
	for _, codes := range [][]uint32{read, unread} {
		slices.SortFunc(codes, func(a, b uint32) int {
			if other[a] != other[b] {
				return map[bool]int{true: -1, false: 1}[other[a]]
			}
			return cmp.Or(cmp.Compare(counts[b], counts[a]), cmp.Compare(c.Dict.Value(a), c.Dict.Value(b)))
		})
	}
	for _, code := range unread[:min(len(unread), maxSamples)] {
		out.Unread = append(out.Unread, tally.Line{Value: c.Dict.Value(code), Rows: int(counts[code])})
	}
	for _, code := range read[:min(len(read), maxSamples)] {
		out.As = append(out.As, AsRead{Value: c.Dict.Value(code), As: as(code), Rows: int(counts[code])})
	}
	return out
}
