package reading

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"grandledger/core/text"
)

// numbers finds the marks and the unit that most rows are written with. A mark with three
// digits behind it could be either; the others settle it, or the steward.
func (c *candidate) numbers(values Values) {
	var point, comma, either struct{ point, comma int }
	groups, unit := map[byte]int{}, map[string]int{}
	spelled := map[string]string{} // the spelling of a unit
	bare, total := 0, 0
	for i := range values.N {
		v, rows := values.At(i)
		p, ok := splitNumber(v)
		if !ok {
			continue
		}
		total += rows
		if p.unit == "" {
			bare += rows
		} else if !p.tight || units[plainUnit(p.unit)] && !short[p.unit] || isCurrency(p.unit) {
			key := plainUnit(p.unit)
			if !units[key] {
				key = strings.ToLower(key)
			}
			unit[key] += rows
			if old := spelled[key]; old == "" || p.unit < old {
				spelled[key] = p.unit
			}
		}
		points, commas := strings.Count(p.core, "."), strings.Count(p.core, ",")
		for _, mark := range p.core {
			if g := groupMark(mark); g != 0 {
				groups[g] += rows
				break
			}
		}
		at := strings.LastIndexAny(p.core, ".,")
		switch {
		case points > 0 && commas > 0 && p.core[at] == '.':
			point.point += rows
			groups[','] += rows
		case points > 0 && commas > 0:
			comma.comma += rows
			groups['.'] += rows
		case points > 1:
			comma.point += rows // points between thousands go with a decimal comma
			groups['.'] += rows
		case commas > 1:
			point.comma += rows
			groups[','] += rows
		case at < 0:
		case len(p.core)-at-1 == 3 && at >= 1 && at <= 3 && p.core[0] != '0':
			if p.core[at] == '.' {
				either.point += rows
			} else {
				either.comma += rows
			}
		case p.core[at] == '.':
			point.point += rows
		default:
			comma.comma += rows
		}
	}
	points, commas := point.point+point.comma, comma.point+comma.comma
	if commas > points {
		c.reading.Decimal, c.reading.Group = ",", "."
		c.evidence = append(c.evidence, fmt.Sprintf("%s rows can only have a decimal comma", text.Grouped(commas)))
	} else if points > 0 && commas > 0 {
		c.evidence = append(c.evidence, fmt.Sprintf("%s rows can only have a decimal point, %s only a decimal comma", text.Grouped(points), text.Grouped(commas)))
	}
	for _, mark := range []byte{' ', '\''} {
		if groups[mark] > groups[c.reading.Group[0]] {
			c.reading.Group = string(mark)
		}
	}
	if n := either.point + either.comma; n > 0 {
		if points+commas > 0 {
			c.evidence = append(c.evidence, fmt.Sprintf("%s rows such as 1.234 or 1,234 could be either; the others settle them", text.Grouped(n)))
		} else {
			c.ask = &Ask{Rows: n}
		}
	}
	c.unit(unit, spelled, bare, total)
	if c.ask != nil {
		one, other := c.reading, c.reading
		one.Decimal, one.Group, other.Decimal, other.Group = ".", ",", ",", "."
		c.ask.Words = "Is 1,234 more than a thousand, or a little more than one? Nothing in the column says"
		for _, r := range []Reading{one, other} {
			c.ask.Choices = append(c.ask.Choices, choice(r, values))
		}
		c.ask.Choices[0].Words, c.ask.Choices[1].Words = "1,234 is more than a thousand", "1,234 is a little more than one"
		if either.comma == 0 {
			c.ask.Words = "Is 1.234 a little more than one, or more than a thousand? Nothing in the column says"
			c.ask.Choices[0].Words, c.ask.Choices[1].Words = "1.234 is a little more than one", "1.234 is more than a thousand"
		}
	}
}

// short are units of one letter that codes end in as well, as 214A, unless a space is
// between.
var short = map[string]bool{"A": true, "B": true, "C": true, "F": true, "J": true, "K": true, "L": true, "V": true, "W": true, "d": true, "x": true}

// unit takes the unit that stands most often, if it is a known one or nearly the only one and
// stands in half of the rows: a number without a unit among some with kg may be of another.
func (c *candidate) unit(rows map[string]int, spelled map[string]string, bare, total int) {
	if len(rows) == 0 {
		return
	}
	var names []string
	for u := range rows {
		names = append(names, u)
	}
	slices.SortFunc(names, func(a, b string) int { return cmp.Or(rows[b]-rows[a], cmp.Compare(a, b)) })
	top := names[0]
	if !units[top] && !isCurrency(top) && rows[top]*10 < (total-bare)*9 || rows[top]*2 < total {
		return
	}
	c.reading.Unit = spelled[top]
	c.evidence = append(c.evidence, fmt.Sprintf("%s rows carry %s, %s none", text.Grouped(rows[top]), spelled[top], text.Grouped(bare)))
	var others []string
	for _, u := range names[1:min(len(names), 6)] {
		if !sameUnit(spelled[u], spelled[top]) {
			others = append(others, fmt.Sprintf("%s on %s rows", spelled[u], text.Grouped(rows[u])))
		}
	}
	if len(others) > 0 {
		c.evidence = append(c.evidence, "another unit: "+strings.Join(others, ", "))
	}
}

// dates finds whether the day or the month comes first.
func (c *candidate) dates(values Values) {
	var day, month, either, short int
	first := 0 // rows of two-digit years that can only have the year first
	for i := range values.N {
		v, rows := values.At(i)
		p, ok := splitDate(v)
		if !ok {
			continue
		}
		last := p.widths[p.n-1]
		if p.month != 0 {
			if p.widths[0] <= 2 && last == 2 {
				short += rows
			}
			continue
		}
		if p.widths[0] > 2 {
			continue
		}
		if last == 2 {
			short += rows
		}
		a, b := p.numbers[0], p.numbers[1]
		switch {
		case a > 31 && last == 2:
			first += rows
		case a > 12 && a <= 31 && b <= 12:
			day += rows
		case b > 12 && b <= 31 && a <= 12:
			month += rows
		case a != b && a <= 12 && b <= 12:
			either += rows
		}
	}
	if short > 0 {
		c.reading.Years = firstYear
		c.evidence = append(c.evidence, fmt.Sprintf("two-digit years stand in %s rows and are taken as %d to %d", text.Grouped(short), firstYear, firstYear+99))
	}
	settled := func(what, other string, rows, against int) {
		words := fmt.Sprintf("%s comes first: %s rows can only be read so", what, text.Grouped(rows))
		if against > 0 {
			words += fmt.Sprintf(", %s only with the %s first, and stay unread", text.Grouped(against), other)
		}
		if either > 0 {
			words += fmt.Sprintf("; %s could be read either way and follow them", text.Grouped(either))
		}
		c.evidence = append(c.evidence, words)
	}
	switch {
	case first > day+month:
		c.reading.Order = YearFirst
		c.evidence = append(c.evidence, fmt.Sprintf("the year comes first: %s rows can only be read so", text.Grouped(first)))
	case day > month:
		c.reading.Order = DayFirst
		settled("the day", "month", day, month)
	case month > 0:
		c.reading.Order = MonthFirst
		settled("the month", "day", month, day)
	case either > 0:
		c.ask = &Ask{Words: "Does the day come first, or the month? Nothing in the column says", Rows: either}
		for _, o := range []Order{DayFirst, MonthFirst} {
			r := c.reading
			r.Order = o
			c.ask.Choices = append(c.ask.Choices, choice(r, values))
		}
		c.ask.Choices[0].Words, c.ask.Choices[1].Words = "the day comes first", "the month comes first"
		// Until it is answered these stay unread, and yet they are dates.
		c.reading.Order = ""
	}
}

// lists finds what the items are split by: JSON has its own marks.
func (c *candidate) lists(values Values) {
	rows := map[string]int{}
	for i := range values.N {
		v, n := values.At(i)
		if v = strings.TrimSpace(v); strings.HasPrefix(v, "[") && strings.HasSuffix(v, "]") {
			rows[""] += n
		}
		for _, mark := range []string{";", "|"} {
			if strings.Contains(v, mark) {
				rows[mark] += n
			}
		}
	}
	for _, mark := range []string{";", "|"} {
		if rows[mark] > rows[c.reading.Separator] {
			c.reading.Separator = mark
		}
	}
}
