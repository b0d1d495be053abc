package text

// Slips is how many typing slips may lie between two spellings of one thing, by the letters of the
// shorter: in few letters an edit makes another word.
func Slips(letters int) int {
	switch {
	case letters < 5:
		return 0
	case letters < 9:
		return 1
	}
	return 2
}

// maxDistance is how many letters of a text Distance looks at.
const maxDistance = 256

// Distance is the Damerau-Levenshtein distance of two texts: the fewest insertions, deletions,
// replacements and swaps of neighbouring letters that make one of the other, with edits between
// swapped letters allowed (F. Damerau, CACM 1964; the algorithm of R. Lowrance and R. Wagner, JACM
// 1975). It is most+1 where it is more than most, or a text has more than 256 letters.
//
// Cost: O(letters x letters), less where the lengths alone settle it.
func Distance(a, b string, most int) int {
	x, y := []rune(a), []rune(b)
	for len(x) > 0 && len(y) > 0 && x[0] == y[0] { // an optimal way leaves a common beginning alone
		x, y = x[1:], y[1:]
	}
	for len(x) > 0 && len(y) > 0 && x[len(x)-1] == y[len(y)-1] {
		x, y = x[:len(x)-1], y[:len(y)-1]
	}
	if len(x)-len(y) > most || len(y)-len(x) > most || len(x) > maxDistance || len(y) > maxDistance {
		return most + 1
	}
	if len(x) == 0 || len(y) == 0 {
		return len(x) + len(y)
	}
	// d has a row and a column before the first letter, and one before that which no way goes through.
	width, far := len(y)+2, len(x)+len(y)
	var small [1024]int
	d := small[:]
	if n := (len(x) + 2) * width; n > len(small) {
		d = make([]int, n)
	}
	d[0] = far
	for i := 0; i <= len(x); i++ {
		d[(i+1)*width], d[(i+1)*width+1] = far, i
	}
	for j := 0; j <= len(y); j++ {
		d[j+1], d[width+j+1] = far, j
	}
	var lastRow [maxDistance]int // where each letter of y stood last in x
	for i := 1; i <= len(x); i++ {
		lastColumn, least := 0, far // where x[i-1] stood last in y before j
		for j := 1; j <= len(y); j++ {
			row, column := lastRow[j-1], lastColumn
			cost := 1
			if x[i-1] == y[j-1] {
				cost, lastColumn, lastRow[j-1] = 0, j, i
			}
			at := min(d[i*width+j]+cost, d[(i+1)*width+j]+1, d[i*width+j+1]+1, d[row*width+column]+(i-row-1)+1+(j-column-1))
			d[(i+1)*width+j+1] = at
			least = min(least, at)
		}
		if least > most { // a swap that goes back over rows pays for each of them
			return most + 1
		}
	}
	return min(d[(len(x)+1)*width+len(y)+1], most+1)
}
