package text

import (
	"strings"
	"unicode"
)

// Shape is the pattern of a value: A for a capital letter, a for another letter, 9 for a
// digit, everything else as it stands. Runs of more than three capital letters, one other
// letter or eight digits are written once with … after them, so that names of any length
// have one shape.
func Shape(v string) string {
	var b strings.Builder
	var last rune
	run := 0
	for _, r := range v {
		c, most := r, 1<<30
		switch {
		case unicode.IsDigit(r):
			c, most = '9', 8
		case unicode.IsUpper(r):
			c, most = 'A', 3
		case unicode.IsLetter(r):
			c, most = 'a', 1
		}
		if c == last {
			run++
		} else {
			last, run = c, 1
		}
		switch {
		case run <= most:
			b.WriteRune(c)
		case run == most+1:
			s := b.String()
			b.Reset()
			b.WriteString(s[:len(s)-most+1])
			b.WriteRune('…')
		}
	}
	return b.String()
}
