package tally

import (
	"math"
	"slices"
	"time"

	"grandledger/core/table"
)

// Profile is one line of the column register. All counts are over all rows.
type Profile struct {
	Column   string        `json:"column"`
	Reading  table.Reading `json:"reading"`
	Rows     int           `json:"rows"`
	Distinct int           `json:"distinct"` // distinct values, blanks not among them
	Unique   int           `json:"unique"`   // values that stand in one row only
	Blank    int           `json:"blank"`    // rows whose cell is empty or white space alone
	Missing  int           `json:"missing"`  // rows that have no cell
	NotRead  int           `json:"notRead"`  // rows whose value is not of the reading
	Spaces   Count         `json:"spaces"`   // values with spaces at an edge or doubled
	Alike    Count         `json:"alike"`    // values that differ from another in case, spacing, punctuation or accents only
	Lowest   string        `json:"lowest,omitempty"`
	Highest  string        `json:"highest,omitempty"`
	Median   string        `json:"median,omitempty"`
	Top      []Line        `json:"top"` // the most frequent values
	Even     *Histogram    `json:"even,omitempty"`
	Log      *Histogram    `json:"log,omitempty"`
}

// Count is a number of distinct values and of the rows they stand in.
type Count struct {
	Values int `json:"values"`
	Rows   int `json:"rows"`
}

// read is how large a share of the rows that hold something must read as a kind for
// the column to be read so. Below it the column stays text.
const read = 0.9

// Of profiles one column of a table. Cost: O(distinct), beside what Counts and Facts
// cost the first time.
func Of(t *table.Table, c *table.Column) *Profile {
	counts, facts := t.Counts(c), c.Dict.Facts()
	p := &Profile{Column: c.Name, Rows: t.Rows(), Missing: int(counts[table.Missing])}
	var kinds struct{ number, date, yesno, code, zero int }
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
		kinds.number += held(tr, table.IsNumber, rows)
		kinds.date += held(tr, table.IsDate, rows)
		kinds.yesno += held(tr, table.IsYesNo, rows)
		kinds.code += held(tr, table.IsCode, rows)
		kinds.zero += held(tr, table.LeadingZero, rows)
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
	holding := p.Rows - p.Blank - p.Missing
	enough := func(rows int) bool { return holding > 0 && float64(rows) >= read*float64(holding) }
	p.Reading = table.ReadText
	switch {
	case enough(kinds.yesno) && p.Distinct >= 2:
		p.Reading, p.NotRead = table.ReadYesNo, holding-kinds.yesno
	case enough(kinds.number) && kinds.zero*20 < kinds.number:
		p.Reading, p.NotRead = table.ReadNumber, holding-kinds.number
	case enough(kinds.date):
		p.Reading, p.NotRead = table.ReadDate, holding-kinds.date
	case enough(kinds.code) && (p.Distinct*4 > holding || kinds.zero > 0):
		p.Reading, p.NotRead = table.ReadCode, holding-kinds.code
	}
	if p.Reading == table.ReadNumber || p.Reading == table.ReadDate {
		p.measure(c, counts, facts)
	}
	p.Top = Top(c, counts, 12)
	return p
}

func held(have, want table.Trait, rows int) int {
	if have&want != 0 {
		return rows
	}
	return 0
}

// measure finds lowest, highest, median (the lower one of two) and the histograms.
func (p *Profile) measure(c *table.Column, counts []uint32, facts *table.Facts) {
	points := make([]point, 0, p.Distinct)
	total := 0
	for code := 1; code < len(counts); code++ {
		rows := int(counts[code])
		if rows == 0 {
			continue
		}
		switch {
		case p.Reading == table.ReadNumber && facts.Traits[code]&table.IsNumber != 0:
			points = append(points, point{facts.Number[code], rows, uint32(code)})
		case p.Reading == table.ReadDate && facts.Traits[code]&table.IsDate != 0:
			points = append(points, point{float64(facts.Day[code]), rows, uint32(code)})
		default:
			continue
		}
		total += rows
	}
	slices.SortFunc(points, func(a, b point) int {
		if a.at != b.at {
			return sign(a.at - b.at)
		}
		return int(a.code) - int(b.code)
	})
	show := func(q point) string {
		if p.Reading == table.ReadDate {
			return time.Unix(int64(q.at)*86400, 0).UTC().Format(time.DateOnly)
		}
		return c.Dict.Value(q.code)
	}
	p.Lowest, p.Highest = show(points[0]), show(points[len(points)-1])
	for seen, i := 0, 0; i < len(points); i++ {
		if seen += points[i].rows; seen*2 >= total {
			p.Median = show(points[i])
			break
		}
	}
	p.Even = even(points)
	if p.Reading == table.ReadNumber {
		p.Log = logarithmic(points)
	}
}

type point struct {
	at   float64
	rows int
	code uint32
}

func sign(f float64) int {
	switch {
	case f < 0:
		return -1
	case f > 0:
		return 1
	}
	return 0
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
