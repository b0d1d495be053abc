// Package crosswalk is the lasting map from variant spellings to standard values, as an object of its own: standard values with a code, a
// note and a broader value, the variants of each, and how far it covers a column.
package crosswalk

import (
	"cmp"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Line maps one variant to its standard value. Why is the evidence, if any was given.
type Line struct {
	Variant  string `json:"variant"`
	Standard string `json:"standard"`
	Why      string `json:"why,omitempty"`
}

// Standard is a standard value. Code, Note and Broader may be empty; Broader is another standard value.
type Standard struct {
	Value   string `json:"value"`
	Code    string `json:"code,omitempty"`
	Note    string `json:"note,omitempty"`
	Broader string `json:"broader,omitempty"`
}

// Crosswalk is a whole one. Standard values that nothing more is said of need not be among Standards.
type Crosswalk struct {
	Name      string     `json:"name"`
	Standards []Standard `json:"standards"`
	Lines     []Line     `json:"lines"`
}

// Whole gives the crosswalk with every standard value of its lines among its standards, both in the order of the alphabet,
// without lines that say nothing: a value that stands for itself, or a line that is there twice.
func (c Crosswalk) Whole() Crosswalk {
	out := Crosswalk{Name: c.Name}
	have := map[string]bool{}
	for _, s := range c.Standards {
		if s.Value != "" && !have[s.Value] {
			have[s.Value] = true
			out.Standards = append(out.Standards, s)
		}
	}
	for _, l := range c.Lines {
		if l.Standard != "" && !have[l.Standard] {
			have[l.Standard] = true
			out.Standards = append(out.Standards, Standard{Value: l.Standard})
		}
		if l.Variant != l.Standard && l.Variant != "" && l.Standard != "" {
			out.Lines = append(out.Lines, l)
		}
	}
	slices.SortFunc(out.Standards, func(a, b Standard) int { return cmp.Compare(a.Value, b.Value) })
	slices.SortStableFunc(out.Lines, func(a, b Line) int {
		return cmp.Or(cmp.Compare(a.Standard, b.Standard), cmp.Compare(a.Variant, b.Variant))
	})
	out.Lines = slices.CompactFunc(out.Lines, func(a, b Line) bool { return a.Variant == b.Variant && a.Standard == b.Standard })
	return out
}

// Conflict is a variant for which two standard values are named.
type Conflict struct {
	Variant string `json:"variant"`
	Known   string `json:"known"`
	New     string `json:"new"`
}

// Conflicts lists the variants that lines map to another standard value than is known, or to two. Each variant is listed once.
func Conflicts(known map[string]string, lines []Line) []Conflict {
	out := []Conflict{}
	seen, listed := map[string]string{}, map[string]bool{}
	for _, l := range lines {
		was, ok := known[l.Variant]
		if !ok {
			was, ok = seen[l.Variant]
		}
		if ok && was != l.Standard && !listed[l.Variant] {
			listed[l.Variant] = true
			out = append(out, Conflict{l.Variant, was, l.Standard})
		}
		seen[l.Variant] = l.Standard
	}
	return out
}

// Check refuses a crosswalk that maps one variant to two standard values, or whose broader values go round in a circle.
func (c Crosswalk) Check() error {
	if two := Conflicts(nil, c.Lines); len(two) > 0 {
		return problem.New("Decide on one of them", "“%s” is to become both “%s” and “%s”", two[0].Variant, two[0].Known, two[0].New)
	}
	return CheckBroader(c.Standards)
}

// CheckBroader refuses broader values that go round in a circle.
func CheckBroader(standards []Standard) error {
	up := map[string]string{}
	for _, s := range standards {
		if s.Broader != "" {
			up[s.Value] = s.Broader
		}
	}
	for _, s := range standards {
		at, way := s.Value, []string{s.Value}
		for up[at] != "" && len(way) <= len(standards) {
			if at = up[at]; at == s.Value {
				return problem.New("Choose another broader value", "“%s” would be broader than itself: %s", s.Value, strings.Join(append(way, at), " → "))
			}
			way = append(way, at)
		}
	}
	return nil
}

// Coverage is how far a crosswalk knows a column.
type Coverage struct {
	Values int `json:"values"` // distinct values that are not blank
	Known  int `json:"known"`  // of them, those that are a variant or a standard value
	Rows   int `json:"rows"`
	// KnownRows are the rows with a known value; blank ones do not count.
	KnownRows int `json:"knownRows"`
	// Pending are the values that the crosswalk would change, and their rows.
	Pending     int `json:"pending"`
	PendingRows int `json:"pendingRows"`
}

// Unknown is a value of a column that a crosswalk does not know.
type Unknown struct {
	Value string `json:"value"`
	Rows  int    `json:"rows"`
}

// Cover compares a column with a crosswalk: standing gives the standard value of each variant, standards lists those that
// are right as they are. The unknown values come with most rows first, at most as many as asked for. Cost: O(distinct).
func Cover(t *table.Table, c *table.Column, standing map[string]string, standards map[string]bool, most int) (Coverage, []Unknown) {
	var out Coverage
	unknown := []Unknown{}
	blank := map[uint32]bool{table.Missing: true}
	for _, code := range c.Dict.Blank() {
		blank[code] = true
	}
	for code, n := range t.Counts(c) {
		if n == 0 || blank[uint32(code)] {
			continue
		}
		v, rows := c.Dict.Value(uint32(code)), int(n)
		out.Values++
		out.Rows += rows
		to, variant := standing[v]
		switch {
		case variant && to != v:
			out.Pending++
			out.PendingRows += rows
		case !variant && !standards[v]:
			unknown = append(unknown, Unknown{v, rows})
			continue
		}
		out.Known++
		out.KnownRows += rows
	}
	slices.SortFunc(unknown, func(a, b Unknown) int { return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.Value, b.Value)) })
	return out, unknown[:min(len(unknown), most)]
}
