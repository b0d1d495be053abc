package text

import "math/bits"

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
	for len(a) > 0 && len(b) > 0 && a[0] == b[0] && a[0] < ascii { // an optimal way leaves a common beginning alone
		a, b = a[1:], b[1:]
	}
	for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] && a[len(a)-1] < ascii {
		a, b = a[:len(a)-1], b[:len(b)-1]
	}
	if isPlain(a) && isPlain(b) {
		if len(a)-len(b) > most || len(b)-len(a) > most {
			return most + 1
		}
		return damerauPlain(a, b, most)
	}
	x, y := []rune(a), []rune(b)
	if len(x)-len(y) > most || len(y)-len(x) > most || len(x) > maxDistance || len(y) > maxDistance {
		return most + 1
	}
	if len(x) == 0 || len(y) == 0 {
		return len(x) + len(y)
	}
	// d has a row and a column before the first letter, and one before that which no way goes through.
	width, far := len(y)+2, len(x)+len(y)
	d := make([]int, (len(x)+2)*width)
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

// damerauPlain is Distance for plain texts that neither begin nor end alike. Where no two letters stand the other way
// round in both, no swap can save anything, and the distance is Levenshtein's, which is a step a letter.
func damerauPlain(a, b string, most int) int {
	if len(a) == 0 || len(b) == 0 {
		return len(a) + len(b)
	}
	var places masks
	places.of(a)
	d := levenshteinPlain(&places, len(a), b)
	if d < 2 || !turnedRound(a, b, &places) {
		return min(d, most+1)
	}
	if d > 2*most { // a swap stands for at most two edits
		return most + 1
	}
	return min(damerauTable(a, b), most+1)
}

// turnedRound says whether neighbouring letters of one text stand in the other in the opposite order.
func turnedRound(a, b string, inA *masks) bool {
	for i := 1; i < len(b); i++ {
		x, y := inA[b[i-1]&(ascii-1)], inA[b[i]&(ascii-1)]
		if x != 0 && y != 0 && b[i-1] != b[i] && 1<<(bits.Len64(x)-1) > y&-y {
			return true
		}
	}
	var inB masks
	inB.of(b)
	for i := 1; i < len(a); i++ {
		x, y := inB[a[i-1]&(ascii-1)], inB[a[i]&(ascii-1)]
		if x != 0 && y != 0 && a[i-1] != a[i] && 1<<(bits.Len64(x)-1) > y&-y {
			return true
		}
	}
	return false
}

// damerauTable is the whole table of R. Lowrance and R. Wagner, in bytes: no distance of plain texts is above 64.
func damerauTable(a, b string) int {
	const width = shortest + 2
	var d [width * width]uint8
	far := uint8(len(a) + len(b))
	d[0] = far
	for i := range len(a) + 1 {
		d[(i+1)*width], d[(i+1)*width+1] = far, uint8(i)
	}
	for j := range len(b) + 1 {
		d[j+1], d[width+j+1] = far, uint8(j)
	}
	var lastRow [shortest]uint8
	for i := 1; i <= len(a); i++ {
		lastColumn := 0
		above, row := d[i*width:i*width+len(b)+2], d[(i+1)*width:(i+1)*width+len(b)+2]
		left, c := row[1], a[i-1]
		for j := 1; j <= len(b); j++ {
			from := int(lastRow[j-1])
			column := lastColumn
			cost := uint8(1)
			if c == b[j-1] {
				cost, lastColumn, lastRow[j-1] = 0, j, uint8(i)
			}
			left = min(above[j]+cost, left+1, above[j+1]+1)
			if from > 0 && column > 0 {
				left = min(left, d[from*width+column]+uint8(i-from+j-column-1))
			}
			row[j+1] = left
		}
	}
	return int(d[(len(a)+1)*width+len(b)+1])
}
