package reading

import (
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// maxUnit is the longest unit in bytes; maxNumber the longest number with all that is
// beside it.
const (
	maxUnit   = 24
	maxNumber = 96
)

// number reads a value under a reading of numbers.
func (r Reading) number(v string) (float64, bool) {
	if at, ok := plainNumber(v, r.Decimal); ok {
		return at, !r.Whole || at == math.Trunc(at)
	}
	p, ok := splitNumber(v)
	if !ok || p.unit != "" && !sameUnit(p.unit, r.Unit) {
		return 0, false
	}
	at, ok := r.core(p.core)
	if p.negative {
		at = -at
	}
	return at, ok && (!r.Whole || at == math.Trunc(at))
}

// plainNumber reads digits with one decimal mark at most and a minus, which is what most
// numbers are.
func plainNumber(v, decimal string) (float64, bool) {
	if v == "" || len(v) > 15 {
		return 0, false
	}
	i, negative := 0, v[0] == '-'
	if negative {
		i = 1
	}
	whole, scale, digits := int64(0), -1, 0
	for ; i < len(v); i++ {
		switch c := v[i]; {
		case '0' <= c && c <= '9':
			whole = whole*10 + int64(c-'0')
			digits++
			if scale >= 0 {
				scale++
			}
		case c == decimal[0] && scale < 0 && digits > 0:
			scale = 0
		default:
			return 0, false
		}
	}
	if digits == 0 || scale == 0 {
		return 0, false
	}
	at := float64(whole)
	if scale > 0 {
		at /= tens[scale] // both exact below 2^53, so the quotient is the nearest float
	}
	if negative {
		at = -at
	}
	return at, true
}

var tens = [...]float64{1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15}

// parts are what a number is written with.
type parts struct {
	negative bool
	core     string // digits with their marks, and an exponent
	unit     string // unit or currency, before or after
	tight    bool   // nothing stands between the last digit and the unit
}

// splitNumber cuts a value into sign, number and unit. Negative are numbers with a minus
// before or after, or between brackets.
func splitNumber(v string) (p parts, ok bool) {
	if len(v) > maxNumber {
		return p, false
	}
	v = strings.TrimFunc(v, unicode.IsSpace)
	if n := len(v); n > 2 && v[0] == '(' && v[n-1] == ')' {
		p.negative, v = true, strings.TrimFunc(v[1:n-1], unicode.IsSpace)
	}
	from := strings.IndexAny(v, "0123456789")
	if from < 0 {
		return p, false
	}
	if from > 0 && (v[from-1] == '.' || v[from-1] == ',') {
		from-- // .5
	}
	before, rest := v[:from], v[from:]
	for _, sign := range []string{"-", "−", "+"} {
		if cut, found := strings.CutPrefix(before, sign); found {
			before = cut
		} else if cut, found := strings.CutSuffix(before, sign); found {
			before = cut
		} else {
			continue
		}
		if p.negative && sign != "+" {
			return p, false // a minus between brackets
		}
		p.negative = p.negative || sign != "+"
		break
	}
	before = strings.TrimFunc(before, unicode.IsSpace)
	if before != "" && !isCurrency(before) {
		return p, false
	}
	to := coreEnd(rest)
	p.core = rest[:to]
	after := strings.TrimFunc(rest[to:], unicode.IsSpace)
	for _, sign := range []string{"-", "−"} {
		if cut, found := strings.CutPrefix(after, sign); found && !p.negative {
			p.negative, after = true, strings.TrimFunc(cut, unicode.IsSpace)
		}
	}
	if before != "" && after != "" || after != "" && !isUnit(after) {
		return p, false
	}
	p.unit, p.tight = before+after, after != "" && strings.HasPrefix(rest[to:], after)
	return p, true
}

// coreEnd finds the end of the digits and marks a value begins with, an exponent included.
func coreEnd(v string) int {
	end := 0
	for i := 0; i < len(v); {
		c, n := utf8.DecodeRuneInString(v[i:])
		switch {
		case '0' <= c && c <= '9':
			end = i + n
		case c == '.' || c == ',':
		case groupMark(c) != 0:
			// A space or an apostrophe belongs to the number only before three digits.
			if d := digits(v[i+n:]); d != 3 {
				return end
			}
		case (c == 'e' || c == 'E') && end == i:
			rest := strings.TrimLeft(v[i+1:], "+-")
			if d := digits(rest); d > 0 && d == len(rest) && len(v[i+1:])-len(rest) <= 1 {
				return len(v)
			}
			return end
		default:
			return end
		}
		i += n
	}
	return end
}

func digits(v string) int {
	n := 0
	for n < len(v) && '0' <= v[n] && v[n] <= '9' {
		n++
	}
	return n
}

// groupMark gives the plain form of a space or an apostrophe that can stand between
// thousands, 0 for another character. (Unicode CLDR, number symbols: U+00A0, U+202F and
// U+2019 are the group marks of several languages.)
func groupMark(c rune) byte {
	switch c {
	case ' ', '\u00a0', '\u2009', '\u202f':
		return ' '
	case '\'', '’':
		return '\''
	}
	return 0
}

// core reads what plain gives.
func (r Reading) core(v string) (float64, bool) {
	out, ok := r.plain(v)
	if !ok {
		return 0, false
	}
	at, err := strconv.ParseFloat(out, 64)
	return at, err == nil && !math.IsInf(at, 0)
}

// plain gives digits with the marks of the reading as digits with a decimal point at most, and
// the exponent. Between thousands the mark must stand before every group of three or nowhere;
// groups of two above the first three are read too (12,34,567).
func (r Reading) plain(v string) (string, bool) {
	number, exponent := v, ""
	if at := strings.IndexAny(v, "eE"); at >= 0 {
		number, exponent = v[:at], v[at:]
	}
	whole, fraction, dotted := strings.Cut(number, r.Decimal)
	if dotted && digits(fraction) != len(fraction) || dotted && fraction == "" {
		return "", false
	}
	var out []byte
	run, groups := 0, 0 // digits since the last mark, marks seen
	for i := 0; i < len(whole); {
		c, n := utf8.DecodeRuneInString(whole[i:])
		switch {
		case '0' <= c && c <= '9':
			out = append(out, byte(c))
			run++
		case r.Group != "" && (c == rune(r.Group[0]) || groupMark(c) == r.Group[0]):
			if run == 0 || groups == 0 && run > 3 || groups > 0 && run != 3 && run != 2 {
				return "", false
			}
			groups, run = groups+1, 0
		default:
			return "", false
		}
		i += n
	}
	if groups > 0 && run != 3 || len(out) == 0 && fraction == "" {
		return "", false
	}
	if dotted {
		out = append(append(out, '.'), fraction...)
	}
	return string(out) + exponent, true
}

// currencies are the signs and codes of ISO 4217 that may stand before a number, and the
// code each sign stands for where it stands for one.
var currencies = map[string]string{"€": "EUR", "£": "GBP", "₹": "INR", "₽": "RUB", "₺": "TRY", "₩": "KRW", "₪": "ILS", "₫": "VND", "₴": "UAH", "฿": "THB", "zł": "PLN", "Kč": "CZK"}

var currencyCodes = func() map[string]bool {
	out := map[string]bool{}
	for _, code := range strings.Fields(`AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLP CNY COP CRC CUP
		CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD
		KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB
		RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD UYU UZS VED VES VND VUV WST XAF XCD XOF XPF YER ZAR
		ZMW ZWG`) {
		out[code] = true
	}
	return out
}()

func isCurrency(s string) bool {
	if currencyCodes[strings.ToUpper(s)] || currencies[s] != "" {
		return true
	}
	c, n := utf8.DecodeRuneInString(s)
	if n == len(s) {
		return unicode.Is(unicode.Sc, c)
	}
	// A$, US$, C$
	return strings.HasSuffix(s, "$") && len(s) <= 3
}

// units are those that are known by their spelling. Others are taken for units only where a
// whole column has the same.
var units = func() map[string]bool {
	out := map[string]bool{}
	for _, u := range strings.Fields(`% ‰ ° °C °F C F K t kg g mg µg lb lbs oz st cwt tonne tonnes ton tons mt m cm mm km µm nm nmi mi ft in yd m² m2 km² ha ac m³ m3 cm³ l L ml cl dl hl gal
		s sec min h hr hrs d wk mo yr years days hours kW MW W kWh J kJ V A Hz kHz MHz GHz kn kt kts km/h mph m/s hp GT dwt bar Pa hPa kPa psi B kB KB MB GB TB pcs pc ea x px pt dB ppm`) {
		out[u] = true
	}
	return out
}()

// isUnit says whether what stands behind a number may be a unit or a currency: letters and
// signs without digits, but for a power of 2 or 3.
func isUnit(s string) bool {
	if len(s) > maxUnit {
		return false
	}
	s = strings.TrimRight(s, "23²³")
	says := false
	for _, c := range s {
		switch {
		case unicode.IsLetter(c) || strings.ContainsRune("%‰°'\"′″", c) || unicode.Is(unicode.Sc, c):
			says = true
		case strings.ContainsRune("/·. ", c):
		default:
			return false
		}
	}
	return says
}

// sameUnit compares two units: € is EUR, Kg. is kg, but mm is not Mm.
func sameUnit(a, b string) bool {
	if a == b {
		return true
	}
	a, b = plainUnit(a), plainUnit(b)
	return a == b || !(units[a] && units[b]) && strings.EqualFold(a, b)
}

func plainUnit(u string) string {
	u = strings.TrimSuffix(u, ".")
	if code := currencies[u]; code != "" {
		return code
	}
	return u
}

// Quantity reads a number with the unit it carries, such as 56.4 °F or 1.2 t.
func Quantity(v string) (at float64, unit string, ok bool) {
	p, ok := splitNumber(v)
	if !ok {
		return 0, "", false
	}
	at, ok = Plain(Number).core(p.core)
	if p.negative {
		at = -at
	}
	return at, p.unit, ok
}
