package spelling

import "strings"

// opposites are words that tell things apart however alike they are written: compass points, sides, sizes
// and the like. Words of one set are opposites of one another.
var opposites = func() map[string]int {
	out := map[string]int{}
	for i, set := range []string{
		"north south east west northeast northwest southeast southwest northern southern eastern western n s e w ne nw se sw central",
		"left right", "upper lower middle", "inner outer", "male female", "small medium large xl xxl big little", "old new", "first second third last",
		"odd even", "open closed", "in out", "day night", "summer winter spring autumn", "black white red blue green yellow brown grey", "fresh frozen dried smoked",
		"raw cooked", "with without", "mono stereo", "single double triple", "monday tuesday wednesday thursday friday saturday sunday",
		"january february march april may june july august september october november december", "senior junior sr jr", "mens womens men women boys girls",
	} {
		for _, w := range strings.Fields(set) {
			out[w] = i + 1
		}
	}
	return out
}()

const shortWord = "differ in a short word"

// heldApart says why two values that are written alike are two things: they differ in a number, a roman
// numeral, a single letter or a short word, or in opposites. It is "" where nothing says so.
func heldApart(a, b []string) string {
	onlyA, onlyB := without(a, b), without(b, a)
	if digitsOf(onlyA) != digitsOf(onlyB) {
		return "differ in a number"
	}
	for _, w := range append(onlyA, onlyB...) {
		if _, roman := romans[w]; roman || w == "i" || w == "v" || w == "x" {
			return "differ in a roman numeral"
		}
		if len([]rune(w)) == 1 && len(a) > 1 && len(b) > 1 && len(onlyA) == 1 && len(onlyB) == 1 && len([]rune(onlyA[0])) == 1 && len([]rune(onlyB[0])) == 1 {
			return "differ in a single letter"
		}
	}
	if len(onlyA) == 1 && len(onlyB) == 1 && len(a) > 1 && max(len([]rune(onlyA[0])), len([]rune(onlyB[0]))) < 4 {
		return shortWord
	}
	for _, w := range onlyA {
		for _, v := range onlyB {
			if opposites[w] != 0 && opposites[w] == opposites[v] {
				return "“" + w + "” is not “" + v + "”"
			}
		}
	}
	if len(onlyA) == 0 || len(onlyB) == 0 {
		for _, w := range append(onlyA, onlyB...) {
			if opposites[w] != 0 {
				return "one says “" + w + "”"
			}
		}
	}
	return ""
}

// without gives the words of one list that are not in another.
func without(a, b []string) []string {
	var out []string
	for _, w := range a {
		found := false
		for _, v := range b {
			found = found || v == w
		}
		if !found {
			out = append(out, w)
		}
	}
	return out
}

func digitsOf(words []string) string {
	var out strings.Builder
	for _, w := range words {
		for i := range len(w) {
			if '0' <= w[i] && w[i] <= '9' {
				out.WriteByte(w[i])
			}
		}
	}
	return out.String()
}

// slipWords says how two folded values differ, in words, and whether that is a slip which is made more often than others: a
// letter doubled or not, two letters swapped, or one of a neighbouring key.
func slipWords(a, b string, edits int) (why string, likely bool) {
	if edits == 2 {
		return "two typing slips", false
	}
	x, y := []rune(a), []rune(b)
	if len(x) < len(y) {
		x, y = y, x
	}
	at := 0 // where they differ first
	for at < len(y) && x[at] == y[at] {
		at++
	}
	switch {
	case len(x) != len(y) && at > 0 && x[at] == x[at-1]:
		return "a doubled letter", true
	case len(x) != len(y):
		return "a letter more or less", false
	case differing(x, y) == 2:
		return "two letters swapped", true
	case neighbours(x[at], y[at]):
		return "a neighbouring key", true
	}
	return "one letter another", false
}

// keyboard is the letters of the keyboard of ISO/IEC 9995 as most languages in Latin letters have it, row by row.
var keyboard = [3]string{"qwertyuiop", "asdfghjkl", "zxcvbnm"}

// neighbours says whether the keys of two letters touch.
func neighbours(a, b rune) bool {
	place := func(c rune) (row, at int) {
		for row, keys := range keyboard {
			if at := strings.IndexRune(keys, c); at >= 0 {
				return row, at
			}
		}
		return -1, 0
	}
	rowA, atA := place(a)
	rowB, atB := place(b)
	if rowA < 0 || rowB < 0 {
		return false
	}
	if rowA > rowB {
		rowA, atA, rowB, atB = rowB, atB, rowA, atA
	}
	switch rowB - rowA {
	case 0:
		return atA-atB == 1 || atB-atA == 1
	case 1: // each row begins half a key to the right of the one above
		return atB == atA || atB == atA-1
	}
	return false
}

func differing(x, y []rune) (n int) {
	for i := range x {
		if x[i] != y[i] {
			n++
		}
	}
	return n
}
