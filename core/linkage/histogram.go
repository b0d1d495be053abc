package linkage

import "math"

// Bin counts the compared pairs of a weight, with what rivals leave of it where they compete: from From to half a bit more.
type Bin struct {
	From     float64 // bits
	Pairs    int
	Expected float64 // of them that are one thing, by their probabilities
}

// Bins of half a bit, from the lowest to the highest weight that is told apart.
const (
	binBits    = 0.5
	lowestBin  = -40.0
	highestBin = 60.0
)

// histogram counts pairs by weight.
type histogram struct {
	pairs    [int((highestBin - lowestBin) / binBits)]int
	expected [int((highestBin - lowestBin) / binBits)]float64
}

// add counts a pair of a probability; its weight is what the prior odds need to become those.
func (h *histogram) add(p, prior float64) {
	at := binOf(Bits(p) - prior)
	h.pairs[at]++
	h.expected[at] += p
}

func binOf(weight float64) int {
	last := int((highestBin-lowestBin)/binBits) - 1
	return min(max(int(math.Floor((weight-lowestBin)/binBits+1e-9)), 0), last)
}

// bins gives those between the first and the last that hold a pair.
func (h *histogram) bins() []Bin {
	from, to := 0, len(h.pairs)
	for from < to && h.pairs[from] == 0 {
		from++
	}
	for to > from && h.pairs[to-1] == 0 {
		to--
	}
	out := make([]Bin, 0, to-from)
	for i := from; i < to; i++ {
		out = append(out, Bin{lowestBin + float64(i)*binBits, h.pairs[i], h.expected[i]})
	}
	return out
}

// Bits are the odds of a probability in bits.
func Bits(p float64) float64 {
	return math.Log2(max(p, 1e-300) / max(1-p, 1e-16))
}
