// Package condition says which rows of a table hold what: values, ranges, patterns, words
// anywhere, columns that differ, joined by all of and any of.
//
// A condition is worked out once per distinct value and spread to the rows by code. Every
// part says how many rows it holds by itself, so that an "all of" that should be an "any
// of" is seen at once.
package condition

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/reading"
)

// The kinds of condition.
const (
	All      = "all"      // every one of Of
	Any      = "any"      // at least one of Of
	Is       = "is"       // the value is one of Values
	Contains = "contains" // the value contains Text; without a column, that of any column
	Starts   = "starts"   // the value starts with Text
	Ends     = "ends"     // the value ends with Text
	Pattern  = "pattern"  // the value matches the regular expression Text (RE2 syntax) somewhere
	Shape    = "shape"    // the value has the shape Text, such as AA 999 (text.Shape)
	Range    = "range"    // the value, read as number, date or text like the bounds, lies from From to To
	Blank    = "blank"    // the cell is empty, white space or not there
	Unread   = "unread"   // the value is not of the column's reading, or not of the kind Text
	Differs  = "differs"  // the value differs from that of the column Other
)

// Condition is one condition, or several joined.
type Condition struct {
	Op     string      `json:"op"`
	Not    bool        `json:"not,omitempty"`
	Of     []Condition `json:"of,omitempty"` // of all and any
	Column string      `json:"column,omitempty"`
	Other  string      `json:"other,omitempty"`
	Values []string    `json:"values,omitempty"`
	Text   string      `json:"text,omitempty"`
	From   string      `json:"from,omitempty"` // of range; empty is without end
	To     string      `json:"to,omitempty"`
	Case   bool        `json:"case,omitempty"` // letter case matters for contains, starts, ends
}

// Limits of a condition.
const (
	maxDepth   = 20
	maxParts   = 200
	maxValues  = 10_000
	maxPattern = 1_000 // bytes
)

// Check refuses a condition that cannot be worked out, and says what to do.
func (c *Condition) Check() error {
	parts := 0
	return c.check(0, &parts)
}

func (c *Condition) check(depth int, parts *int) error {
	if *parts++; depth > maxDepth || *parts > maxParts {
		return problem.New("Make it simpler", "the condition has more than %d parts, or is more than %d deep", maxParts, maxDepth)
	}
	bad := func(remedy, what string, args ...any) error {
		p := problem.New(remedy, what, args...)
		p.Column = c.Column
		return p
	}
	switch c.Op {
	case All, Any:
		for i := range c.Of {
			if err := c.Of[i].check(depth+1, parts); err != nil {
				return err
			}
		}
		return nil
	case Contains:
		if c.Text == "" {
			return bad("Type what to look for", "the condition looks for nothing")
		}
		return nil
	case Is:
		if len(c.Values) == 0 || len(c.Values) > maxValues {
			return bad(fmt.Sprintf("Pick between one and %d values", maxValues), "%d values were picked", len(c.Values))
		}
	case Starts, Ends, Shape:
		if c.Text == "" {
			return bad("Type what to look for", "the condition looks for nothing")
		}
	case Pattern:
		if len(c.Text) > maxPattern {
			return bad("Make it shorter", "the pattern is longer than %d bytes", maxPattern)
		}
		if _, err := regexp.Compile(c.Text); err != nil {
			return bad(`Mend it; a mark such as ( or . is itself with \ before it`, "the pattern cannot be read: %s", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
		}
	case Range:
		if c.From == "" && c.To == "" {
			return bad("Give at least one end", "the range has no ends")
		}
	case Unread:
		if c.Text != "" && !slices.Contains(reading.Kinds, reading.Kind(c.Text)) {
			return bad("Choose one of the readings, or none for the column's own", "there is no reading %q", c.Text)
		}
	case Blank:
	case Differs:
		if c.Other == "" {
			return bad("Choose the column to compare with", "the other column is missing")
		}
	default:
		return problem.New("", "there is no condition called %q", c.Op)
	}
	if c.Column == "" {
		return problem.New("Choose a column", "the condition has no column")
	}
	return nil
}

// Words says the condition as the end of a sentence: "where gear is Gill net".
func (c *Condition) Words() string {
	words := c.words()
	if (c.Op == All || c.Op == Any) && !c.Not && len(c.Of) > 1 {
		return words[1 : len(words)-1]
	}
	return words
}

// words puts what is joined between brackets.
func (c *Condition) words() string {
	not := ""
	if c.Not {
		not = "not "
	}
	switch c.Op {
	case All, Any:
		var parts []string
		for i := range c.Of {
			parts = append(parts, c.Of[i].words())
		}
		join := map[string]string{All: " and ", Any: " or "}[c.Op]
		if len(parts) == 1 && !c.Not {
			return parts[0]
		}
		return not + "(" + strings.Join(parts, join) + ")"
	case Is:
		return fmt.Sprintf("%s is %s%s", c.Column, not, listed(c.Values))
	case Contains, Starts, Ends:
		what := map[string]string{Contains: "contain", Starts: "start with", Ends: "end with"}[c.Op]
		if c.Column == "" {
			return fmt.Sprintf("%scolumn %ss “%s”", map[bool]string{false: "any ", true: "no "}[c.Not], what, c.Text)
		}
		if c.Not {
			return fmt.Sprintf("%s does not %s “%s”", c.Column, what, c.Text)
		}
		verb := map[string]string{Contains: "contains", Starts: "starts with", Ends: "ends with"}[c.Op]
		return fmt.Sprintf("%s %s “%s”", c.Column, verb, c.Text)
	case Pattern:
		return fmt.Sprintf("%s does %smatch %s", c.Column, not, c.Text)
	case Shape:
		return fmt.Sprintf("%s is %sof the shape %s", c.Column, not, c.Text)
	case Range:
		switch {
		case c.To == "":
			return fmt.Sprintf("%s is %sat least %s", c.Column, not, c.From)
		case c.From == "":
			return fmt.Sprintf("%s is %sat most %s", c.Column, not, c.To)
		}
		return fmt.Sprintf("%s is %sfrom %s to %s", c.Column, not, c.From, c.To)
	case Blank:
		return fmt.Sprintf("%s is %sblank", c.Column, not)
	case Unread:
		what := " as it should"
		if c.Text != "" {
			what = " as " + reading.Plain(reading.Kind(c.Text)).Words()
		}
		return c.Column + map[bool]string{false: " does not read", true: " reads"}[c.Not] + what
	case Differs:
		return fmt.Sprintf("%s is %s %s", c.Column, map[bool]string{false: "not the same as", true: "the same as"}[c.Not], c.Other)
	}
	return c.Op
}

// listed names up to three values.
func listed(values []string) string {
	var out []string
	for _, v := range values[:min(len(values), 3)] {
		out = append(out, "“"+v+"”")
	}
	if more := len(values) - len(out); more > 0 {
		return strings.Join(out, ", ") + fmt.Sprintf(" or %d more", more)
	}
	return strings.Join(out, " or ")
}
