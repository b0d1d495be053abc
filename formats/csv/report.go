package csv

import (
	"fmt"
	"slices"
	"strings"
)

// Report says how a text was read and what was repaired on the way.
type Report struct {
	Dialect Dialect `json:"dialect"`
	Rows    int     `json:"rows"`
	Columns int     `json:"columns"`
	Bytes   int64   `json:"bytes"`
	Notes   []Note  `json:"notes"`
}

// Note is one kind of repair, with how often it was needed and the first rows.
type Note struct {
	Count int    `json:"count"`
	What  string `json:"what"`
	Rows  []int  `json:"rows,omitempty"` // from 1, at most listed
}

const listed = 10

// String writes a note as the interface and the commands show it.
func (n Note) String() string {
	if len(n.Rows) == 0 {
		return n.What
	}
	var rows []string
	for _, r := range n.Rows {
		rows = append(rows, fmt.Sprint(r))
	}
	if n.Count > len(n.Rows) {
		rows = append(rows, "…")
	}
	word := "row"
	if len(n.Rows) > 1 {
		word = "rows"
	}
	return n.What + ": " + word + " " + strings.Join(rows, ", ")
}

// tallied collects the rows of one kind of repair.
type tallied struct {
	count int
	rows  []int
}

// add notes rows given as positions in a block that starts at row first.
func (t *tallied) add(first int, positions []int) {
	for _, p := range positions {
		if n := len(t.rows); n > 0 && t.rows[n-1] == first+p+1 {
			continue
		}
		t.count++
		if len(t.rows) < listed {
			t.rows = append(t.rows, first+p+1)
		}
	}
}

// note adds a note if there is anything to tell; one and many are the sentence for a
// single row and, with the count before it, for several.
func (r *Report) note(t tallied, one, many string) {
	if t.count == 0 {
		return
	}
	what := one
	if t.count > 1 {
		what = fmt.Sprintf("%d %s", t.count, many)
	}
	r.Notes = append(r.Notes, Note{t.count, what, slices.Clone(t.rows)})
}
