package tally

import (
	"cmp"
	"math"
	"slices"

	"grandledger/core/reading"
	"grandledger/core/table"
)

// Profile is one line of the column register. All counts are over all rows.
type Profile struct {
	Column   string       `json:"column"`
	Reading  reading.Kind `json:"reading"`
	ReadAs   string       `json:"readAs"`   // the reading in words
	Declared bool         `json:"declared"` // somebody has said so; otherwise it is proposed
	Asks     int          `json:"asks"`     // rows whose reading waits for an answer
	Rows     int          `json:"rows"`
	Distinct int          `json:"distinct"` // distinct values, blanks not among them
	Unique   int          `json:"unique"`   // values that stand in one row only
	Blank    int          `json:"blank"`    // rows whose cell is empty or white space alone
	Missing  int          `json:"missing"`  // rows that have no cell
	NotRead  int          `json:"notRead"`  // rows whose value is not of the reading
	Spaces   Count        `json:"spaces"`   // values with spaces at an edge or doubled
	Alike    Count        `json:"alike"`    // values that differ from another in case, spacing, punctuation or accents only
	Lowest   string       `json:"lowest,omitempty"`
	Highest  string       `json:"highest,omitempty"`
	Median   string       `json:"median,omitempty"`
	Top      []Line       `json:"top"` // the most frequent values
	Even     *Histogram   `json:"even,omitempty"`
	Log      *Histogram   `json:"log,omitempty"`
}

// Count is a number of distinct values and of the rows they stand in.
type Count struct {
	Values int `json:"values"`
	Rows   int `json:"rows"`
}

// Of profiles one column of a table. Cost: O(distinct), beside what Counts, Facts and the
// column's reading cost the first time.
func Of(t *table.Table, c *table.Column) *Profile {
	counts, facts, read := t.Counts(c), c.Dict.Facts(), c.Read()
	p := &Profile{Column: c.Name, Reading: read.Reading.Kind, ReadAs: read.Reading.Words(), Declared: c.Reading.Declared(),
		Rows: t.Rows(), Missing: int(counts[table.Missing])}
	if ask := c.Proposal().Ask; ask != nil && !p.Declared {
		p.Asks = ask.Rows
	}
	folds := map[uint64]int{} // values standing here, of those that meet another at all
	for code := 1; code < len(counts); code++ {
		rows := int(counts[code])
		if rows == 0 {
			continue
		}
		tr := facts.Traits[code]
		if tr&table.IsBlankValue != 0 {
			p.Blank += rows
			continue
		}
		p.Distinct++
		if rows == 1 {
			p.Unique++
		}
		if tr&table.LooseSpaces != 0 {
			p.Spaces.Values++
			p.Spaces.Rows += rows
		}
		if !read.OK[code] {
			p.NotRead += rows
		}
		if tr&table.MeetsAnother != 0 {
			folds[facts.Fold[code]]++
		}
	}
	for code := 1; code < len(counts); code++ {
		if rows := int(counts[code]); rows > 0 && facts.Traits[code]&table.MeetsAnother != 0 && folds[facts.Fold[code]] > 1 {
			p.Alike.Values++
			p.Alike.Rows += rows
		}
	}
	if points := pointsOf(counts, read); len(points) > 0 {
		p.measure(points, c, read.Reading)
	}
	p.Top = Top(c, counts, 12)
	return p
}

// point is a distinct value that lies somewhere.
type point struct {
	at   float64
	rows int
	code uint32
}

// pointsOf lists the values that stand in a table and are read by a reading that measures,
// lowest first. Cost: O(distinct log distinct).
func pointsOf(counts []uint32, read *table.Read) []point {
	if read.At == nil {
		return nil
	}
	var points []point
	for code, rows := range counts {
		if rows > 0 && read.OK[code] {
			points = append(points, point{read.At[code], int(rows), uint32(code)})
		}
	}
	slices.SortFunc(points, func(a, b point) int { return cmp.Or(cmp.Compare(a.at, b.at), cmp.Compare(a.code, b.code)) })
	return points
}

// show writes a point: numbers as they stand in the column, dates as ISO 8601.
func show(p point, c *table.Column, r reading.Reading) string {
	if r.Kind == reading.Date {
		return r.Write(p.at)
	}
	return c.Dict.Value(p.code)
}

// measure finds lowest, highest, median (the lower one of two) and the histograms.
func (p *Profile) measure(points []point, c *table.Column, r reading.Reading) {
	total := 0
	for _, q := range points {
		total += q.rows
	}
	p.Lowest, p.Highest = show(points[0], c, r), show(points[len(points)-1], c, r)
	for seen, i := 0, 0; i < len(points); i++ {
		if seen += points[i].rows; seen*2 >= total {
			p.Median = show(points[i], c, r)
			break
		}
	}
	p.Even = even(points)
	if r.Kind == reading.Number {
		p.Log = logarithmic(points)
	}
}

// Histogram counts rows in steps of equal width, on the axis or on its logarithm.
type Histogram struct {
	From  float64 `json:"from"` // where the first step begins; for Log a power of ten
	To    float64 `json:"to"`
	Rows  []int   `json:"rows"`
	Below int     `json:"below"` // rows a logarithmic axis has no place for: zero and negative
}

const steps = 24

func even(points []point) *Histogram {
	h := &Histogram{From: points[0].at, To: points[len(points)-1].at, Rows: make([]int, steps)}
	h.fill(points, func(v float64) float64 { return v })
	return h
}

func logarithmic(points []point) *Histogram {
	first := slices.IndexFunc(points, func(p point) bool { return p.at > 0 })
	if first < 0 || points[len(points)-1].at/points[first].at < 10 {
		return nil
	}
	h := &Histogram{Rows: make([]int, steps)}
	h.From = math.Floor(math.Log10(points[first].at))
	h.To = math.Ceil(math.Log10(points[len(points)-1].at))
	for _, p := range points[:first] {
		h.Below += p.rows
	}
	h.fill(points[first:], math.Log10)
	return h
}

func (h *Histogram) fill(points []point, axis func(float64) float64) {
	width := h.To - h.From
	for _, p := range points {
		i := 0
		if width > 0 {
			i = min(int((axis(p.at)-h.From)/width*float64(len(h.Rows))), len(h.Rows)-1)
		}
		h.Rows[i] += p.rows
	}
}
