package entry

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Split cuts the values of a column into columns of their own, which stand behind it, or into
// rows.
type Split struct {
	Column  string   `json:"column"`
	By      By       `json:"by"`
	Marks   []string `json:"marks,omitempty"`  // of marks: any of them cuts, such as , & and
	Take    Take     `json:"take,omitempty"`   // of marks and pattern: which of them cut
	Widths  []int    `json:"widths,omitempty"` // of width: characters of each part; the rest is the last one
	Pattern string   `json:"pattern,omitempty"`
	Names   []string `json:"names,omitempty"` // of the new columns; the others are numbered
	Drop    bool     `json:"drop,omitempty"`  // the column itself goes
	Rows    bool     `json:"rows,omitempty"`  // into rows instead of columns: each part gets one, with the other cells of its row
}

// By is what a value is cut by.
type By string

// What values are cut by.
const (
	ByMarks   By = "marks"
	ByWidth   By = "width"
	ByPattern By = "pattern" // a regular expression (RE2)
	ByChange  By = "change"  // where letters and digits, or two scripts, meet
	ByList    By = "list"    // the items of a list, as the column is read
)

// Take says which of several marks in a value cut it.
type Take string

// Which marks cut.
const (
	Every Take = "every"
	First Take = "first"
	Last  Take = "last"
)

// maxParts is how many columns one is split into at most.
const maxParts = 50

// Words says what the column is split by.
func (e *Split) Words() string {
	by := ""
	switch e.By {
	case ByMarks:
		var marks []string
		for _, m := range e.Marks {
			marks = append(marks, "“"+m+"”")
		}
		by = " by " + map[Take]string{First: "the first of ", Last: "the last of "}[e.Take] + strings.Join(marks, ", ")
	case ByWidth:
		by = fmt.Sprintf(" by widths of %s characters", strings.Trim(fmt.Sprint(e.Widths), "[]"))
	case ByPattern:
		by = " by " + map[Take]string{First: "the first of ", Last: "the last of "}[e.Take] + "what matches " + e.Pattern
	case ByChange:
		by = " where letters, digits or scripts meet"
	case ByList:
		by = " by its items"
	}
	if e.Rows {
		by = " into rows" + by
	}
	return "Split " + e.Column + by
}

// Cost: O(bytes of the distinct values); no row is touched.
func (e *Split) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	c, at, err := column(t, e.Column)
	if err != nil {
		return nil, err
	}
	cut, err := e.cutter(c)
	if err != nil {
		return nil, err
	}
	n := t.Rows()
	counts := t.Counts(c)
	parts := make([][]string, len(counts))
	most := 0
	for code := 1; code < len(counts); code++ {
		if parts[code] = cut(c.Dict.Value(uint32(code))); counts[code] > 0 && len(parts[code]) > most {
			most = len(parts[code])
			if most > maxParts && !e.Rows {
				p := problem.New("Cut by the first or the last mark, or by something rarer", "“%s” would become %d columns, at most %d are made", brief(c.Dict.Value(uint32(code))), most, maxParts)
				p.Column = c.Name
				return nil, p
			}
		}
	}
	if most < 2 {
		p := problem.New("Choose another mark", "no value of it would be cut")
		p.Column = c.Name
		return nil, p
	}
	if e.Rows {
		for _, all := range parts {
			for i := range all {
				all[i] = strings.TrimSpace(all[i])
			}
		}
		return explode(t, c, at, parts)
	}
	wanted := make([]string, most)
	for i := range wanted {
		if i < len(e.Names) && strings.TrimSpace(e.Names[i]) != "" {
			wanted[i] = strings.TrimSpace(e.Names[i])
		} else {
			wanted[i] = fmt.Sprintf("%s %d", c.Name, i+1)
		}
	}
	effect := Effect{Balance: Balance{Before: n, After: n}}
	columns := slices.Clone(t.Columns()[:at+1])
	if e.Drop {
		columns = columns[:at]
		effect.Columns = append(effect.Columns, ColumnEffect{Column: c.Name, Cells: n, DistinctBefore: distinct(counts)})
	}
	for i, name := range free(t, wanted) {
		made := derived(c, name, func(code uint32, _ string) string {
			if i < len(parts[code]) {
				return strings.TrimSpace(parts[code][i])
			}
			return ""
		})
		columns = append(columns, made)
		effect.Columns = append(effect.Columns, added(t, made))
	}
	out, err := shaped(t, append(columns, t.Columns()[at+1:]...), &effect)
	if err != nil {
		return nil, err
	}
	return &Result{Table: out, Effect: effect}, nil
}

// derived gives a column worked out from the values of another one: the same codes under
// another dictionary. Cells that do not exist do not exist in it either.
func derived(c *table.Column, name string, of func(code uint32, v string) string) *table.Column {
	made, _ := c.Rewrite(func() func(uint32, string) string { return of })
	made.Name, made.Reading = name, reading.Reading{}
	return made
}

// cutter gives the function that cuts a value.
func (e *Split) cutter(c *table.Column) (func(string) []string, error) {
	switch e.By {
	case ByList:
		r := c.Effective()
		if r.Kind != reading.List {
			p := problem.New("Read it as a list first, or split it by marks", "it is read as %s", r.Words())
			p.Column = c.Name
			return nil, p
		}
		return func(v string) []string { items, _ := r.Items(v); return items }, nil
	case ByWidth:
		if len(e.Widths) == 0 || slices.Min(e.Widths) < 1 {
			return nil, problem.New("Give how many characters each part has", "there are no widths to cut by")
		}
		return e.widths, nil
	case ByChange:
		return changes, nil
	case ByMarks, ByPattern:
		pattern := e.Pattern
		if e.By == ByMarks {
			var marks []string
			for _, m := range e.Marks {
				if m == "" {
					continue
				}
				quoted := regexp.QuoteMeta(m)
				if word := regexp.MustCompile(`^[\pL\pN]+$`); word.MatchString(m) {
					quoted = `\b` + quoted + `\b` // "and" does not cut "sandeel"
				}
				marks = append(marks, quoted)
			}
			pattern = strings.Join(marks, "|")
		}
		if pattern == "" || len(pattern) > 1000 {
			return nil, problem.New("Give at least one mark, of reasonable length", "there is nothing to cut by")
		}
		re, err := regexp.Compile(pattern)
		if err != nil {
			return nil, problem.New(`Mend it; a mark such as ( or . is itself with \ before it`, "the pattern cannot be read: %s", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
		}
		return func(v string) []string { return e.matches(re, v) }, nil
	}
	return nil, problem.New("Use marks, width, pattern or change", "there is no way to split called %q", e.By)
}

func (e *Split) matches(re *regexp.Regexp, v string) []string {
	all := re.FindAllStringIndex(v, -1)
	all = slices.DeleteFunc(all, func(m []int) bool { return m[0] == m[1] })
	switch {
	case len(all) == 0:
		return []string{v}
	case e.Take == First:
		all = all[:1]
	case e.Take == Last:
		all = all[len(all)-1:]
	}
	var out []string
	from := 0
	for _, m := range all {
		out = append(out, v[from:m[0]])
		from = m[1]
	}
	return append(out, v[from:])
}

func (e *Split) widths(v string) []string {
	var out []string
	for _, w := range e.Widths {
		end := 0
		for ; w > 0 && end < len(v); w-- {
			_, n := utf8.DecodeRuneInString(v[end:])
			end += n
		}
		out = append(out, v[:end])
		v = v[end:]
	}
	if v != "" {
		out = append(out, v)
	}
	return out
}

// changes cuts where letters meet digits and where one script meets another; marks and
// spaces stay with what they follow.
func changes(v string) []string {
	var out []string
	from, last := 0, 0
	for i, r := range v {
		now := 0
		switch {
		case unicode.IsDigit(r):
			now = 1
		case unicode.Is(unicode.Latin, r):
			now = 2
		case unicode.IsLetter(r):
			now = 3
		}
		if now != 0 && last != 0 && now != last {
			out = append(out, v[from:i])
			from = i
		}
		if now != 0 {
			last = now
		}
	}
	return append(out, v[from:])
}
