package turtle

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
)

func (r *reader) number() (Term, error) {
	from := r.at
	for r.at < len(r.text) && strings.IndexByte("+-.0123456789eE", r.text[r.at]) >= 0 {
		r.at++
	}
	if r.text[r.at-1] == '.' { // it ends the statement
		r.at--
	}
	v := r.text[from:r.at]
	kind := "integer"
	switch {
	case strings.ContainsAny(v, "eE"):
		kind = "double"
	case strings.Contains(v, "."):
		kind = "decimal"
	}
	if _, err := strconv.ParseFloat(v, 64); err != nil && !strings.Contains(err.Error(), "range") {
		return Term{}, r.wrong("%q is no number", v)
	}
	return Term{Text: v, Datatype: xsd + kind}, nil
}

func (r *reader) literal() (Term, error) {
	quote := r.text[r.at : r.at+1]
	long := strings.Repeat(quote, 3)
	if strings.HasPrefix(r.text[r.at:], long) {
		quote = long
	}
	r.at += len(quote)
	from := r.at
	for {
		if r.at >= len(r.text) || len(quote) == 1 && (r.text[r.at] == '\n' || r.text[r.at] == '\r') {
			return Term{}, r.wrong("a text does not end")
		}
		if r.text[r.at] == '\\' {
			r.at += 2
			continue
		}
		if strings.HasPrefix(r.text[r.at:], quote) {
			for len(quote) == 3 && strings.HasPrefix(r.text[r.at+1:], quote) { // the last three of four or five
				r.at++
			}
			break
		}
		r.at++
	}
	raw := r.text[from:r.at]
	text, err := r.unescape(raw)
	if err != nil {
		return Term{}, err
	}
	r.line += strings.Count(raw, "\n")
	r.at += len(quote)
	t := Term{Text: text}
	switch {
	case r.peek() == '@':
		from := r.at + 1
		for r.at++; r.at < len(r.text) && (r.text[r.at] == '-' || r.text[r.at] >= '0' && r.text[r.at] <= '9' || r.text[r.at]|0x20 >= 'a' && r.text[r.at]|0x20 <= 'z'); r.at++ {
		}
		if t.Language = r.text[from:r.at]; t.Language == "" {
			return t, r.wrong("a language is missing behind @")
		}
	case strings.HasPrefix(r.text[r.at:], "^^"):
		r.at += 2
		if t.Datatype, err = r.resource(); err != nil {
			return t, err
		}
	}
	return t, nil
}

// unescape resolves \t \n \" \uXXXX and the like.
func (r *reader) unescape(v string) (string, error) {
	if strings.IndexByte(v, '\\') < 0 {
		return v, nil
	}
	var out strings.Builder
	for i := 0; i < len(v); i++ {
		if v[i] != '\\' {
			out.WriteByte(v[i])
			continue
		}
		if i++; i == len(v) {
			return "", r.wrong("a text ends in a backslash")
		}
		if at := strings.IndexByte(`tbnrf"'\`, v[i]); at >= 0 {
			out.WriteByte("\t\b\n\r\f\"'\\"[at])
			continue
		}
		n := map[byte]int{'u': 4, 'U': 8}[v[i]]
		if n == 0 || i+n >= len(v) {
			return "", r.wrong("%s is no mark for a letter", fmt.Sprintf(`\%c`, v[i]))
		}
		code, err := strconv.ParseUint(v[i+1:i+1+n], 16, 32)
		if err != nil || code > unicode.MaxRune {
			return "", r.wrong(`\%s is no letter`, v[i:i+1+n])
		}
		out.WriteRune(rune(code))
		i += n
	}
	return out.String(), nil
}
