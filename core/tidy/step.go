// Package tidy rewrites the text of one value: spaces, case, accents, marks, parts. A step is
// compiled once and called for each distinct value, so its cost does not depend on the rows.
package tidy

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"grandledger/core/problem"
)

// Op is what a step does.
type Op string

// The steps.
const (
	Trim        Op = "trim"        // spaces at either end go
	Collapse    Op = "collapse"    // runs of spaces become one
	Invisible   Op = "invisible"   // characters that are not printed go
	Punctuation Op = "punctuation" // look-alike quotes, dashes and spaces become the plain ones
	Lower       Op = "lower"
	Upper       Op = "upper"
	Title       Op = "title"    // Every Word With a Capital, but for particles
	Sentence    Op = "sentence" // The first word with a capital
	Accents     Op = "accents"  // accents go
	Footnotes   Op = "footnotes"
	Brackets    Op = "brackets" // what stands between brackets at the end goes
	Replace     Op = "replace"  // Find, or what matches Pattern, becomes With
	Keep        Op = "keep"     // only a part of the value stays
	Cut         Op = "cut"      // a part of the value goes
	Pad         Op = "pad"      // to Width characters
)

// Step is one step with its parameters.
type Step struct {
	Op      Op     `json:"op"`
	Find    string `json:"find,omitempty"`    // of replace: the text looked for, every time it stands there
	Pattern bool   `json:"pattern,omitempty"` // of replace: Find is a regular expression (RE2), With may name its groups $1
	With    string `json:"with,omitempty"`    // of replace, and the character to pad with
	Whole   bool   `json:"whole,omitempty"`   // of replace: only where it is the whole value
	Case    bool   `json:"case,omitempty"`    // of replace: letter case matters
	Part    Part   `json:"part,omitempty"`    // of keep and cut
	Count   int    `json:"count,omitempty"`   // of keep and cut: characters, where no mark is given
	From    string `json:"from,omitempty"`    // of keep and cut: the mark the part begins behind
	To      string `json:"to,omitempty"`      // the mark it ends before
	Width   int    `json:"width,omitempty"`   // of pad
	Right   bool   `json:"right,omitempty"`   // of pad: on the right
	// Language of lower, upper and title, such as tr; empty for none in particular.
	Language string `json:"language,omitempty"`
}

// Part is a part of a value.
type Part string

// The parts.
const (
	Left    Part = "left"    // the first Count characters, or what stands before To
	Right   Part = "right"   // the last Count characters, or what stands behind the last From
	Between Part = "between" // what stands between From and To
)

// Limits of a step.
const (
	maxFind  = 1_000 // bytes
	maxWidth = 200
	maxValue = 1 << 20 // bytes a value may grow to
)

// Check refuses a step that cannot be done, and says what to do.
func (s Step) Check() error {
	if !slices.Contains([]Op{Trim, Collapse, Invisible, Punctuation, Lower, Upper, Title, Sentence, Accents, Footnotes, Brackets, Replace, Keep, Cut, Pad}, s.Op) {
		return problem.New("Choose one of the steps listed", "there is no step called %q", s.Op)
	}
	switch s.Op {
	case Replace:
		if s.Find == "" {
			return problem.New("Type what to look for", "there is nothing to replace")
		}
		if len(s.Find) > maxFind || len(s.With) > maxFind {
			return problem.New("Make it shorter", "the text is longer than %d bytes", maxFind)
		}
		if s.Pattern {
			if _, err := regexp.Compile(s.Find); err != nil {
				return problem.New(`Mend it; a mark such as ( or . is itself with \ before it`, "the pattern cannot be read: %s", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
			}
		}
	case Keep, Cut:
		switch {
		case s.Part != Left && s.Part != Right && s.Part != Between:
			return problem.New("Use left, right or between", "there is no part called %q", s.Part)
		case s.Part == Between && (s.From == "" || s.To == ""):
			return problem.New("Give both marks", "a part between two marks needs both")
		case s.Part == Left && s.To == "" && s.Count < 1 || s.Part == Right && s.From == "" && s.Count < 1:
			return problem.New("Give how many characters, or the mark", "the part has no end")
		}
	case Pad:
		if s.Width < 1 || s.Width > maxWidth {
			return problem.New(fmt.Sprintf("Use 1 to %d", maxWidth), "values cannot be padded to %d characters", s.Width)
		}
		if utf8.RuneCountInString(s.With) != 1 {
			return problem.New("Give one character, such as 0", "%q is no character to pad with", s.With)
		}
	}
	if s.Language != "" {
		if _, err := languageOf(s.Language); err != nil {
			return err
		}
	}
	return nil
}

// Words says the step as the start of a sentence.
func (s Step) Words() string {
	switch s.Op {
	case Replace:
		what := "“" + s.Find + "”"
		if s.Pattern {
			what = "what matches " + s.Find
		}
		if s.Whole {
			what += " as a whole"
		}
		if s.With == "" {
			return "remove " + what
		}
		return "replace " + what + " by “" + s.With + "”"
	case Keep, Cut:
		verb := map[Op]string{Keep: "keep", Cut: "cut"}[s.Op]
		switch {
		case s.Part == Between:
			return fmt.Sprintf("%s what stands between “%s” and “%s”", verb, s.From, s.To)
		case s.Part == Left && s.To != "":
			return fmt.Sprintf("%s what stands before “%s”", verb, s.To)
		case s.Part == Right && s.From != "":
			return fmt.Sprintf("%s what stands behind “%s”", verb, s.From)
		}
		return fmt.Sprintf("%s the %s %d characters", verb, map[Part]string{Left: "first", Right: "last"}[s.Part], s.Count)
	case Pad:
		return fmt.Sprintf("pad to %d characters with “%s”", s.Width, s.With)
	}
	return map[Op]string{Trim: "trim spaces", Collapse: "collapse doubled spaces", Invisible: "remove invisible characters",
		Punctuation: "use plain punctuation", Lower: "use lower case", Upper: "use upper case", Title: "give every word a capital",
		Sentence: "give the first word a capital", Accents: "remove accents", Footnotes: "strip footnote marks", Brackets: "strip trailing brackets"}[s.Op]
}

// Compile gives the function that does the step, once for a distinct value. Check must have
// passed.
func (s Step) Compile() func(string) string {
	switch s.Op {
	case Trim:
		return trim
	case Collapse:
		return collapse
	case Invisible:
		return visible
	case Punctuation:
		return plainMarks
	case Lower, Upper:
		return recase(s.Op, s.Language)
	case Title:
		return title(s.Language)
	case Sentence:
		return sentence
	case Accents:
		return withoutAccents
	case Footnotes:
		return footnotes
	case Brackets:
		return brackets
	case Replace:
		return s.replacing()
	case Keep:
		return func(v string) string { _, part, _ := s.cut(v); return part }
	case Cut:
		return func(v string) string { before, _, after := s.cut(v); return before + after }
	}
	return s.pad
}

// All compiles steps into one function that does them in order.
func All(steps []Step) (func(string) string, error) {
	var each []func(string) string
	for _, s := range steps {
		if err := s.Check(); err != nil {
			return nil, err
		}
		each = append(each, s.Compile())
	}
	return func(v string) string {
		for _, do := range each {
			v = do(v)
		}
		return v
	}, nil
}
