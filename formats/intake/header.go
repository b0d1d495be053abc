package intake

import (
	"slices"

	"grandledger/core/reading"
)

// Above counts the rows, such as a title and a date, before the first of the given rows
// that is as wide as most are: only narrower ones of one or two cells, and few of them.
func Above(rows [][]string) int {
	widths := map[int]int{}
	for _, r := range rows {
		widths[len(r)]++
	}
	most := 0
	for width, n := range widths {
		if n > widths[most] || n == widths[most] && width > most {
			most = width
		}
	}
	above := slices.IndexFunc(rows, func(r []string) bool { return len(r) >= most })
	if most < 3 || above < 1 || above > 20 || widths[most] < 2 || widths[most]*2 < len(rows) {
		return 0
	}
	titles := 0
	for _, r := range rows[:above] {
		filled := 0
		for _, cell := range r {
			if cell != "" {
				filled++
			}
		}
		if filled > 2 {
			return 0
		}
		titles += filled
	}
	if titles == 0 { // empty and comment lines are passed over anyway
		return 0
	}
	return above
}

var (
	plainNumber = reading.Plain(reading.Number).Reader()
	plainDate   = reading.Plain(reading.Date).Reader()
)

// LooksLikeNames doubts a first row in which some cell is a number or a date, or none
// holds anything.
func LooksLikeNames(row []string) bool {
	held := false
	for _, cell := range row {
		if _, number := plainNumber(cell); number {
			return false
		}
		if _, date := plainDate(cell); date {
			return false
		}
		held = held || cell != ""
	}
	return held
}
