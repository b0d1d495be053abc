package reading

import "strings"

// identifiers are the kinds that carry check characters.
var identifiers = map[Kind]func(v string) bool{
	IBAN: isIBAN, LEI: isLEI, ISNI: isISNI, ISBN: isISBN, ISSN: isISSN, EAN: isEAN, Luhn: isLuhn, IMO: isIMO,
}

// bare drops the spaces and hyphens an identifier is written with. Other characters than
// digits and capital letters make it none.
func bare(v string, marks string) (string, bool) {
	if len(v) > 64 {
		return "", false
	}
	var out [64]byte
	n := 0
	for i := range len(v) {
		c := v[i]
		switch {
		case '0' <= c && c <= '9' || 'A' <= c && c <= 'Z':
			out[n] = c
			n++
		case 'a' <= c && c <= 'z':
			out[n] = c - 'a' + 'A'
			n++
		case strings.IndexByte(marks, c) >= 0:
		default:
			return "", false
		}
	}
	return string(out[:n]), true
}

// Bare gives an identifier of a kind without what it is only written with: spaces, hyphens, its
// own name or web address. It is false where the kind carries no check characters, or v is none.
func Bare(k Kind, v string) (string, bool) {
	v = strings.TrimSpace(v)
	if holds := identifiers[k]; holds == nil || !holds(v) {
		return "", false
	}
	for _, before := range []string{"https://orcid.org/", "http://orcid.org/", "https://isni.org/isni/", "ISNI", "ISBN-13", "ISBN-10", "ISBN", "ISSN", "IMO"} {
		v = strings.TrimLeft(strings.TrimPrefix(v, before), ": ")
	}
	return bare(v, " -")
}

func allDigits(s string) bool { return s != "" && digits(s) == len(s) }

// mod97 is ISO 7064 MOD 97-10 with letters as 10 to 35.
func mod97(s string) int {
	m := 0
	for i := range len(s) {
		if c := s[i]; c <= '9' {
			m = (m*10 + int(c-'0')) % 97
		} else {
			m = (m*100 + int(c-'A') + 10) % 97
		}
	}
	return m
}

// isIBAN checks ISO 13616: country, two check digits and up to 30 characters, moved to the
// end for the check.
func isIBAN(v string) bool {
	s, ok := bare(v, " ")
	return ok && len(s) >= 15 && len(s) <= 34 && s[0] > '9' && s[1] > '9' && allDigits(s[2:4]) && mod97(s[4:]+s[:4]) == 1
}

// isLEI checks ISO 17442: 18 characters and two check digits.
func isLEI(v string) bool {
	s, ok := bare(v, " ")
	return ok && len(s) == 20 && allDigits(s[18:]) && !allDigits(s) && mod97(s) == 1
}

// isISNI checks ISO 27729 by ISO 7064 MOD 11-2, which ORCID uses too; an ORCID may stand as
// its web address.
func isISNI(v string) bool {
	for _, before := range []string{"https://orcid.org/", "http://orcid.org/", "https://isni.org/isni/", "ISNI "} {
		v = strings.TrimPrefix(v, before)
	}
	s, ok := bare(v, " -")
	if !ok || len(s) != 16 || !allDigits(s[:15]) {
		return false
	}
	total := 0
	for i := range 15 {
		total = (total + int(s[i]-'0')) * 2
	}
	return checkChar((12-total%11)%11) == s[15]
}

func checkChar(n int) byte {
	if n == 10 {
		return 'X'
	}
	return byte('0' + n)
}

// isISBN checks the ten-character form (weights 10 to 2, modulo 11) and the thirteen-digit
// form, which is an EAN that begins with 978 or 979.
func isISBN(v string) bool {
	for _, before := range []string{"ISBN-13", "ISBN-10", "ISBN"} {
		v = strings.TrimLeft(strings.TrimPrefix(v, before), ": ")
	}
	s, ok := bare(v, " -")
	if !ok {
		return false
	}
	if len(s) == 13 {
		return (strings.HasPrefix(s, "978") || strings.HasPrefix(s, "979")) && gtin(s)
	}
	return len(s) == 10 && mod11(s)
}

// mod11 checks a last character over weights that fall to 2.
func mod11(s string) bool {
	n := len(s) - 1
	if !allDigits(s[:n]) {
		return false
	}
	sum := 0
	for i := range n {
		sum += int(s[i]-'0') * (n + 1 - i)
	}
	return checkChar((11-sum%11)%11) == s[n]
}

// isISSN checks ISO 3297: seven digits and a check character, weights 8 to 2.
func isISSN(v string) bool {
	s, ok := bare(strings.TrimPrefix(strings.TrimPrefix(v, "ISSN"), " "), "-")
	return ok && len(s) == 8 && mod11(s)
}

// gtin checks the last digit over weights 3 and 1 from the right (GS1 General Specifications).
func gtin(s string) bool {
	if !allDigits(s) {
		return false
	}
	sum := 0
	for i := range len(s) {
		weight := 1
		if (len(s)-1-i)%2 == 1 {
			weight = 3
		}
		sum += int(s[i]-'0') * weight
	}
	return sum%10 == 0
}

func isEAN(v string) bool {
	s, ok := bare(v, " -")
	return ok && (len(s) == 8 || len(s) >= 12 && len(s) <= 14) && gtin(s)
}

// isLuhn checks ISO/IEC 7812-1 annex B over 8 to 19 digits.
func isLuhn(v string) bool {
	s, ok := bare(v, " -")
	if !ok || len(s) < 8 || len(s) > 19 || !allDigits(s) {
		return false
	}
	sum := 0
	for i := range len(s) {
		d := int(s[len(s)-1-i] - '0')
		if i%2 == 1 {
			if d *= 2; d > 9 {
				d -= 9
			}
		}
		sum += d
	}
	return sum%10 == 0
}

// isIMO checks a ship number: six digits over weights 7 to 2, the last digit of the sum at
// the end (IMO Resolution A.1117(30)).
func isIMO(v string) bool {
	s := strings.TrimSpace(strings.TrimPrefix(strings.TrimPrefix(v, "IMO"), ":"))
	if len(s) != 7 || !allDigits(s) {
		return false
	}
	sum := 0
	for i := range 6 {
		sum += int(s[i]-'0') * (7 - i)
	}
	return sum%10 == int(s[6]-'0')
}
