package statement

import (
	"regexp"
	"strings"

	"github.com/shopspring/decimal"

	"grandledger/core/problem"
)

// A line :61: of MT940: value date, booking date, mark of debit and credit, third letter of the currency, amount, type, reference of the owner, and of the bank behind //.
var line61 = regexp.MustCompile(`^(\d{6})(\d{4})?(R?[CD])([A-Z])?(\d+,\d*)([A-Z][A-Z0-9]{3})([^/\n]*(?:/[^/\n]+)*)(?://([^\n]*))?`)

// A balance :60F: and so on: mark, date, currency, amount.
var balance = regexp.MustCompile(`^([CD])(\d{6})([A-Z]{3})(\d+,\d*)`)

// mt940 reads SWIFT's customer statement message, by its fields 20, 25, 28C, 60, 61, 86 and 62.
func mt940(text string) ([]account, error) {
	var out []account
	var a *account
	currency := ""
	for _, field := range fields(text) {
		tag, v := field[0], field[1]
		if tag == "20" {
			out = append(out, account{})
			a = &out[len(out)-1]
			continue
		}
		if a == nil {
			continue
		}
		switch tag {
		case "25":
			a.name = strings.TrimSpace(v)
		case "28", "28C":
			a.id = strings.TrimSpace(v)
		case "60F", "60M", "62F", "62M":
			m := balance.FindStringSubmatch(v)
			if m == nil {
				return nil, problem.New("Ask the bank for the statement again", "field %s, %.40q, is no balance", tag, v)
			}
			b, err := marked(m[4], m[1])
			if err != nil {
				return nil, err
			}
			currency = m[3]
			if tag[0] == '6' && tag[1] == '0' {
				a.opening = &b
			} else {
				a.close = &b
			}
		case "61":
			m := line61.FindStringSubmatch(v)
			if m == nil {
				return nil, problem.New("Ask the bank for the statement again", "field 61, %.60q, is no line of a statement", v)
			}
			amount, err := marked(m[5], m[3])
			if err != nil {
				return nil, err
			}
			valued := day(m[1])
			booked := valued
			if m[2] != "" {
				booked = near(m[1], m[2])
			}
			a.items = append(a.items, item{account: a.name, statement: a.id, booked: booked, valued: valued, amount: amount, currency: currency, kind: m[6], reference: one{strings.TrimPrefix(m[7], "NONREF"), m[8]}.first()})
		case "86":
			if len(a.items) == 0 {
				continue
			}
			it := &a.items[len(a.items)-1]
			it.text, it.party = said86(v)
		}
	}
	if len(out) == 0 {
		return nil, problem.New("Ask the bank for the statement again", "the file has no field 20, with which a statement begins")
	}
	return out, nil
}

// fields cuts a message into its fields, each with the lines that belong to it.
func fields(text string) (out [][2]string) {
	start := regexp.MustCompile(`^:(\d{2}[A-Z]?):`)
	for line := range strings.SplitSeq(text, "\n") {
		line = strings.TrimRight(line, "\r")
		switch m := start.FindStringSubmatch(line); {
		case m != nil:
			out = append(out, [2]string{m[1], line[len(m[0]):]})
		case len(out) > 0 && line != "-" && line != "-}" && !strings.HasPrefix(line, "{"):
			out[len(out)-1][1] += "\n" + line
		}
	}
	return out
}

// marked gives an amount its sign: D takes from the account, C adds to it, and with R it is taken back.
func marked(v, mark string) (decimal.Decimal, error) {
	d, err := money(strings.TrimSuffix(v, ","))
	if mark == "D" || mark == "RC" {
		d = d.Neg()
	}
	return d, err
}

// day writes YYMMDD as a date; years from 80 on are of the last century.
func day(v string) string {
	century := "20"
	if v[:2] >= "80" {
		century = "19"
	}
	return century + v[:2] + "-" + v[2:4] + "-" + v[4:6]
}

// near gives a booking date of month and day the year that lies next to the value date.
func near(valued, booked string) string {
	d := day(valued[:2] + booked)
	switch {
	case valued[2:4] == "12" && booked[:2] == "01":
		return day(next(valued[:2], 1) + booked)
	case valued[2:4] == "01" && booked[:2] == "12":
		return day(next(valued[:2], -1) + booked)
	}
	return d
}

func next(year string, by int) string {
	n := (int(year[0]-'0')*10 + int(year[1]-'0') + by + 100) % 100
	return string([]byte{byte('0' + n/10), byte('0' + n%10)})
}

// said86 reads the information to the owner: in parts by ?20 and so on, or as it stands.
func said86(v string) (text, party string) {
	if len(v) < 4 || v[3] != '?' && !strings.Contains(v[:min(len(v), 12)], "?") {
		return one(strings.Split(v, "\n")).joined(), ""
	}
	var said, name []string
	for part := range strings.SplitSeq(strings.ReplaceAll(v, "\n", ""), "?") {
		if len(part) < 2 {
			continue
		}
		switch code := part[:2]; {
		case code >= "20" && code <= "29", code >= "60" && code <= "63":
			said = append(said, part[2:])
		case code == "32", code == "33":
			name = append(name, part[2:])
		}
	}
	return strings.Join(said, " "), strings.Join(name, " ")
}
