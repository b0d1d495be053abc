package text

import "strconv"

// Grouped writes a number with commas between thousands: 6214 as 6,214.
func Grouped(n int) string {
	s := strconv.Itoa(n)
	for at := len(s) - 3; at > 0 && s[at-1] != '-'; at -= 3 {
		s = s[:at] + "," + s[at:]
	}
	return s
}
