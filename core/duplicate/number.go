package duplicate

import (
	"math/bits"
	"runtime"
	"sync"
)

// renumber is Number with no prior codes. Cost: O(rows) and O(largest code).
func renumber(codes []uint32) ([]uint32, int) {
	out := make([]uint32, len(codes))
	largest := uint32(0)
	for _, code := range codes {
		largest = max(largest, code)
	}
	numbers := make([]uint32, largest+1)
	next := uint32(0)
	for row, code := range codes {
		if numbers[code] == 0 {
			next++
			numbers[code] = next
		}
		out[row] = numbers[code]
	}
	return out, int(next)
}

// partition is about how many rows are numbered together: their index stays in the
// second-level cache.
const partition = 8192

// pair is a row with its two codes.
type pair struct {
	key uint64
	row uint32
}

// Number gives each distinct pair (prior, code), row by row, a number from 1 in order of first
// appearance, and says how many there are; prior nil stands for all the same.
//
// Rows are split by the hash of their pair into partitions, and each partition finds the
// first row of every pair in it (the partitioned hash join of Shatdal, Kant and Naughton,
// VLDB 1994, applied to grouping); a last pass gives the numbers. Cost: O(rows) on all
// cores, 16 bytes a row held for its time.
func Number(codes, prior []uint32) ([]uint32, int) {
	if prior == nil {
		return renumber(codes)
	}
	out := make([]uint32, len(codes))
	pairs, starts := partitioned(codes, prior)
	largest := 0
	for i := range starts[1:] {
		largest = max(largest, starts[i+1]-starts[i])
	}
	workers := min(runtime.GOMAXPROCS(0), len(starts)-1)
	side(workers, func(w int) {
		index := make([]uint32, 2<<bits.Len(uint(largest))) // of pairs in their partition, from 1
		for i := w; i < len(starts)-1; i += workers {
			firsts(pairs[starts[i]:starts[i+1]], index, out)
		}
	})
	next := uint32(0)
	for row, first := range out { // the row itself comes first, or an earlier one has its number already
		if int(first) == row {
			next++
			out[row] = next
		} else {
			out[row] = out[first]
		}
	}
	return out, int(next)
}

// partitioned orders the rows by partition, within one as they come; starts says where each
// partition begins and, last, where all end.
func partitioned(codes, prior []uint32) (pairs []pair, starts []int) {
	rows := len(codes)
	width := bits.Len(uint(rows / partition))
	shift := 64 - width // 64 with a single partition: Go shifts everything out
	workers := 1
	if width > 0 {
		workers = runtime.GOMAXPROCS(0)
	}
	counts := make([][]int, workers) // by worker and partition: first how many, then where
	of := func(w int) (from, to int) { return rows * w / workers, rows * (w + 1) / workers }
	side(workers, func(w int) {
		counts[w] = make([]int, 1<<width)
		for row, to := of(w); row < to; row++ {
			counts[w][mix(uint64(prior[row])<<32|uint64(codes[row]))>>shift]++
		}
	})
	starts = make([]int, 1<<width+1)
	at := 0
	for i := range 1 << width {
		starts[i] = at
		for w := range counts {
			counts[w][i], at = at, at+counts[w][i]
		}
	}
	starts[1<<width] = at
	pairs = make([]pair, rows)
	side(workers, func(w int) {
		for row, to := of(w); row < to; row++ {
			key := uint64(prior[row])<<32 | uint64(codes[row])
			place := &counts[w][mix(key)>>shift]
			pairs[*place] = pair{key, uint32(row)}
			*place++
		}
	})
	return pairs, starts
}

// firsts writes for each row of a partition the first row with the same pair.
func firsts(pairs []pair, index, out []uint32) {
	size := 2 << bits.Len(uint(len(pairs)))
	index, mask := index[:size], uint64(size-1)
	clear(index)
	for n, p := range pairs {
		i := mix(p.key) & mask // the high bits chose the partition
		for ; index[i] != 0 && pairs[index[i]-1].key != p.key; i = (i + 1) & mask {
		}
		if index[i] == 0 {
			index[i] = uint32(n + 1)
		}
		out[p.row] = pairs[index[i]-1].row
	}
}

// mix spreads a pair of codes over 64 bits, all of which depend on both (the finaliser of
// MurmurHash3, A. Appleby, in the public domain).
func mix(key uint64) uint64 {
	key = (key ^ key>>33) * 0xff51afd7ed558ccd
	key = (key ^ key>>33) * 0xc4ceb9fe1a85ec53
	return key ^ key>>33
}

// side runs workers side by side.
func side(workers int, work func(w int)) {
	var all sync.WaitGroup
	for w := range workers {
		all.Go(func() { work(w) })
	}
	all.Wait()
}
