package entry

import (
	"context"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Tidy trims and collapses spaces and changes letter case, in one or more columns.
type Tidy struct {
	Columns  []string `json:"columns"`
	Trim     bool     `json:"trim,omitempty"`     // spaces at either end go
	Collapse bool     `json:"collapse,omitempty"` // runs of spaces become one
	Case     Case     `json:"case,omitempty"`
}

// Case is a change of letter case; empty leaves it.
type Case string

// The changes of letter case.
const (
	Lower    Case = "lower"
	Upper    Case = "upper"
	Title    Case = "title"    // Every Word With A Capital
	Sentence Case = "sentence" // The first word with a capital
)

// Words names what is tidied and where.
func (e *Tidy) Words() string {
	var did []string
	if e.Trim {
		did = append(did, "trim spaces")
	}
	if e.Collapse {
		did = append(did, "collapse doubled spaces")
	}
	if e.Case != "" {
		did = append(did, map[Case]string{Lower: "use lower case", Upper: "use upper case", Title: "give every word a capital",
			Sentence: "give the first word a capital"}[e.Case])
	}
	w := listing(did) + " in " + listing(e.Columns)
	return strings.ToUpper(w[:1]) + w[1:]
}

func (e *Tidy) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Columns) == 0 {
		return nil, problem.New("Choose at least one column", "no column was chosen")
	}
	if !e.Trim && !e.Collapse && e.Case == "" {
		return nil, problem.New("Choose what to tidy: trim, collapse or letter case", "there is nothing to tidy")
	}
	if !slices.Contains([]Case{"", Lower, Upper, Title, Sentence}, e.Case) {
		return nil, problem.New("Use lower, upper, title or sentence", "there is no letter case called %q", e.Case)
	}
	w := newRewriting(t)
	for _, name := range e.Columns {
		if err := w.column(name, e.tidy); err != nil {
			return nil, err
		}
	}
	return w.result(), nil
}

func (e *Tidy) tidy(v string) string {
	if e.Trim {
		v = strings.TrimFunc(v, unicode.IsSpace)
	}
	if e.Collapse {
		v = text.Collapse(v)
	}
	switch e.Case {
	case Lower:
		v = recase(v, strings.ToLower, cases.Lower)
	case Upper:
		v = recase(v, strings.ToUpper, cases.Upper)
	case Title:
		v = cases.Title(language.Und).String(v)
	case Sentence:
		v = sentence(v)
	}
	return v
}

// recase uses the full case mappings of Unicode (ß becomes SS), which the standard
// library lacks, where a value has other letters than ASCII.
func recase(v string, ascii func(string) string, full func(language.Tag, ...cases.Option) cases.Caser) string {
	for i := 0; i < len(v); i++ {
		if v[i] >= utf8.RuneSelf {
			return full(language.Und).String(v)
		}
	}
	return ascii(v)
}

func sentence(v string) string {
	done := false
	return strings.Map(func(r rune) rune {
		if !done && unicode.IsLetter(r) {
			done = true
			return unicode.ToTitle(r)
		}
		return unicode.ToLower(r)
	}, v)
}

// listing writes "a", "a and b", "a, b and c".
func listing(items []string) string {
	if len(items) < 2 {
		return strings.Join(items, "")
	}
	return strings.Join(items[:len(items)-1], ", ") + " and " + items[len(items)-1]
}
