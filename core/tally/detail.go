package tally

import (
	"cmp"
	"math"
	"slices"
	"unicode/utf8"

	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Detail is what a column holds beyond its line in the register. All counts are over all
// rows; blank values are left out.
type Detail struct {
	Shortest    string      `json:"shortest"` // of the values, by characters
	Longest     string      `json:"longest"`
	LongestSize int         `json:"longestSize"` // characters of the longest
	Shapes      []ShapeLine `json:"shapes"`      // most rows first, at most maxShapes
	ShapesTotal int         `json:"shapesTotal"`
	Zeros       int         `json:"zeros"` // rows that are exactly zero, of a column of numbers
	Quantiles   []Quantile  `json:"quantiles"`
	FarOut      *FarOut     `json:"farOut,omitempty"`
	Lumps       []Lump      `json:"lumps"`
}

// ShapeLine is a shape (text.Shape) with the values and rows that have it.
type ShapeLine struct {
	Shape   string `json:"shape"`
	Values  int    `json:"values"`
	Rows    int    `json:"rows"`
	Example string `json:"example"`
}

// Quantile is the value at or below which a share of the rows lies.
type Quantile struct {
	Percent float64 `json:"percent"`
	Value   string  `json:"value"`
}

// FarOut counts rows beyond the outer fences: three times the distance between the
// quartiles below the lower and above the upper one. (J. W. Tukey, Exploratory Data
// Analysis, 1977, section 2D)
type FarOut struct {
	Below int    `json:"below"` // rows below the lower fence
	Above int    `json:"above"` // rows above the upper one
	To    string `json:"to"`    // the highest value below, if any
	From  string `json:"from"`  // the lowest value above, if any
}

// Lump is a group of numbers that lies apart from most, about a power of ten away: it may
// be in another unit.
type Lump struct {
	Power  int    `json:"power"` // of ten, against most of the column
	Rows   int    `json:"rows"`
	Lowest string `json:"lowest"`
	Most   string `json:"most"` // the highest of the lump
}

const maxShapes = 12

var percents = []float64{1, 5, 25, 50, 75, 95, 99}

// More works out the detail of a column. Cost: O(bytes of the distinct values), and for
// numbers and dates O(distinct log distinct).
func More(t *table.Table, c *table.Column) *Detail {
	counts, facts, read := t.Counts(c), c.Dict.Facts(), c.Read()
	d := &Detail{Shapes: []ShapeLine{}, Quantiles: []Quantile{}, Lumps: []Lump{}}
	shapes := map[string]*ShapeLine{}
	shortest := math.MaxInt
	for code := 1; code < len(counts); code++ {
		rows := int(counts[code])
		tr := facts.Traits[code]
		if rows == 0 || tr&table.IsBlankValue != 0 {
			continue
		}
		v := c.Dict.Value(uint32(code))
		n := utf8.RuneCountInString(v)
		if n < shortest {
			d.Shortest, shortest = v, n
		}
		if n > d.LongestSize {
			d.Longest, d.LongestSize = v, n
		}
		shape := text.Shape(v)
		line := shapes[shape]
		if line == nil {
			line = &ShapeLine{Shape: shape, Example: v}
			shapes[shape] = line
		}
		line.Values++
		line.Rows += rows
		if read.Reading.Kind == reading.Number && read.At[code] == 0 {
			d.Zeros += rows
		}
	}
	for _, line := range shapes {
		d.Shapes = append(d.Shapes, *line)
	}
	slices.SortFunc(d.Shapes, func(a, b ShapeLine) int { return cmp.Or(b.Rows-a.Rows, cmp.Compare(a.Shape, b.Shape)) })
	d.ShapesTotal = len(d.Shapes)
	d.Shapes = d.Shapes[:min(len(d.Shapes), maxShapes)]
	if points := pointsOf(counts, read); len(points) > 0 {
		d.measure(points, c, read.Reading)
	}
	return d
}

// measure finds what needs the values in order.
func (d *Detail) measure(points []point, c *table.Column, r reading.Reading) {
	total := 0
	for _, p := range points {
		total += p.rows
	}
	at := func(percent float64) point {
		seen := 0
		for _, p := range points {
			if seen += p.rows; float64(seen)*100 >= percent*float64(total) {
				return p
			}
		}
		return points[len(points)-1]
	}
	for _, percent := range percents {
		d.Quantiles = append(d.Quantiles, Quantile{percent, show(at(percent), c, r)})
	}
	if r.Kind != reading.Number {
		return
	}
	low, high := at(25).at, at(75).at
	out := &FarOut{}
	for _, p := range points {
		if p.at < low-3*(high-low) {
			out.Below += p.rows
			out.To = c.Dict.Value(p.code)
		}
		if p.at > high+3*(high-low) {
			if out.Above == 0 {
				out.From = c.Dict.Value(p.code)
			}
			out.Above += p.rows
		}
	}
	if low < high && out.Below+out.Above > 0 {
		d.FarOut = out
	}
	d.Lumps = lumps(points, c)
}

// lumps splits the positive numbers where, on the logarithm, nothing lies for a quarter of a
// power of ten, and says which of the parts are about a power of ten from the largest.
func lumps(points []point, c *table.Column) []Lump {
	type part struct {
		from, to int // of points
		rows     int
		middle   float64 // mean of the logarithms
	}
	var parts []part
	last := math.Inf(-1)
	for i, p := range points {
		if p.at <= 0 {
			continue
		}
		log := math.Log10(p.at)
		if log-last > 0.25 {
			parts = append(parts, part{from: i})
		}
		now := &parts[len(parts)-1]
		now.to, now.rows, now.middle, last = i+1, now.rows+p.rows, now.middle+log*float64(p.rows), log
	}
	largest := 0
	for i := range parts {
		parts[i].middle /= float64(parts[i].rows)
		if parts[i].rows > parts[largest].rows {
			largest = i
		}
	}
	out := []Lump{}
	for i, p := range parts {
		away := p.middle - parts[largest].middle
		power := int(math.Round(away))
		if i == largest || power == 0 || math.Abs(away-float64(power)) > 0.4 || p.rows < 3 {
			continue
		}
		out = append(out, Lump{power, p.rows, c.Dict.Value(points[p.from].code), c.Dict.Value(points[p.to-1].code)})
	}
	return out
}
