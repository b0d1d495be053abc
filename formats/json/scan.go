package json

import (
	"encoding/binary"
	"fmt"
	"math/bits"
	"strconv"
	"unicode/utf16"
	"unicode/utf8"
)

// A scanner walks over JSON text. Its functions take a place and give the place behind
// what they found; errShort says that the text ends too soon.
type scanner struct{ text []byte }

// A flaw is a place at which text is not JSON.
type flaw struct {
	at   int
	what string
}

func (f *flaw) Error() string { return f.what }

// short is the flaw of text that ends too soon.
var short = &flaw{what: "it ends in the middle"}

func (s *scanner) space(at int) int {
	for at < len(s.text) && (s.text[at] == ' ' || s.text[at] == '\n' || s.text[at] == '\t' || s.text[at] == '\r') {
		at++
	}
	return at
}

const (
	ones = 0x0101010101010101
	tops = 0x80 * ones
)

// str passes over a string whose first quotation mark is before at; plain says that it
// holds no escape. end is the place of the closing mark.
func (s *scanner) str(at int) (end int, plain bool, f *flaw) {
	plain = true
	for {
		for at+8 <= len(s.text) {
			w := binary.LittleEndian.Uint64(s.text[at:])
			quote, slash := w^(ones*'"'), w^(ones*'\\')
			m := ((quote - ones) &^ quote) | ((slash - ones) &^ slash) | ((w - ones*0x20) &^ w)
			if m &= tops; m != 0 {
				at += bits.TrailingZeros64(m) >> 3
				break
			}
			at += 8
		}
		if at >= len(s.text) {
			return at, plain, short
		}
		switch c := s.text[at]; {
		case c == '"':
			return at, plain, nil
		case c == '\\':
			plain = false
			if at+1 >= len(s.text) {
				return at, plain, short
			}
			if n, f := s.escape(at); f != nil {
				return at, plain, f
			} else {
				at += n
			}
		case c < ' ':
			return at, plain, &flaw{at, fmt.Sprintf("text holds the control character %#U, which must be written as an escape", c)}
		default:
			at++
		}
	}
}

// escape checks the escape at a place and gives its length.
func (s *scanner) escape(at int) (int, *flaw) {
	switch s.text[at+1] {
	case '"', '\\', '/', 'b', 'f', 'n', 'r', 't':
		return 2, nil
	case 'u':
		if at+6 > len(s.text) {
			return 0, short
		}
		if _, ok := hex4(s.text[at+2:]); ok {
			return 6, nil
		}
	}
	return 0, &flaw{at, "text holds an escape that JSON does not know"}
}

func hex4(text []byte) (rune, bool) {
	v := rune(0)
	for _, c := range text[:4] {
		switch {
		case '0' <= c && c <= '9':
			c -= '0'
		case 'a' <= c && c <= 'f':
			c -= 'a' - 10
		case 'A' <= c && c <= 'F':
			c -= 'A' - 10
		default:
			return 0, false
		}
		v = v<<4 | rune(c)
	}
	return v, true
}

// unescape appends the text of a checked string.
func unescape(out, text []byte) []byte {
	for i := 0; i < len(text); {
		c := text[i]
		if c != '\\' {
			out = append(out, c)
			i++
			continue
		}
		switch c = text[i+1]; c {
		case 'b':
			c = '\b'
		case 'f':
			c = '\f'
		case 'n':
			c = '\n'
		case 'r':
			c = '\r'
		case 't':
			c = '\t'
		case 'u':
			r, _ := hex4(text[i+2:])
			i += 6
			if utf16.IsSurrogate(r) {
				low := rune(0)
				if i+6 <= len(text) && text[i] == '\\' && text[i+1] == 'u' {
					low, _ = hex4(text[i+2:])
				}
				if r = utf16.DecodeRune(r, low); r != utf8.RuneError {
					i += 6
				}
			}
			out = utf8.AppendRune(out, r)
			continue
		}
		out = append(out, c)
		i += 2
	}
	return out
}

// number passes over a number.
func (s *scanner) number(at int) (int, *flaw) {
	from := at
	if s.text[at] == '-' {
		at++
	}
	switch whole := s.digits(at); {
	case at == len(s.text):
		return at, short
	case whole == at || s.text[at] == '0' && whole > at+1:
		return at, s.odd(from)
	default:
		at = whole
	}
	if at < len(s.text) && s.text[at] == '.' {
		end := s.digits(at + 1)
		if end == at+1 && end < len(s.text) {
			return at, s.odd(from)
		}
		at = end
	}
	if at < len(s.text) && (s.text[at] == 'e' || s.text[at] == 'E') {
		at++
		if at < len(s.text) && (s.text[at] == '+' || s.text[at] == '-') {
			at++
		}
		end := s.digits(at)
		if end == at && end < len(s.text) {
			return at, s.odd(from)
		}
		at = end
	}
	if last := s.text[at-1]; last < '0' || last > '9' {
		return at, short
	}
	return at, nil
}

func (s *scanner) digits(at int) int {
	for at < len(s.text) && '0' <= s.text[at] && s.text[at] <= '9' {
		at++
	}
	return at
}

// odd is the flaw of something that is no JSON value.
func (s *scanner) odd(at int) *flaw {
	end := at
	for end < len(s.text) && end < at+20 && s.text[end] > ' ' && s.text[end] != ',' && s.text[end] != '}' && s.text[end] != ']' {
		end++
	}
	return &flaw{at, fmt.Sprintf("%s is not a value of JSON", strconv.Quote(string(s.text[at:end])))}
}

// word passes over true, false or null.
func (s *scanner) word(at int) (int, *flaw) {
	for _, w := range [...]string{"true", "false", "null"} {
		rest := s.text[at:min(len(s.text), at+len(w))]
		if string(rest) == w {
			return at + len(w), nil
		}
		if len(rest) < len(w) && string(rest) == w[:len(rest)] {
			return at, short
		}
	}
	return at, s.odd(at)
}

// value passes over any value; loose says that there is white space within it.
func (s *scanner) value(at, depth int) (end int, loose bool, f *flaw) {
	if at >= len(s.text) {
		return at, false, short
	}
	switch c := s.text[at]; {
	case c == '"':
		end, _, f = s.str(at + 1)
		return end + 1, false, f
	case c == '{' || c == '[':
		return s.inside(at, depth)
	case c == '-' || '0' <= c && c <= '9':
		end, f = s.number(at)
		return end, false, f
	default:
		end, f = s.word(at)
		return end, false, f
	}
}

// inside passes over an object or a list.
func (s *scanner) inside(at, depth int) (end int, loose bool, f *flaw) {
	if depth >= maxDepth {
		return at, false, &flaw{at, fmt.Sprintf("objects and lists are more than %d deep in one another", maxDepth)}
	}
	object := s.text[at] == '{'
	at++
	step := func() {
		was := at
		at = s.space(at)
		loose = loose || at > was
	}
	for first := true; ; first = false {
		step()
		if at >= len(s.text) {
			return at, loose, short
		}
		if c := s.text[at]; c == '}' && object || c == ']' && !object {
			if first {
				return at + 1, loose, nil
			}
			return at, loose, &flaw{at, "a comma stands before the end of an object or a list"}
		}
		if object {
			if s.text[at] != '"' {
				return at, loose, &flaw{at, "a name in quotation marks is missing"}
			}
			if at, _, f = s.str(at + 1); f != nil {
				return at, loose, f
			}
			at++
			step()
			if at, f = s.colon(at); f != nil {
				return at, loose, f
			}
			step()
		}
		var within bool
		if at, within, f = s.value(at, depth+1); f != nil {
			return at, loose, f
		}
		loose = loose || within
		step()
		if at >= len(s.text) {
			return at, loose, short
		}
		switch c := s.text[at]; {
		case c == ',':
			at++
		case c == '}' && object || c == ']' && !object:
			return at + 1, loose, nil
		default:
			return at, loose, &flaw{at, "a comma or the end of an object or a list is missing"}
		}
	}
}

func (s *scanner) colon(at int) (int, *flaw) {
	if at >= len(s.text) {
		return at, short
	}
	if s.text[at] != ':' {
		return at, &flaw{at, "a colon is missing after a name"}
	}
	return at + 1, nil
}

// compact appends a checked value without the white space between its parts.
func compact(out, text []byte) []byte {
	s := scanner{text}
	for at := 0; at < len(text); {
		switch text[at] {
		case ' ', '\n', '\t', '\r':
			at++
		case '"':
			end, _, _ := s.str(at + 1)
			out = append(out, text[at:end+1]...)
			at = end + 1
		default:
			out = append(out, text[at])
			at++
		}
	}
	return out
}
