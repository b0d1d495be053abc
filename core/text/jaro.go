package text

// Jaro is the likeness of two texts by M. Jaro (JASA 84, 1989), from 0 to 1: letters count as shared
// where they stand no further apart than half the longer text. Cost: one step a letter for plain texts of up
// to 64 letters, O(letters x letters) at worst for others.
func Jaro(a, b string) float64 {
	if a == b {
		return 1
	}
	if isPlain(a) && isPlain(b) {
		var m masks
		m.of(b)
		return jaroPlain(a, b, &m)
	}
	return jaroAny([]rune(a), []rune(b))
}

func jaroAny(x, y []rune) float64 {
	if len(x) == 0 || len(y) == 0 {
		return 0
	}
	window := max(max(len(x), len(y))/2-1, 0)
	taken := make([]bool, len(y))
	var shared []rune
	for i, c := range x {
		for j := max(0, i-window); j < min(len(y), i+window+1); j++ {
			if !taken[j] && y[j] == c {
				taken[j] = true
				shared = append(shared, c)
				break
			}
		}
	}
	if len(shared) == 0 {
		return 0
	}
	turned, at := 0, 0
	for j, is := range taken {
		if is {
			if y[j] != shared[at] {
				turned++
			}
			at++
		}
	}
	m := float64(len(shared))
	return (m/float64(len(x)) + m/float64(len(y)) + (m-float64(turned/2))/m) / 3
}

// JaroWinkler raises the likeness of texts that begin alike, by a tenth of what is missing for each of
// up to four letters, where it is above 0.7 (W. Winkler 1990; Porter and Winkler, US Census RR97/02).
func JaroWinkler(a, b string) float64 {
	if a == b {
		return 1
	}
	if isPlain(a) && isPlain(b) {
		var m masks
		m.of(b)
		return winkler(jaroPlain(a, b, &m), a, b)
	}
	x, y := []rune(a), []rune(b)
	s := jaroAny(x, y)
	if s <= 0.7 {
		return s
	}
	prefix := 0
	for prefix < min(4, len(x), len(y)) && x[prefix] == y[prefix] {
		prefix++
	}
	return s + 0.1*float64(prefix)*(1-s)
}
