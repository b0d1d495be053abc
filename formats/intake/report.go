package intake

import (
	"fmt"
	"slices"
	"strings"
)

// Report says what was read and what was repaired on the way.
type Report struct {
	Rows    int    `json:"rows"`
	Columns int    `json:"columns"`
	Bytes   int64  `json:"bytes"`
	Notes   []Note `json:"notes"`
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

// Tallied collects the rows of one kind of repair.
type Tallied struct {
	Count int
	rows  []int
	last  int
}

// Add notes a row, given by its place from 0; rows come in order, and one that comes
// several times counts once.
func (t *Tallied) Add(row int) {
	if t.last == row+1 {
		return
	}
	t.last = row + 1
	t.Count++
	if len(t.rows) < listed {
		t.rows = append(t.rows, row+1)
	}
}

// Note adds a note if there is anything to tell; one and many are the sentence for a
// single row and, with the count before it, for several.
func (r *Report) Note(t Tallied, one, many string) {
	if t.Count == 0 {
		return
	}
	what := one
	if t.Count > 1 {
		what = fmt.Sprintf("%d %s", t.Count, many)
	}
	r.Notes = append(r.Notes, Note{t.Count, what, slices.Clone(t.rows)})
}
