package tally

import (
	"cmp"
	"math"
	"math/big"
	"math/bits"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Measure is a figure for each value of a category.
type Measure struct {
	Column string `json:"column"` // empty for the rows
	Of     Figure `json:"of"`
}

// Figure says which figure of the numbers of a column.
type Figure string

// The figures.
const (
	Rows   Figure = "rows"
	Sum    Figure = "sum" // exact to the last decimal
	Mean   Figure = "mean"
	Median Figure = "median" // the lower one of two
	Low    Figure = "lowest"
	High   Figure = "highest"
)

// Measured is figures by the values of a category, most rows first.
type Measured struct {
	Lines  []MeasuredLine `json:"lines"`
	Others int            `json:"others"` // values of the category that are not listed
	Unread []int          `json:"unread"` // for each measure, rows left out as they hold no number
}

// MeasuredLine is a value of the category with its figures, null where no row holds a number.
type MeasuredLine struct {
	Value   string     `json:"value"`
	Rows    int        `json:"rows"`
	Figures []*float64 `json:"figures"`
	Written []string   `json:"written"` // the figures to the last decimal, "" where there is none
}

const maxMeasures = 4

// MeasuresBy works out figures for the most frequent values of a category. Blank cells count
// as the value "". Cost: O(rows) and O(distinct) for each measure; the median sorts the
// distinct pairs.
func MeasuresBy(t *table.Table, category *table.Column, measures []Measure, lines int) (*Measured, error) {
	if len(measures) == 0 || len(measures) > maxMeasures {
		return nil, problem.New("Choose between one and four", "%d measures were chosen", len(measures))
	}
	place, top := places(t, category, lines)
	out, err := measured(t, category, measures, place, top)
	if err != nil {
		return nil, err
	}
	all := 0
	for code, rows := range t.Counts(category) {
		if rows > 0 && !(code == int(table.Missing) && place[code] < len(top)) {
			all++
		}
	}
	out.Others = max(all-len(top), 0)
	return out, nil
}

// MeasuresOf works out figures for given values of a category, in their order. Cost: as MeasuresBy.
func MeasuresOf(t *table.Table, category *table.Column, measures []Measure, values []string) (*Measured, error) {
	if len(measures) > maxMeasures {
		return nil, problem.New("Choose four at most", "%d measures were chosen", len(measures))
	}
	counts := t.Counts(category)
	place, lines := make([]int, len(counts)), make([]Line, len(values))
	for code := range place {
		place[code] = len(values)
	}
	for i, v := range values {
		lines[i].Value = v
		codes := []uint32{}
		if code, ok := category.Dict.Find(v); ok {
			codes = append(codes, code)
		}
		if v == "" {
			codes = append(codes, table.Missing)
		}
		for _, code := range codes {
			place[code] = i
			lines[i].Rows += int(counts[code])
		}
	}
	return measured(t, category, measures, place, lines)
}

// measured works out figures for the values of a category that have a place.
func measured(t *table.Table, category *table.Column, measures []Measure, place []int, top []Line) (*Measured, error) {
	out := &Measured{Lines: make([]MeasuredLine, len(top)), Unread: make([]int, len(measures))}
	for i, l := range top {
		out.Lines[i] = MeasuredLine{Value: l.Value, Rows: l.Rows, Figures: make([]*float64, len(measures)), Written: make([]string, len(measures))}
	}
	for m, measure := range measures {
		if err := out.measure(t, category, place, m, measure); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (out *Measured) measure(t *table.Table, category *table.Column, place []int, m int, measure Measure) error {
	if measure.Of == Rows {
		for i := range out.Lines {
			out.set(i, m, float64(out.Lines[i].Rows), reading.Plain(reading.Number).Write(float64(out.Lines[i].Rows)))
		}
		return nil
	}
	if !slices.Contains([]Figure{Sum, Mean, Median, Low, High}, measure.Of) {
		return problem.New("Choose rows, sum, mean, median, lowest or highest", "there is no figure called %q", measure.Of)
	}
	c, _, err := t.Column(measure.Column)
	if err != nil {
		return err
	}
	read := c.Read()
	if read.Reading.Kind != reading.Number {
		p := problem.New("Choose a column of numbers, or read this one as numbers", "it is read as %s", read.Reading.Words())
		p.Column = c.Name
		return p
	}
	scaled, decimals, ok := scale(read)
	if !ok && (measure.Of == Sum || measure.Of == Mean) {
		p := problem.New("Set such numbers aside, or choose the median", "it has numbers too large to be added up exactly")
		p.Column = c.Name
		return p
	}
	groups := make([]group, len(out.Lines)+1)
	wants := measure.Of == Median
	codes := t.LogicalCodes(c)
	for row, code := range t.LogicalCodes(category) {
		g := &groups[place[code]]
		number := codes[row]
		if !read.OK[number] {
			if number != table.Missing {
				out.Unread[m]++
			}
			continue
		}
		g.add(read.At[number], scaled[number])
		if wants {
			if g.of == nil {
				g.of = map[uint32]int{}
			}
			g.of[number]++
		}
	}
	for _, code := range c.Dict.Blank() { // blank cells are no numbers that failed to read
		out.Unread[m] -= int(t.Counts(c)[code])
	}
	for i := range out.Lines {
		g := &groups[i]
		if g.rows == 0 {
			continue
		}
		switch measure.Of {
		case Sum:
			written := g.total(decimals)
			at, _ := new(big.Float).SetString(written)
			v, _ := at.Float64()
			out.set(i, m, v, written)
		case Mean:
			total, _ := new(big.Rat).SetString(g.total(decimals))
			mean := total.Quo(total, new(big.Rat).SetInt64(int64(g.rows)))
			v, _ := mean.Float64()
			out.set(i, m, v, mean.FloatString(decimals+2))
		case Median:
			at := read.At[g.median(read.At)]
			out.set(i, m, at, read.Reading.Write(at))
		case Low:
			out.set(i, m, g.low, read.Reading.Write(g.low))
		case High:
			out.set(i, m, g.high, read.Reading.Write(g.high))
		}
	}
	return nil
}

func (out *Measured) set(line, m int, v float64, written string) {
	out.Lines[line].Figures[m], out.Lines[line].Written[m] = &v, written
}

// scale gives the numbers as whole ones of so many decimals that every one is exact. Numbers
// with more decimals than fit are cut to those that do; false where even whole ones do not.
func scale(read *table.Read) (scaled []int64, decimals int, ok bool) {
	most := 0.0
	for code, ok := range read.OK {
		if !ok {
			continue
		}
		most = max(most, math.Abs(read.At[code]))
		if _, fraction, cut := strings.Cut(read.Reading.Write(read.At[code]), "."); cut {
			decimals = max(decimals, len(fraction))
		}
	}
	for decimals > 0 && most*math.Pow10(decimals) > 1<<62 {
		decimals--
	}
	scaled = make([]int64, len(read.At))
	if most > 1<<62 {
		return scaled, 0, false
	}
	for code, ok := range read.OK {
		if ok {
			scaled[code] = scaledBy(read.Reading.Write(read.At[code]), decimals)
		}
	}
	return scaled, decimals, true
}

// scaledBy reads a plain decimal as a whole number of so many decimals, without going over
// floating point.
func scaledBy(s string, decimals int) int64 {
	s, negative := strings.CutPrefix(s, "-")
	whole, fraction, _ := strings.Cut(s, ".")
	if len(fraction) > decimals {
		fraction = fraction[:decimals]
	}
	n := int64(0)
	for _, c := range whole + fraction + strings.Repeat("0", decimals-len(fraction)) {
		n = n*10 + int64(c-'0')
	}
	if negative {
		return -n
	}
	return n
}

// group gathers the numbers of one value of the category. The sum is 128 bits wide.
type group struct {
	rows      int
	hi, lo    uint64
	low, high float64
	of        map[uint32]int
}

func (g *group) add(at float64, scaled int64) {
	if g.rows == 0 {
		g.low, g.high = at, at
	}
	g.rows++
	g.low, g.high = min(g.low, at), max(g.high, at)
	var carry uint64
	g.lo, carry = bits.Add64(g.lo, uint64(scaled), 0)
	g.hi, _ = bits.Add64(g.hi, uint64(scaled>>63), carry)
}

// total writes the sum with its decimals.
func (g *group) total(decimals int) string {
	n := new(big.Int).SetInt64(int64(g.hi))
	n.Lsh(n, 64).Add(n, new(big.Int).SetUint64(g.lo))
	s := new(big.Int).Abs(n).String()
	if pad := decimals + 1 - len(s); pad > 0 {
		s = strings.Repeat("0", pad) + s
	}
	if decimals > 0 {
		s = s[:len(s)-decimals] + "." + s[len(s)-decimals:]
	}
	if n.Sign() < 0 {
		s = "-" + s
	}
	return s
}

func (g *group) median(at []float64) uint32 {
	codes := make([]uint32, 0, len(g.of))
	for code := range g.of {
		codes = append(codes, code)
	}
	slices.SortFunc(codes, func(a, b uint32) int { return cmp.Or(cmp.Compare(at[a], at[b]), cmp.Compare(a, b)) })
	seen := 0
	for _, code := range codes {
		if seen += g.of[code]; seen*2 >= g.rows {
			return code
		}
	}
	return codes[len(codes)-1]
}
