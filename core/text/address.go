package text

import (
	"regexp"
	"strings"
)

// Address is a postal address cut into its parts.
type Address struct {
	Number   string // of the house, 12a
	Street   string
	Postcode string
	Town     string
}

var (
	// postcodes are tried in this order: of the United Kingdom, Canada, the Netherlands, Poland and
	// Portugal, the United States with four more digits, then four to six digits alone.
	// (Universal Postal Union, addressing systems; from memory)
	postcodes = []*regexp.Regexp{
		regexp.MustCompile(`(?i)\b[A-Z]{1,2}\d[A-Z\d]? ?\d[A-Z]{2}\b`),
		regexp.MustCompile(`(?i)\b[A-Z]\d[A-Z] ?\d[A-Z]\d\b`),
		regexp.MustCompile(`\b\d{4} ?[A-Z]{2}\b`),
		regexp.MustCompile(`\b(?:\d{2}-\d{3}|\d{4}-\d{3})\b`),
		regexp.MustCompile(`\b\d{5}-\d{4}\b`),
		regexp.MustCompile(`\b(?:[A-Z]{1,2}-)?\d{4,6}\b`),
	}
	houseFirst = regexp.MustCompile(`^(\d+(?:[-/]\d+)?\s?[a-zA-Z]?)[ ,]+(\S.*)$`)
	houseLast  = regexp.MustCompile(`^(.*\S)[ ,]+(\d+(?:[-/]\d+)?\s?[a-zA-Z]?)$`)
)

// AddressOf cuts an address written on one line or several: the line with a house number is the
// street's, the postcode is known by its form, and the town stands beside it, or in the line
// before where it stands alone. What it does not find is blank. (common practice)
func AddressOf(text string) Address {
	var a Address
	var lines []string
	for line := range strings.FieldsFuncSeq(text, func(r rune) bool { return r == ',' || r == '\n' || r == ';' }) {
		if line = strings.Join(strings.Fields(line), " "); line != "" {
			lines = append(lines, line)
		}
	}
	street := -1
	for i, line := range lines {
		if m := houseFirst.FindStringSubmatch(line); m != nil && coded(line) == "" {
			a.Number, a.Street, street = m[1], m[2], i
		} else if m := houseLast.FindStringSubmatch(line); m != nil && coded(line) == "" {
			a.Street, a.Number, street = m[1], m[2], i
		}
		if street >= 0 {
			break
		}
	}
	for i := len(lines) - 1; i > street; i-- {
		code := coded(lines[i])
		if code == "" {
			continue
		}
		a.Postcode = code
		a.Town = strings.Trim(strings.Replace(lines[i], code, "", 1), " -")
		if a.Town == "" && i > 0 && i-1 != street {
			a.Town = lines[i-1]
		}
		if street < 0 && i > 0 && a.Town != lines[i-1] {
			a.Street = lines[i-1]
		}
		return a
	}
	switch {
	case street >= 0 && street+1 < len(lines):
		a.Town = lines[street+1]
	case street < 0 && len(lines) > 0:
		a.Town = lines[len(lines)-1]
	}
	return a
}

// coded finds the postcode in a line.
func coded(line string) string {
	for _, form := range postcodes {
		if all := form.FindAllString(line, -1); all != nil {
			return all[len(all)-1]
		}
	}
	return ""
}
