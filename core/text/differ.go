package text

import (
	"slices"
	"strings"
	"unicode"
)

// An aspect is one way in which two spellings of a value can differ.
type aspect struct {
	name   string
	remove func(string) string
}

// aspects run from the mildest to the strongest; each one's removal presumes those
// before it. Taken together they amount to Fold.
var aspects = []aspect{
	{"invisible character", dropInvisible},
	{"leading or trailing space", func(s string) string { return strings.TrimSpace(spaces(s)) }},
	{"doubled space", Collapse},
	{"letter case", foldCase},
	{"accents", dropAccents},
	{"punctuation", func(s string) string { return squeeze(s, true) }}, // see withoutMarks
	{"written together or apart", func(s string) string { return squeeze(s, false) }},
}

// Collapse makes every run of white space one space.
func Collapse(s string) string {
	var out strings.Builder
	gap := false
	for _, r := range s {
		if unicode.IsSpace(r) {
			gap = true
			continue
		}
		if gap {
			out.WriteByte(' ')
			gap = false
		}
		out.WriteRune(r)
	}
	if gap {
		out.WriteByte(' ')
	}
	return out.String()
}

// Differences names the aspects in which two spellings with equal Fold differ: the
// smallest set found by leaving out the strongest aspects first. Nil where the
// spellings are the same or Fold does not make them equal.
func Differences(a, b string) []string {
	if a == b || Fold(a) != Fold(b) {
		return nil
	}
	found := minimal(a, b, aspects)
	if marks := minimal(a, b, withoutMarks); len(marks) < len(found) || len(marks) == len(found) && slices.Compare(marks, found) < 0 {
		found = marks
	}
	var names []string
	for _, i := range found {
		names = append(names, precise(aspects[i].name, a, b))
	}
	return names
}

// withoutMarks is aspects with punctuation removed where it stands ("G.N." and "GN")
// and not taken for a space ("gill-net" and "gill net"); the shorter
// and milder account is given.
var withoutMarks = func() []aspect {
	out := slices.Clone(aspects)
	out[5].remove = func(s string) string {
		return strings.Map(func(r rune) rune {
			if separates(r) && !unicode.IsSpace(r) {
				return -1
			}
			return r
		}, s)
	}
	return out
}()

// minimal gives the aspects that are needed to make a and b the same.
func minimal(a, b string, aspects []aspect) []int {
	needed := make([]bool, len(aspects))
	for i := range needed {
		needed[i] = true
	}
	same := func() bool {
		x, y := a, b
		for i, as := range aspects {
			if needed[i] {
				x, y = as.remove(x), as.remove(y)
			}
		}
		return x == y
	}
	for i := len(aspects) - 1; i >= 0; i-- {
		needed[i] = false
		needed[i] = !same()
	}
	var found []int
	for i := range aspects {
		if needed[i] {
			found = append(found, i)
		}
	}
	return found
}

// precise says which edge has the space where only one has.
func precise(name, a, b string) string {
	if name != aspects[1].name {
		return name
	}
	leading := strings.TrimLeft(a, " ") != a || strings.TrimLeft(b, " ") != b
	trailing := strings.TrimRight(a, " ") != a || strings.TrimRight(b, " ") != b
	switch {
	case leading && !trailing:
		return "leading space"
	case trailing && !leading:
		return "trailing space"
	}
	return name
}
