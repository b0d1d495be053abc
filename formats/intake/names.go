package intake

import (
	"fmt"
	"strings"
)

// Names makes the names of columns usable: trimmed, none empty, none twice, none too
// long. given says whether the cells came with the file, so that repairs are told.
// Cost: O(cells).
func Names(cells []string, given bool, report *Report) []string {
	taken := map[string]bool{}
	for _, c := range cells {
		taken[cut(c)] = true
	}
	used := map[string]bool{}
	next := map[string]int{}
	var names, renamed []string
	var trimmed Tallied
	for i, cell := range cells {
		name := cut(cell)
		if name != cell && name != "" && len(cell) <= MaxName {
			trimmed.Count++
		}
		if name == "" || used[name] {
			base, n, form := name, max(next[name], 2), "%s (%d)"
			if base == "" {
				base, n, form = "column", i+1, "%s %d"
			}
			for name = fmt.Sprintf(form, base, n); used[name] || taken[name]; name = fmt.Sprintf(form, base, n) {
				n++
			}
			next[base] = n + 1
			renamed = append(renamed, name)
		}
		used[name] = true
		names = append(names, name)
	}
	if n := len(renamed); given && n > 0 {
		one, many := "a column name was empty or used twice; it is now ", fmt.Sprintf("%d column names were empty or used twice; they are now ", n)
		list := strings.Join(renamed[:min(n, listed)], ", ")
		report.Notes = append(report.Notes, Note{Count: n, What: map[bool]string{true: one, false: many}[n == 1] + list})
	}
	report.Note(trimmed, "a column name had spaces around it, which were removed", "column names had spaces around them, which were removed")
	return names
}

func cut(cell string) string {
	name := strings.TrimSpace(Clean(cell))
	if len(name) > MaxName {
		name = strings.TrimSpace(strings.ToValidUTF8(name[:MaxName], ""))
	}
	return name
}

// JoinNames makes one name of the lines of a header that has several. A blank cell of an
// upper line goes on with what stands to its left, as under a heading that spans columns.
func JoinNames(lines [][]string) []string {
	width := 0
	for _, line := range lines {
		width = max(width, len(line))
	}
	names := make([]string, width)
	for l, line := range lines {
		above := ""
		for i := range names {
			cell := ""
			if i < len(line) {
				cell = strings.TrimSpace(line[i])
			}
			if cell == "" && l < len(lines)-1 {
				cell = above
			}
			above = cell
			if cell != "" && cell != names[i] {
				names[i] = strings.TrimSpace(names[i] + " " + cell)
			}
		}
	}
	return names
}
