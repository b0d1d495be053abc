package condition

import (
	"math"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// within gives what holds for the values from From to To. The ends are read as the column is
// read; in a column of text as numbers, as dates or as text, whatever both of them are.
// Values that do not read so are not within.
func (c *Condition) within(col *table.Column) (func(code int, v string) bool, error) {
	tries := []reading.Reading{reading.Plain(reading.Number), reading.Plain(reading.Date)}
	if r := col.Effective(); r.Measures() {
		tries = []reading.Reading{r}
	}
	for _, r := range tries {
		from, okFrom := c.end(r, c.From, math.Inf(-1))
		to, okTo := c.end(r, c.To, math.Inf(1))
		if okFrom && okTo {
			read := col.Dict.ReadAs(r)
			return func(code int, _ string) bool { return read.OK[code] && from <= read.At[code] && read.At[code] <= to }, nil
		}
		if okFrom && c.From != "" || okTo && c.To != "" || len(tries) == 1 {
			p := problem.New("Give both ends as "+r.Words()+", such as "+map[reading.Kind]string{reading.Number: "12.5", reading.Date: "2031-10-04"}[r.Kind],
				"the range from %q to %q is not one of %s", c.From, c.To, reading.Plain(r.Kind).Words())
			p.Column = c.Column
			return nil, p
		}
	}
	from, to := text.Fold(c.From), text.Fold(c.To)
	return func(_ int, v string) bool {
		key := text.Fold(v)
		return key != "" && from <= key && (to == "" || key <= to)
	}, nil
}

// end reads an end of a range as the values are read, or as a plain number or date. A day
// without a time, as the upper end, holds all of the day.
func (c *Condition) end(r reading.Reading, s string, open float64) (float64, bool) {
	if s == "" {
		return open, true
	}
	at, ok := r.Reader()(s)
	if !ok {
		at, ok = reading.Plain(r.Kind).Reader()(s)
	}
	if ok && r.Kind == reading.Date && open > 0 && at == math.Floor(at) {
		at = math.Nextafter(at+1, at)
	}
	return at, ok
}
