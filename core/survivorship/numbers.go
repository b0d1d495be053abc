package survivorship

import (
	"math"
	"slices"

	"github.com/shopspring/decimal"

	"grandledger/core/reading"
	"grandledger/core/table"
)

// numbers holds the distinct values of a column as whole multiples of its smallest decimal place.
type numbers struct {
	reading reading.Reading
	places  int32             // decimals of the finest value
	ok      []bool            // by code
	whole   []int64           // by code, where no sum of all can overflow; otherwise nil
	exact   []decimal.Decimal // by code, where whole is nil
}

// newNumbers reads the values of a column that has a number of rows. Cost: O(bytes of the values).
func newNumbers(c *table.Column, rows int) *numbers {
	n := &numbers{reading: c.Effective(), ok: make([]bool, c.Dict.Len()+1), exact: make([]decimal.Decimal, c.Dict.Len()+1)}
	most := decimal.Zero
	for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
		d, ok := n.reading.Exact(c.Dict.Value(code))
		if !ok {
			continue
		}
		n.ok[code], n.exact[code] = true, d
		n.places = max(n.places, -d.Exponent())
		most = decimal.Max(most, d.Abs())
	}
	room := decimal.NewFromInt(math.MaxInt64 / int64(max(rows, 1)))
	if most.Shift(n.places).GreaterThan(room) {
		return n
	}
	n.whole = make([]int64, len(n.ok))
	for code, ok := range n.ok {
		if ok {
			n.whole[code] = n.exact[code].Shift(n.places).IntPart()
		}
	}
	n.exact = nil
	return n
}

func (n *numbers) at(code uint32) decimal.Decimal {
	if n.whole != nil {
		return decimal.New(n.whole[code], -n.places)
	}
	return n.exact[code]
}

// sum adds the values of codes that all read.
func (n *numbers) sum(codes []uint32) decimal.Decimal {
	if n.whole != nil {
		total := int64(0)
		for _, code := range codes {
			total += n.whole[code]
		}
		return decimal.New(total, -n.places)
	}
	total := decimal.Zero
	for _, code := range codes {
		total = total.Add(n.exact[code])
	}
	return total
}

// meanPlaces is how many more decimals a mean has than the values at most.
const meanPlaces = 4

// mean is the sum divided by a number, half to even, without zeros at its end that the values have
// not.
func (n *numbers) mean(sum decimal.Decimal, of int) string {
	// Two more digits than are written, and a third where the division goes on, so that nothing
	// which is not exactly half is taken for it.
	by := decimal.NewFromInt(int64(of))
	quotient, rest := sum.QuoRem(by, n.places+meanPlaces+2)
	if !rest.IsZero() {
		step := decimal.New(1, -(n.places + meanPlaces + 3))
		if sum.IsNegative() {
			step = step.Neg()
		}
		quotient = quotient.Add(step)
	}
	rounded := quotient.RoundBank(n.places + meanPlaces)
	places := n.places
	for places < n.places+meanPlaces && !rounded.Equal(rounded.Truncate(places)) {
		places++
	}
	return rounded.StringFixed(places)
}

// number writes the sum, the mean or the median of the group. What does not read is left out and
// counted; where nothing reads, the first value stays.
func (w *worker) number() {
	n := w.numbers
	agree := len(w.once) == 1
	read := w.once[:0] // not needed any more
	for _, code := range w.said {
		if n.ok[code] {
			read = append(read, code)
		}
	}
	w.once = read
	w.unread += len(w.said) - len(read)
	switch {
	case len(read) == 0:
		w.dropped += len(w.said) - 1
		w.text = append(w.text, w.c.Dict.Value(w.said[0])...)
		return
	case len(read) == 1 || agree && w.rule != Sum:
		w.dropped += len(w.said) - len(read)
		w.text = append(w.text, w.c.Dict.Value(read[0])...)
		return
	}
	w.dropped += len(w.said) - len(read)
	var out string
	switch w.rule {
	case Sum:
		out = n.sum(read).StringFixed(n.places)
	case Mean:
		out = n.mean(n.sum(read), len(read))
	case Median:
		slices.SortStableFunc(read, func(a, b uint32) int { return n.at(a).Cmp(n.at(b)) })
		middle := len(read) / 2
		if len(read)%2 == 1 || n.at(read[middle-1]).Equal(n.at(read[middle])) {
			w.text = append(w.text, w.c.Dict.Value(read[middle-(1-len(read)%2)])...)
			return
		}
		out = n.mean(n.at(read[middle-1]).Add(n.at(read[middle])), 2)
	}
	w.text = append(w.text, n.reading.Written(out, w.c.Dict.Value(read[0]))...)
}
