package table

import (
	"math"
	"strconv"
	"strings"
	"time"
)

// Reading is how the text of a column is understood. The text itself stays as it came.
type Reading string

// The readings known today.
const (
	ReadText   Reading = "text"
	ReadCode   Reading = "code" // identifiers: leading zeros and letters carry meaning
	ReadNumber Reading = "number"
	ReadDate   Reading = "date"
	ReadYesNo  Reading = "yes/no"
)

// ParseNumber reads a decimal number: an optional sign, digits in groups of three
// split by commas or not split at all, a decimal point, an exponent. Spaces around it
// do not matter. The float serves profiles and order, never money.
func ParseNumber(s string) (float64, bool) {
	s = strings.TrimSpace(s)
	if s == "" || len(s) > 64 {
		return 0, false
	}
	for i := 0; i < len(s); i++ {
		if c := s[i]; !('0' <= c && c <= '9' || c == '.' || c == ',' || c == '-' || c == '+' || c == 'e' || c == 'E') {
			return 0, false
		}
	}
	if strings.IndexByte(s, ',') >= 0 {
		if !grouped(s) {
			return 0, false
		}
		s = strings.ReplaceAll(s, ",", "")
	}
	v, err := strconv.ParseFloat(s, 64)
	return v, err == nil && !math.IsInf(v, 0)
}

// grouped says whether the commas of a number stand before groups of three digits.
func grouped(s string) bool {
	whole := strings.TrimLeft(s, "+-")
	if at := strings.IndexAny(whole, ".eE"); at >= 0 {
		if strings.IndexByte(whole[at:], ',') >= 0 {
			return false
		}
		whole = whole[:at]
	}
	groups := strings.Split(whole, ",")
	for i, g := range groups {
		if len(g) != 3 && i > 0 || len(g) == 0 || len(g) > 3 {
			return false
		}
	}
	return true
}

// The date forms that can be read one way only. A form such as 4/10/2031 is left
// unread until somebody says which of the two is the month.
var dateForms = []string{"2006-01-02", "2006-01-02 15:04:05", time.RFC3339, "2 Jan 2006", "2 January 2006", "Jan 2 2006", "January 2 2006"}

// ParseDate reads an ISO 8601 date or a date with an English month name and gives the
// days since 1970-01-01.
func ParseDate(s string) (int32, bool) {
	s = strings.TrimSpace(s)
	if len(s) < 8 || len(s) > 40 || !strings.ContainsAny(s, "0123456789") {
		return 0, false
	}
	var forms []string
	switch {
	case s[4] == '-' && len(s) == 10:
		forms = dateForms[:1]
	case s[4] == '-':
		forms = dateForms[1:3]
	case strings.IndexByte(s, ' ') < 0:
		return 0, false
	default:
		s = strings.Join(strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == ',' }), " ")
		forms = dateForms[3:]
	}
	for _, form := range forms {
		if at, err := time.Parse(form, s); err == nil {
			return int32(at.Unix() / 86400), true
		}
	}
	return 0, false
}

// ParseYesNo reads yes/no, true/false, y/n and 1/0.
func ParseYesNo(s string) (yes, ok bool) {
	if s = strings.TrimSpace(s); len(s) > len("false") {
		return false, false
	}
	switch strings.ToLower(s) {
	case "yes", "y", "true", "1":
		return true, true
	case "no", "n", "false", "0":
		return false, true
	}
	return false, false
}

// codeLike tells identifiers: one word of digits with or without letters and joining
// marks, such as LK-004811, 0017 or PK214.
func codeLike(s string) (code, leadingZero bool) {
	s = strings.TrimSpace(s)
	digits, letters := 0, 0
	for _, r := range s {
		switch {
		case '0' <= r && r <= '9':
			digits++
		case 'A' <= r && r <= 'Z' || 'a' <= r && r <= 'z':
			letters++
		case r == '-' || r == '/' || r == '_' || r == '.':
		default:
			return false, false
		}
	}
	pure := digits > 0 && letters == 0 && digits == len(s)
	return digits > 0 && letters > 0 || pure, pure && len(s) > 1 && s[0] == '0'
}
