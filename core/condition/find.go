package condition

import (
	"bytes"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// hits says for each code of a dictionary whether its value holds the condition, Missing
// among them. any is false where none does. Cost: O(bytes of the values).
func (c *Condition) hits(col *table.Column) (hit []bool, any bool, err error) {
	d := col.Dict
	hit = make([]bool, d.Len()+1)
	mark := func(code uint32) { hit[code], any = true, true }
	each := func(holds func(code int, v string) bool) {
		for code := 1; code < len(hit); code++ {
			if holds(code, d.Value(uint32(code))) {
				mark(uint32(code))
			}
		}
	}
	switch c.Op {
	case Is:
		for _, v := range c.Values {
			if code, ok := d.Find(v); ok {
				mark(code)
			}
		}
	case Contains:
		c.search(d, mark)
	case Starts, Ends:
		want, at := c.Text, strings.HasPrefix
		if c.Op == Ends {
			at = strings.HasSuffix
		}
		if c.Case {
			each(func(_ int, v string) bool { return at(v, want) })
			break
		}
		want = strings.ToLower(want)
		each(func(_ int, v string) bool { return at(strings.ToLower(v), want) })
	case Pattern:
		re := regexp.MustCompile(c.Text) // Check compiled it
		each(func(_ int, v string) bool { return re.MatchString(v) })
	case Shape:
		each(func(_ int, v string) bool { return text.Shape(v) == c.Text })
	case Range:
		holds, err := c.within(col)
		if err != nil {
			return nil, false, err
		}
		each(holds)
	case Blank:
		mark(table.Missing)
		each(func(_ int, v string) bool { return strings.TrimFunc(v, unicode.IsSpace) == "" })
	case Unread:
		read := col.Read()
		if kind := reading.Kind(c.Text); kind != "" && kind != read.Reading.Kind {
			read = d.ReadAs(reading.Plain(kind))
		}
		each(func(code int, v string) bool { return !read.OK[code] && strings.TrimFunc(v, unicode.IsSpace) != "" })
	}
	return hit, any, nil
}

// search marks the values that contain the text, by going over the bytes of all values at
// once. Letter case is ignored for the letters of ASCII at that speed, for others value by
// value.
func (c *Condition) search(d *table.Dict, mark func(uint32)) {
	arena, ends := d.Raw()
	found := func(at, n int) int { // marks the value at a place of the arena, gives where to go on
		code, _ := slices.BinarySearch(ends, uint32(at+1))
		if at+n <= int(ends[code]) {
			mark(uint32(code))
			return int(ends[code])
		}
		return at + 1 // it runs over the end of a value
	}
	want := []byte(c.Text)
	if c.Case {
		for at := 0; ; {
			i := bytes.Index(arena[at:], want)
			if i < 0 {
				return
			}
			at = found(at+i, len(want))
		}
	}
	if strings.ContainsFunc(c.Text, func(r rune) bool { return r >= utf8.RuneSelf }) || foldsBeyond(c.Text, arena) {
		lower := strings.ToLower(c.Text)
		for code := uint32(1); code <= uint32(d.Len()); code++ {
			if strings.Contains(strings.ToLower(d.Value(code)), lower) {
				mark(code)
			}
		}
		return
	}
	lower, upper := bytes.ToLower(want), bytes.ToUpper(want)
	for at := 0; at+len(want) <= len(arena); {
		i := either(arena[at:], lower[0], upper[0])
		if i < 0 || at+i+len(want) > len(arena) {
			return
		}
		at += i
		if sameFold(arena[at:at+len(want)], lower, upper) {
			at = found(at, len(want))
		} else {
			at++
		}
	}
}

// foldsBeyond says whether a letter of the text is also the lower case of one beyond ASCII
// that stands among the values: k is that of the Kelvin sign, i of the capital I with a dot.
func foldsBeyond(text string, arena []byte) bool {
	return strings.ContainsAny(text, "kK") && bytes.Contains(arena, []byte("\u212a")) || strings.ContainsAny(text, "iI") && bytes.Contains(arena, []byte("\u0130"))
}

// either finds the first of two bytes.
func either(b []byte, x, y byte) int {
	if x == y {
		return bytes.IndexByte(b, x)
	}
	for i, c := range b {
		if c == x || c == y {
			return i
		}
	}
	return -1
}

func sameFold(b, lower, upper []byte) bool {
	for i, c := range b {
		if c != lower[i] && c != upper[i] {
			return false
		}
	}
	return true
}
