package reading

import (
	"encoding/json"
	"math"
	"regexp"
	"strconv"
	"strings"
	"unsafe"
)

// yesNo reads yes/no, true/false, y/n and 1/0.
func yesNo(v string) (float64, bool) {
	if v = strings.TrimSpace(v); len(v) > len("false") {
		return 0, false
	}
	switch strings.ToLower(v) {
	case "yes", "y", "true", "1":
		return 1, true
	case "no", "n", "false", "0":
		return 0, true
	}
	return 0, false
}

// codeLike tells identifiers: one word of digits with or without letters and joining
// marks, such as LK-004811, 0017 or PK214.
func codeLike(s string) (code, leadingZero bool) {
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

// email is the form of a valid e-mail address in the WHATWG's HTML standard (section
// 4.10.5.1.5), with at least one dot in the domain.
var email = regexp.MustCompile(`^[a-zA-Z0-9.!#$%&'*+/=?^_` + "`" + `{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)+$`)

func isEmail(v string) bool {
	return len(v) <= 254 && strings.IndexByte(v, '@') > 0 && email.MatchString(strings.TrimPrefix(v, "mailto:"))
}

// web is an http or ftp address (RFC 3986), or a host name that begins with www.
var web = regexp.MustCompile(`(?i)^(?:(?:https?|ftp)://[^\s/?#]+|www\.[^\s/?#.]+\.[^\s/?#]+)(?:[/?#]\S*)?$`)

func isWeb(v string) bool { return len(v) <= 2048 && web.MatchString(v) }

// isTelephone takes 6 to 15 digits (ITU-T E.164) with the marks they are written with, which
// begin with a plus, a zero or a bracket, and an extension.
func isTelephone(v string) bool {
	v = strings.TrimPrefix(v, "tel:")
	if v == "" || len(v) > 40 || !strings.ContainsRune("+0(", rune(v[0])) {
		return false
	}
	lower := strings.ToLower(v)
	for _, mark := range []string{" ext.", " ext", " x", "x"} {
		if at := strings.Index(lower, mark); at > 0 {
			rest := strings.TrimSpace(lower[at+len(mark):])
			if d := digits(rest); d == 0 || d != len(rest) || d > 6 {
				return false
			}
			lower = lower[:at]
			break
		}
	}
	n := 0
	for i, c := range lower {
		switch {
		case '0' <= c && c <= '9':
			n++
		case c == '+' && i == 0:
		case c == ' ' || c == '-' || c == '.' || c == '/' || c == '(' || c == ')' || c == '\u00a0':
		default:
			return false
		}
	}
	return n >= 6 && n <= 15
}

// Coordinates: degrees with a fraction, degrees, minutes and seconds, a point as the OGC's
// well-known text has it, or a geo address (RFC 5870).
var (
	degrees = regexp.MustCompile(`(?i)^(?:geo:)?([-+]?\d{1,3}(?:\.\d+)?)\s*°?\s*([NS])?\s*[,;\s/]\s*([-+]?\d{1,3}(?:\.\d+)?)\s*°?\s*([EW])?$`)
	minutes = regexp.MustCompile(`(?i)^(\d{1,3})\s*°\s*(\d{1,2}(?:\.\d+)?)\s*['′’]\s*(?:(\d{1,2}(?:\.\d+)?)\s*(?:"|″|”|''))?\s*([NS])[,;\s]*(\d{1,3})\s*°\s*(\d{1,2}(?:\.\d+)?)\s*['′’]\s*(?:(\d{1,2}(?:\.\d+)?)\s*(?:"|″|”|''))?\s*([EW])$`)
	wkt     = regexp.MustCompile(`(?i)^POINT\s*\(\s*([-+]?\d{1,3}(?:\.\d+)?)\s+([-+]?\d{1,3}(?:\.\d+)?)\s*\)$`)
)

func isCoordinates(v string) bool {
	_, _, ok := Position(v)
	return ok
}

// Position reads coordinates as degrees north and east.
func Position(v string) (north, east float64, ok bool) {
	v = strings.TrimSpace(v)
	if len(v) < 3 || len(v) > 80 {
		return 0, 0, false
	}
	if m := degrees.FindStringSubmatch(v); m != nil {
		// Two whole numbers without any sign of degrees are more likely something else.
		if !strings.ContainsAny(v, ".°NSEWnsew") || (m[2] == "") != (m[4] == "") {
			return 0, 0, false
		}
		north, east = degree(m[1], "", "", m[2]), degree(m[3], "", "", m[4])
	} else if m := minutes.FindStringSubmatch(v); m != nil {
		north, east = degree(m[1], m[2], m[3], m[4]), degree(m[5], m[6], m[7], m[8])
	} else if m := wkt.FindStringSubmatch(v); m != nil {
		north, east = degree(m[2], "", "", ""), degree(m[1], "", "", "")
	} else {
		return 0, 0, false
	}
	return north, east, math.Abs(north) <= 90 && math.Abs(east) <= 180
}

func degree(whole, minutes, seconds, side string) float64 {
	value := func(s string) float64 { v, _ := strconv.ParseFloat(s, 64); return v } // the patterns let digits through alone
	at := value(whole)
	if minutes != "" {
		at += value(minutes)/60 + value(seconds)/3600
	}
	if side != "" && strings.Contains("SWsw", side) {
		return -at
	}
	return at
}

// isList says whether Items would give any, without cutting them apart.
func (r Reading) isList(v string) bool {
	if r.Separator != "" {
		return strings.Trim(v, r.Separator+" ") != ""
	}
	return strings.HasPrefix(v, "[") && strings.HasSuffix(v, "]") && json.Valid(unsafe.Slice(unsafe.StringData(v), len(v)))
}

// Items gives the items of a list: those of a JSON array, or what the separator splits. It
// is false for a value that is no such list.
func (r Reading) Items(v string) ([]string, bool) {
	v = strings.TrimSpace(v)
	if r.Separator != "" {
		var out []string
		for _, item := range strings.Split(v, r.Separator) {
			if item = strings.TrimSpace(item); item != "" {
				out = append(out, item)
			}
		}
		return out, len(out) > 0
	}
	if !strings.HasPrefix(v, "[") || !strings.HasSuffix(v, "]") {
		return nil, false
	}
	var raw []json.RawMessage
	if json.Unmarshal([]byte(v), &raw) != nil {
		return nil, false
	}
	out := make([]string, len(raw))
	for i, item := range raw {
		if json.Unmarshal(item, &out[i]) != nil {
			out[i] = string(item)
		}
	}
	return out, true
}
