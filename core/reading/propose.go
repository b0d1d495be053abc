package reading

import (
	"fmt"
	"math"
	"strings"

	"grandledger/core/text"
)

// Proposal is the reading that the values of a column suggest, with the evidence. All
// figures are rows, over all values; blank values are left out.
type Proposal struct {
	Reading  Reading  `json:"reading"`
	Rows     int      `json:"rows"`    // that hold something
	NotRead  int      `json:"notRead"` // of them, not of the reading
	Evidence []string `json:"evidence"`
	Ask      *Ask     `json:"ask,omitempty"` // what the values alone do not settle
	Others   []Choice `json:"others"`        // other readings that most of the values allow
}

// Ask is a question that the steward has to answer.
type Ask struct {
	Words   string   `json:"words"`
	Rows    int      `json:"rows"` // that depend on the answer
	Choices []Choice `json:"choices"`
}

// Choice is a reading with the rows that it reads.
type Choice struct {
	Reading Reading `json:"reading"`
	Words   string  `json:"words"`
	Rows    int     `json:"rows"`
}

const (
	// most is how large a share of the rows must read as a kind for a column to be read so.
	most = 0.9
	// sampled is how many values are looked at to see which kinds are worth trying on all.
	sampled = 1000
	// firstYear begins the hundred years that two-digit years are taken for.
	firstYear = 1950
)

// Values are the distinct values of a column that are not blank, with their rows.
type Values struct {
	N  int
	At func(i int) (value string, rows int)
}

// Propose finds the reading of a column. A sample, spread evenly over the values with the
// most frequent ones in full, says only which kinds are worth trying; every figure is
// counted over all values. Cost: O(bytes) for each kind worth trying.
func Propose(values Values) *Proposal {
	p := &Proposal{Reading: Plain(Text), Others: []Choice{}, Evidence: []string{}}
	for i := range values.N {
		_, rows := values.At(i)
		p.Rows += rows
	}
	if p.Rows == 0 {
		return p
	}
	var found []candidate
	for _, k := range p.promising(values) {
		if c := propose(k, values); c.could*2 >= p.Rows {
			found = append(found, c)
		}
	}
	best := -1
	for i, c := range found {
		if c.fits(p.Rows, values.N) {
			best = i
			break
		}
	}
	if best >= 0 {
		c := found[best]
		p.Reading, p.NotRead, p.Ask = c.reading, p.Rows-c.rows, c.ask
		p.Evidence = append([]string{fmt.Sprintf("%s of %s rows that hold something read as %s", text.Grouped(c.rows), text.Grouped(p.Rows), Plain(c.reading.Kind).Words())}, c.evidence...)
	}
	for i, c := range found {
		if i != best && (c.reading.Kind != List || c.marked*10 >= c.rows) {
			p.Others = append(p.Others, Choice{c.reading, c.reading.Words(), c.rows})
			if best < 0 {
				p.Evidence = append(p.Evidence, fmt.Sprintf("%s of %s rows would read as %s", text.Grouped(c.rows), text.Grouped(p.Rows), c.reading.Words()))
			}
		}
	}
	return p
}

// candidate is a kind with the best of its readings and what that reads.
type candidate struct {
	reading  Reading
	rows     int
	could    int // rows, or what the better answer to the question would read
	values   int
	evidence []string
	ask      *Ask
	zeros    int // rows that are all digits with a leading zero
	marked   int // rows whose value no other kind would be written as
}

// fits says whether a kind is what the column holds.
func (c *candidate) fits(rows, values int) bool {
	if float64(c.could) < most*float64(rows) {
		return false
	}
	switch c.reading.Kind {
	case YesNo:
		return c.values >= 2
	case Number:
		return c.zeros*20 < c.rows
	case Code:
		return values*4 > rows || c.zeros > 0
	case Telephone:
		return c.marked*5 >= c.rows
	case IMO, EAN, Luhn, ISSN, ISBN, ISNI:
		// Of numbers drawn by chance one in ten passes, so a few prove nothing.
		return c.values >= 4
	case List:
		return c.reading.Separator == "" || c.marked*10 >= c.rows*3
	}
	return true
}

// promising lists the kinds that at least a third of the sample reads as, by values or by
// rows, in the order of Kinds.
func (p *Proposal) promising(values Values) []Kind {
	var sample []int
	step := max(values.N/sampled, 1)
	for i := range values.N {
		if _, rows := values.At(i); i%step == 0 || rows*200 >= p.Rows {
			sample = append(sample, i)
		}
	}
	var out []Kind
	for _, k := range Kinds {
		if k == Text {
			continue
		}
		might, total, hits, all := may(k), 0, 0, 0
		for _, i := range sample {
			v, rows := values.At(i)
			all += rows
			if might(strings.TrimSpace(v)) {
				hits++
				total += rows
			}
		}
		if hits*3 >= len(sample) || total*3 >= all {
			out = append(out, k)
		}
	}
	return out
}

// may says whether a value could be of a kind under some reading of it.
func may(k Kind) func(v string) bool {
	switch k {
	case Number:
		return func(v string) bool { _, ok := splitNumber(v); return ok }
	case Date:
		return func(v string) bool { _, ok := splitDate(v); return ok }
	case List:
		return func(v string) bool {
			return strings.HasPrefix(v, "[") && strings.HasSuffix(v, "]") || strings.ContainsAny(v, ";|")
		}
	}
	read := Plain(k).Reader()
	return func(v string) bool { _, ok := read(v); return ok }
}

// propose finds the best reading of a kind and counts what it reads.
func propose(k Kind, values Values) candidate {
	c := candidate{reading: Plain(k)}
	switch k {
	case Number:
		c.numbers(values)
	case Date:
		c.dates(values)
	case List:
		c.lists(values)
	}
	read := c.reading.Reader()
	fractions := false
	for i := range values.N {
		v, rows := values.At(i)
		at, ok := read(v)
		if !ok {
			continue
		}
		c.rows += rows
		c.values++
		switch k {
		case Number, Code:
			if _, zero := codeLike(strings.TrimSpace(v)); zero {
				c.zeros += rows
			}
			fractions = fractions || at != math.Trunc(at) || strings.Contains(v, c.reading.Decimal)
		case Telephone:
			if strings.ContainsAny(v, "+ ()/") {
				c.marked += rows
			}
		case List:
			if c.reading.Separator == "" || strings.Contains(v, c.reading.Separator) {
				c.marked += rows
			}
		}
	}
	if k == Number {
		c.reading.Whole = !fractions && c.rows > 0
	}
	c.could = c.rows
	if c.ask != nil {
		for _, answer := range c.ask.Choices {
			c.could = max(c.could, answer.Rows)
		}
	}
	return c
}

// choice counts what a reading reads.
func choice(r Reading, values Values) Choice {
	out := Choice{Reading: r, Words: r.Words()}
	read := r.Reader()
	for i := range values.N {
		v, rows := values.At(i)
		if _, ok := read(v); ok {
			out.Rows += rows
		}
	}
	return out
}
