package entry

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Mark makes a column that says of each row what repeats it, and sets nothing aside.
type Mark struct {
	Key   []string                `json:"key"`
	As    map[string]duplicate.As `json:"as,omitempty"`
	Apart bool                    `json:"apart,omitempty"`
	Name  string                  `json:"name"`
	Shows Shows                   `json:"shows"`
}

// Shows says what a mark shows.
type Shows string

// What a mark shows. Of a row without a key all but the first are blank, and so is the number
// of a group of one.
const (
	WhetherRepeats Shows = "repeats" // yes where other rows have the same key, otherwise no
	GroupNumber    Shows = "number"  // of the group of two or more, in order of first appearance
	PlaceInGroup   Shows = "place"   // 1 for the first row of a group
	GroupSize      Shows = "size"    // rows with the same key
)

// Words says what the column shows.
func (e *Mark) Words() string {
	d := Duplicates{Key: e.Key, As: e.As}
	what := map[Shows]string{WhetherRepeats: "whether a row repeats", GroupNumber: "the number of the group", PlaceInGroup: "the place in the group", GroupSize: "the size of the group"}[e.Shows]
	return "Mark in " + e.Name + " " + what + " by " + d.key()
}

// Cost: O(rows x key columns).
func (e *Mark) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	key, err := Keys(t, e.Key, e.As)
	if err != nil {
		return nil, err
	}
	if strings.TrimSpace(e.Name) == "" {
		return nil, problem.New("Give the new column a name", "the new column has no name")
	}
	if !slices.Contains([]Shows{WhetherRepeats, GroupNumber, PlaceInGroup, GroupSize}, e.Shows) {
		return nil, problem.New("Show repeats, number, place or size", "a mark cannot show %q", e.Shows)
	}
	b := table.NewDictBuilder()
	codes := &table.Codes{At: make([]uint32, t.Base())}
	duplicate.Find(t, key, e.Apart).Each(func(row int, m duplicate.Member) {
		codes.At[t.BaseRow(row)] = b.Add(e.shown(m))
	})
	made := &table.Column{Name: strings.TrimSpace(e.Name), Codes: codes, Dict: b.Dict()}
	n := t.Rows()
	effect := Effect{Balance: Balance{Before: n, After: n}, Columns: []ColumnEffect{added(t, made)}}
	out, err := shaped(t, append(slices.Clone(t.Columns()), made), &effect)
	if err != nil {
		return nil, err
	}
	return &Result{Table: out, Effect: effect}, nil
}

func (e *Mark) shown(m duplicate.Member) string {
	n := 0
	switch e.Shows {
	case WhetherRepeats:
		if m.Size > 1 {
			return "yes"
		}
		return "no"
	case GroupNumber:
		n = m.Number
	case PlaceInGroup:
		n = m.Place
	case GroupSize:
		n = m.Size
	}
	if n == 0 {
		return ""
	}
	return strconv.Itoa(n)
}

// Renumber gives new ids to rows that share one by mistake, continuing after the highest: of the
// rows with an id those that are the same thing as the first keep it, and every other thing
// gets one of its own.
type Renumber struct {
	Column string `json:"column"`
	// Same are the columns in which the rows of one thing agree; with none every row is a thing.
	Same []string `json:"same,omitempty"`
}

// Words names the column.
func (e *Renumber) Words() string {
	words := "Give new ids to all but the first row with the same " + e.Column
	if len(e.Same) > 0 {
		words += " where " + listing(e.Same) + " differ"
	}
	return words
}

// Cost: O(base rows) and O(distinct).
func (e *Renumber) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	c, at, err := column(t, e.Column)
	if err != nil {
		return nil, err
	}
	var things []uint32 // of each row, nil where every row is one
	for _, name := range e.Same {
		other, _, err := column(t, name)
		if err != nil {
			return nil, err
		}
		things, _ = duplicate.Number(t.LogicalCodes(other), things)
	}
	f := newFilling(t, c)
	next, err := f.ids()
	if err != nil {
		return nil, err
	}
	taken := map[string]bool{} // ids that end in the same digits before others may be there already
	for code, rows := range t.Counts(c) {
		if rows > 0 {
			taken[c.Dict.Value(uint32(code))] = true
		}
	}
	first := make([]uint32, c.Dict.Len()+1) // the thing that keeps an id, from 1; of rows from 1
	given := map[[2]uint32]uint32{}         // the code of the new id of an id and a thing
	row := -1
	f.each(func(_, code uint32) uint32 {
		row++
		if f.blank(code) {
			return code
		}
		thing := uint32(row + 1)
		if things != nil {
			thing = things[row]
		}
		if first[code] == 0 {
			first[code] = thing
		}
		if first[code] == thing {
			return code
		}
		pair := [2]uint32{code, thing}
		if given[pair] == 0 {
			id := next()
			for taken[id] {
				id = next()
			}
			given[pair] = f.add(id)
		}
		return given[pair]
	})
	if len(given) == 0 {
		p := problem.New("Choose another column, or fewer columns in which they agree", "no two things have the same id")
		p.Column = e.Column
		return nil, p
	}
	return f.result(at), nil
}
