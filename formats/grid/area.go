package grid

import (
	"regexp"
	"strconv"
	"strings"

	"grandledger/core/problem"
)

// area is a range of cells; rows and columns count from 1, and bottom or right 0 is
// without end.
type area struct{ left, top, right, bottom int }

var corner = regexp.MustCompile(`^([A-Za-z]{0,3})([0-9]{0,7})$`)

func parseArea(text string) (area, error) {
	a := area{left: 1, top: 1}
	text = strings.ReplaceAll(strings.TrimSpace(text), "$", "")
	if text == "" {
		return a, nil
	}
	from, to, two := strings.Cut(text, ":")
	first, last := corner.FindStringSubmatch(from), corner.FindStringSubmatch(to)
	if first == nil || last == nil || first[0] == "" || two && last[0] == "" {
		return a, problem.New("Write it like B3:F200, B3 or B:F", "%.40q is no range of cells", text)
	}
	a.left, a.top = max(column(first[1]), 1), max(number(first[2]), 1)
	if two {
		a.right, a.bottom = column(last[1]), number(last[2])
	}
	if a.right > 0 && a.right < a.left || a.bottom > 0 && a.bottom < a.top {
		return a, problem.New("Write its upper left corner first, like B3:F200", "the range %.40q runs backwards", text)
	}
	return a, nil
}

// column reads letters as spreadsheets count columns: A is 1, Z 26, AA 27.
func column(letters string) int {
	n := 0
	for _, c := range strings.ToUpper(letters) {
		n = n*26 + int(c-'A') + 1
	}
	return n
}

func number(digits string) int {
	n, _ := strconv.Atoi(digits) // the pattern admits digits alone
	return n
}

// cut gives the cells of a row within the area.
func (a area) cut(row []string) []string {
	if a.right > 0 && len(row) > a.right {
		row = row[:a.right]
	}
	return row[min(a.left-1, len(row)):]
}
