package table

import (
	"math/bits"
	"runtime"
	"sync"
	"sync/atomic"
)

// partition is how many values a partition of settle has: their index fits the
// second-level cache.
const partition = 8192

// hashed is a filed value: its hash, whose high bits choose its partition, and its code.
type hashed struct{ hash, code uint32 }

// settle finds which of the filed values are equal, gives all equal ones the code of the
// first and closes the gaps, so that codes are again in order of first appearance; out
// is rewritten accordingly. Values are split by hash into partitions and each is indexed
// alone; the text of a value is read only where another has its hash.
//
// Cost: O(values) on all cores, with 12 bytes a value held for its time.
func (b *DictBuilder) settle(out []uint32) {
	if b.ascending() {
		return // as running numbers do; no two are equal
	}
	n := b.Len()
	workers := min(runtime.GOMAXPROCS(0), 1+n/settledAlone)
	width := bits.Len(uint(n / partition))
	shift := uint(32 - width)
	first := make([]uint32, n+1) // for each code its hash, and then the code of the first value equal to it
	counts := make([][]int, workers)
	of := func(w int) (from, to uint32) { return uint32(1 + n*w/workers), uint32(1 + n*(w+1)/workers) }
	side(workers, func(w int) {
		counts[w] = make([]int, 1<<width)
		for code, to := of(w); code < to; code++ {
			first[code] = hash(b.value(code))
			counts[w][first[code]>>shift]++
		}
	})
	starts, at, largest := make([]int, 1<<width+1), 0, 0
	for i := range 1 << width {
		starts[i] = at
		for w := range counts {
			counts[w][i], at = at, at+counts[w][i]
		}
		largest = max(largest, at-starts[i])
	}
	starts[1<<width] = at
	ordered := make([]hashed, n)
	side(workers, func(w int) {
		for code, to := of(w); code < to; code++ {
			place := &counts[w][first[code]>>shift]
			ordered[*place] = hashed{first[code], code}
			*place++
		}
	})
	equal := make([]int, workers)
	side(workers, func(w int) {
		index := make([]hashed, 2<<bits.Len(uint(largest)))
		for i := w; i < len(starts)-1; i += workers {
			clear(index)
			for _, v := range ordered[starts[i]:starts[i+1]] {
				first[v.code] = b.firstOf(index, v)
				if first[v.code] != v.code {
					equal[w]++
				}
			}
		}
	})
	for _, n := range equal {
		if n > 0 {
			b.close(first, out)
			return
		}
	}
}

// settledAlone is how many values are settled before another core is worth it.
const settledAlone = 1 << 17

// side runs workers side by side.
func side(workers int, work func(w int)) {
	if workers == 1 {
		work(0)
		return
	}
	var all sync.WaitGroup
	for w := range workers {
		all.Go(func() { work(w) })
	}
	all.Wait()
}

// firstOf finds the first value of a partition that is equal to one, or makes it that.
func (b *DictBuilder) firstOf(index []hashed, v hashed) uint32 {
	mask := uint32(len(index) - 1)
	for i := v.hash & mask; ; i = (i + 1) & mask {
		switch s := index[i]; {
		case s.code == Missing:
			index[i] = v
			return v.code
		case s.hash == v.hash && b.value(s.code) == b.value(v.code):
			return s.code
		}
	}
}

// close moves the values together over those that have an earlier equal.
func (b *DictBuilder) close(first, out []uint32) {
	at, end := uint32(0), uint32(0)
	from := uint32(0)
	for code := uint32(1); code < uint32(len(first)); code++ {
		to := b.ends[code]
		if first[code] == code {
			end += uint32(copy(b.arena[end:], b.arena[from:to]))
			at++
			b.ends[at] = end
			first[code] = at
		} else {
			first[code] = first[first[code]] // an earlier one, which has its new code already
		}
		from = to
	}
	b.arena, b.ends = b.arena[:end], b.ends[:at+1]
	for i, code := range out {
		if code != Missing {
			out[i] = first[code]
		}
	}
}

// ascending says whether each value comes behind the one before it in byte order. It costs next to nothing where
// that does not hold.
func (b *DictBuilder) ascending() bool {
	n := b.Len()
	workers := min(runtime.GOMAXPROCS(0), 1+n/settledAlone)
	var not atomic.Bool
	side(workers, func(w int) {
		from, to := max(2, 1+n*w/workers), n*(w+1)/workers
		for code := from; code <= to && (code&1023 != 0 || !not.Load()); code++ {
			if b.value(uint32(code-1)) >= b.value(uint32(code)) {
				not.Store(true)
				return
			}
		}
	})
	return !not.Load()
}

// estimate guesses how many of the filed values are different from those whose hash falls
// into one part of sixty-four.
func (b *DictBuilder) estimate() int {
	if b.ascending() {
		return b.Len()
	}
	const share = 64
	seen := map[uint32]bool{}
	for code := uint32(1); code <= uint32(b.Len()); code++ {
		if h := hash(b.value(code)); h < 1<<32/share {
			seen[h] = true
		}
	}
	return len(seen) * share
}
