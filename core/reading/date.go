package reading

import (
	_ "embed"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"grandledger/core/text"
)

//go:embed months.tsv
var monthNames string

// months gives the month of a folded name, in any of the languages.
var months = func() map[string]time.Month {
	out := map[string]time.Month{}
	for line := range strings.Lines(monthNames) {
		if strings.HasPrefix(line, "#") {
			continue
		}
		for month, names := range strings.Split(strings.TrimSpace(line), "\t") {
			if month == 0 { // the language
				continue
			}
			for _, name := range strings.Split(names, ",") {
				out[text.Fold(name)] = time.Month(month)
			}
		}
	}
	return out
}()

// besides are the words that may stand in a date beside the month: ordinals, small words,
// days of the week in English (RFC 5322).
var besides = func() map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(`st nd rd th er de del d di of the den le ta г р mon tue wed thu fri sat sun
		monday tuesday wednesday thursday friday saturday sunday`) {
		out[w] = true
	}
	return out
}()

// pieces are what a date is written with.
type pieces struct {
	numbers [3]int
	widths  [3]int // digits of each
	n       int
	month   time.Month // from a name, 0 where there is none
	seconds float64    // of the day, from UTC where a zone is written
}

// date reads a value under a reading of dates.
func (r Reading) date(v string) (float64, bool) {
	p, ok := splitDate(v)
	if !ok {
		return 0, false
	}
	return p.under(r)
}

// under reads the pieces of a date by the order and years of a reading.
func (p *pieces) under(r Reading) (float64, bool) {
	var d, m, y int // places among the numbers
	switch {
	case p.month != 0 && p.n == 2:
		d, y = 0, 1
		if p.widths[0] > 2 {
			d, y = 1, 0
		}
		return p.day(r, p.numbers[d], int(p.month), y)
	case p.month != 0 || p.n != 3:
		return 0, false
	case p.widths[0] > 2 || r.Order == YearFirst && p.widths[2] <= 2:
		y, m, d = 0, 1, 2
	case r.Order == DayFirst:
		d, m, y = 0, 1, 2
	case r.Order == MonthFirst:
		m, d, y = 0, 1, 2
	case p.numbers[0] > 12 || p.numbers[0] == p.numbers[1]:
		d, m, y = 0, 1, 2
	case p.numbers[1] > 12:
		m, d, y = 0, 1, 2
	default:
		return 0, false // it could be either, and nobody has said which
	}
	if p.widths[d] > 2 || p.widths[m] > 2 {
		return 0, false
	}
	return p.day(r, p.numbers[d], p.numbers[m], y)
}

func (p *pieces) day(r Reading, day, month, at int) (float64, bool) {
	year := p.numbers[at]
	switch p.widths[at] {
	case 4:
	case 1, 2:
		if r.Years == 0 || p.widths[at] == 1 {
			return 0, false
		}
		year += r.Years / 100 * 100
		if year < r.Years {
			year += 100
		}
	default:
		return 0, false
	}
	if month < 1 || month > 12 || day < 1 || day > 31 {
		return 0, false
	}
	t := time.Date(year, time.Month(month), day, 0, 0, 0, 0, time.UTC)
	if t.Day() != day {
		return 0, false // 30 February
	}
	return float64(t.Unix()/86400) + p.seconds/86400, true
}

// splitDate cuts a value into the numbers and the month of a date and its time of day.
func splitDate(v string) (p pieces, ok bool) {
	v = strings.TrimFunc(v, unicode.IsSpace)
	if len(v) < 6 || len(v) > 48 || !strings.ContainsAny(v[:min(len(v), 24)], "0123456789") {
		return p, false
	}
	if at := strings.IndexByte(v, ':'); at >= 0 {
		from := at
		for from > 0 && '0' <= v[from-1] && v[from-1] <= '9' {
			from--
		}
		if from < 6 || at-from > 2 || !p.clock(v[from:]) {
			return p, false
		}
		v = strings.TrimRight(strings.TrimSuffix(v[:from], "T"), " ,")
	}
	if d := digits(v); d == 8 && d == len(v) { // 20311004
		p.n, p.numbers, p.widths = 3, [3]int{number(v[:4]), number(v[4:6]), number(v[6:])}, [3]int{4, 2, 2}
		return p, p.numbers[0] >= 1000
	}
	return p, p.words(v)
}

func number(digits string) int {
	n := 0
	for i := range len(digits) {
		n = n*10 + int(digits[i]-'0')
	}
	return n
}

// words reads the numbers and the month's name of the date itself. Figures alone must have
// the same mark between them, or year and day would be taken from a range or a code.
func (p *pieces) words(v string) bool {
	var mark rune
	for i := 0; i < len(v); {
		c, n := utf8.DecodeRuneInString(v[i:])
		switch {
		case '0' <= c && c <= '9':
			d := digits(v[i:])
			if p.n == 3 || d > 4 {
				return false
			}
			p.numbers[p.n], p.widths[p.n] = number(v[i:i+d]), d
			p.n++
			n = d
		case unicode.IsLetter(c):
			for i+n < len(v) {
				next, more := utf8.DecodeRuneInString(v[i+n:])
				if !unicode.IsLetter(next) && !unicode.Is(unicode.Mn, next) {
					break
				}
				n += more
			}
			if !p.word(text.Fold(v[i : i+n])) {
				return false
			}
		case c == '-' || c == '/' || c == '.':
			if p.n == 0 && p.month == 0 || mark != 0 && mark != c && p.month == 0 {
				return false
			}
			mark = c
		case c == ' ' || c == ',' || c == '\'' || c == '’' || c == '\u00a0':
		default:
			return false
		}
		i += n
	}
	return p.month != 0 && p.n == 2 || p.month == 0 && p.n == 3
}

func (p *pieces) word(w string) bool {
	if month, ok := months[w]; ok && p.month == 0 {
		p.month = month
		return true
	}
	return besides[w]
}

// clock reads a time of day: hours and minutes, seconds with a fraction, am or pm, and a
// zone as ISO 8601 or RFC 5322 has it.
func (p *pieces) clock(v string) bool {
	zone := 0.0
	upper := strings.ToUpper(strings.TrimSpace(v))
	for _, z := range []string{"Z", " UTC", " GMT"} {
		upper = strings.TrimSuffix(upper, z)
	}
	if at := strings.LastIndexAny(upper, "+-"); at > 0 {
		z := strings.ReplaceAll(upper[at+1:], ":", "")
		if d := digits(z); d != len(z) || d != 2 && d != 4 {
			return false
		}
		zone = float64(number(z[:2])) * 3600
		if len(z) == 4 {
			zone += float64(number(z[2:])) * 60
		}
		if upper[at] == '-' {
			zone = -zone
		}
		upper = strings.TrimSpace(upper[:at])
	}
	half := -1
	for i, names := range [][]string{{"AM", "A.M."}, {"PM", "P.M."}} {
		for _, name := range names {
			if cut, found := strings.CutSuffix(upper, name); found {
				half, upper = i, strings.TrimSpace(cut)
			}
		}
	}
	fields := strings.Split(upper, ":")
	if len(fields) > 3 {
		return false
	}
	var hms [3]int
	fraction := 0.0
	for i, f := range fields {
		if i == 2 {
			whole, rest, cut := strings.Cut(f, ".")
			if cut {
				if digits(rest) != len(rest) || len(rest) > 9 || rest == "" {
					return false
				}
				fraction = float64(number(rest)) / tens[len(rest)]
			}
			f = whole
		}
		if len(f) == 0 || len(f) > 2 || digits(f) != len(f) {
			return false
		}
		hms[i] = number(f)
	}
	if half >= 0 {
		if hms[0] < 1 || hms[0] > 12 {
			return false
		}
		hms[0] = hms[0]%12 + 12*half
	}
	if hms[0] > 23 || hms[1] > 59 || hms[2] > 60 {
		return false
	}
	p.seconds = float64(hms[0]*3600+hms[1]*60+hms[2]) + fraction - zone
	return true
}
