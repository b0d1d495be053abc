package tally

import (
	"slices"
	"sort"
)

// lazily is a list of codes that is put in order only where it is looked at, so that the
// first page of a tally of millions of values costs a few passes over them and not a sort.
// It is quicksort that goes on only in the parts that are wanted and remembers where they
// begin (lazy quicksort; Paredes and Navarro 2006, Optimal Incremental Sorting).
type lazily struct {
	codes  []uint32
	less   func(a, b uint32) bool
	bounds []int       // places before which all is smaller than behind, ascending
	done   map[int]int // where a sorted part begins and ends
}

// small is the length of a part that is sorted outright.
const small = 4096

func newLazily(codes []uint32, bounds []int, less func(a, b uint32) bool) *lazily {
	return &lazily{codes: codes, less: less, bounds: append(bounds, len(codes)), done: map[int]int{}}
}

// settle puts the places from, up to to, in order.
func (l *lazily) settle(from, to int) {
	for from < to {
		at := sort.SearchInts(l.bounds, from+1)
		lo, hi := 0, l.bounds[at]
		if at > 0 {
			lo = l.bounds[at-1]
		}
		switch {
		case l.done[lo] == hi:
		case hi-lo <= small:
			slices.SortFunc(l.codes[lo:hi], func(a, b uint32) int {
				switch {
				case l.less(a, b):
					return -1
				case l.less(b, a):
					return 1
				}
				return 0
			})
			l.done[lo] = hi
		default:
			l.bounds = slices.Insert(l.bounds, at, l.partition(lo, hi))
			continue
		}
		from = hi
	}
}

// partition splits a part in two around a value of its middle and gives where the second
// begins, which is neither end.
func (l *lazily) partition(lo, hi int) int {
	c := l.codes[lo:hi]
	// The median of nine, spread over the part.
	var nine [9]uint32
	for i := range nine {
		nine[i] = c[(len(c)-1)*i/8]
	}
	slices.SortFunc(nine[:], func(a, b uint32) int {
		if l.less(a, b) {
			return -1
		}
		return 1
	})
	pivot := nine[4]
	// Hoare's partition: no order of equal elements, as there are none.
	i, j := -1, len(c)
	for {
		for i++; l.less(c[i], pivot); i++ {
		}
		for j--; l.less(pivot, c[j]); j-- {
		}
		if i >= j {
			return lo + max(j+1, 1)
		}
		c[i], c[j] = c[j], c[i]
	}
}
