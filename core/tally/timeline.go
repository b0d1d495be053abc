package tally

import (
	"math"
	"time"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Timeline is the rows of a column of dates by day, month or year, without leaving out
// those in which nothing lies.
type Timeline struct {
	Periods []Period `json:"periods"`
	Gaps    []Gap    `json:"gaps"`   // runs of periods without a row, in order of time
	Unread  int      `json:"unread"` // rows whose value is no date, blank ones not among them
}

// Period is a day, month or year with its rows.
type Period struct {
	Period string `json:"period"` // 2031-10-04, 2031-10 or 2031
	Rows   int    `json:"rows"`
}

// Gap is a run of periods without a row.
type Gap struct {
	From    string `json:"from"`
	To      string `json:"to"`
	Periods int    `json:"periods"`
}

// maxPeriods is how many periods a timeline has at most.
const maxPeriods = 4000

// forms are how a period is written, by its name.
var forms = map[string]string{"day": "2006-01-02", "month": "2006-01", "year": "2006"}

// Over counts the rows of a column of dates by day, month or year. Cost: O(distinct) and
// the periods.
func Over(t *table.Table, c *table.Column, by string) (*Timeline, error) {
	form, ok := forms[by]
	if !ok {
		return nil, problem.New("Choose day, month or year", "there is no timeline by %q", by)
	}
	counts, facts, read := t.Counts(c), c.Dict.Facts(), c.Read()
	if read.Reading.Kind != reading.Date {
		read = c.Dict.ReadAs(reading.Plain(reading.Date))
	}
	out := &Timeline{Periods: []Period{}, Gaps: []Gap{}}
	rows := map[string]int{}
	var first, last time.Time
	for code := 1; code < len(counts); code++ {
		tr := facts.Traits[code]
		if counts[code] == 0 || tr&table.IsBlankValue != 0 {
			continue
		}
		if !read.OK[code] {
			out.Unread += int(counts[code])
			continue
		}
		day := time.Unix(int64(math.Floor(read.At[code]))*86400, 0).UTC()
		if len(rows) == 0 || day.Before(first) {
			first = day
		}
		if len(rows) == 0 || day.After(last) {
			last = day
		}
		rows[day.Format(form)] += int(counts[code])
	}
	if len(rows) == 0 {
		return out, nil
	}
	// Periods are stepped through from the first of a month, as months have no fixed length.
	at, step := first, func(t time.Time) time.Time { return t.AddDate(0, 0, 1) }
	switch by {
	case "month":
		at = time.Date(first.Year(), first.Month(), 1, 0, 0, 0, 0, time.UTC)
		step = func(t time.Time) time.Time { return t.AddDate(0, 1, 0) }
	case "year":
		at = time.Date(first.Year(), 1, 1, 0, 0, 0, 0, time.UTC)
		step = func(t time.Time) time.Time { return t.AddDate(1, 0, 0) }
	}
	for ; !at.After(last); at = step(at) {
		if len(out.Periods) == maxPeriods {
			return nil, problem.New("Choose a longer period, or narrow the table by a condition", "from %s to %s there are more than %d periods by %s",
				first.Format(time.DateOnly), last.Format(time.DateOnly), maxPeriods, by)
		}
		out.Periods = append(out.Periods, Period{at.Format(form), rows[at.Format(form)]})
	}
	out.gaps()
	return out, nil
}

func (t *Timeline) gaps() {
	begin := -1
	for i, p := range t.Periods {
		switch {
		case p.Rows == 0 && begin < 0:
			begin = i
		case p.Rows > 0 && begin >= 0:
			t.Gaps = append(t.Gaps, Gap{t.Periods[begin].Period, t.Periods[i-1].Period, i - begin})
			begin = -1
		}
	}
}
