package reconcile

import (
	"fmt"
	"slices"
)

// severalByReference settles all items of one reference that add up to the same on both sides.
func (r *Result) severalByReference() {
	r.groups(byRef, func(ours, theirs []int32) {
		if len(ours) == 1 && len(theirs) == 1 || len(ours)+len(theirs) > 200 {
			return
		}
		sum, low, high := int64(0), int32(1<<30), int32(noDay)
		for side, list := range [2][]int32{ours, theirs} {
			for _, i := range list {
				it := &r.sides[side].items[i]
				sum += int64(1-2*side) * it.amount
				if it.day != noDay {
					low, high = min(low, it.day), max(high, it.day)
				}
			}
		}
		if sum == 0 && (high == noDay || high-low <= r.window()) {
			r.settle(ours, theirs, Several, true, fmt.Sprintf("the same reference, %d against %d with the same sum", len(ours), len(theirs)))
		}
	})
}

// Limits of sums of several.
const (
	mostTogether = 8      // items of one side that one of the other stands for
	mostNear     = 24     // items among which a sum is looked for
	sumsTried    = 50_000 // partial sums of one item
)

// sumKey is a text and a currency: what items have in common that may be summed.
type sumKey struct{ words, currency uint32 }

// severalBySum settles one item with several of the other side that add up to it, if they are alike in their text, lie within the window, and no others of them do. What adds up in
// several ways is offered.
func (r *Result) severalBySum() {
	for side := range r.sides {
		other := 1 - side
		byWords := map[sumKey][]int32{}
		for i := range r.sides[other].items {
			it := &r.sides[other].items[i]
			if r.sets[other][i] == 0 && !r.broken[other][i] && it.day != noDay {
				k := sumKey{it.words, it.currency}
				byWords[k] = append(byWords[k], int32(i))
			}
		}
		for k := range byWords {
			slices.SortFunc(byWords[k], func(x, y int32) int {
				a, b := r.sides[other].items[x].day, r.sides[other].items[y].day
				if a != b {
					return int(a - b)
				}
				return int(x - y)
			})
		}
		texts := r.alikeTexts(byWords)
		for i := range r.sides[side].items {
			one := &r.sides[side].items[i]
			if r.sets[side][i] != 0 || r.broken[side][i] || one.day == noDay || one.amount == 0 {
				continue
			}
			r.sum(side, int32(i), one, byWords, texts(one))
		}
	}
}

// alikeTexts gives for an item the texts of the other side that are like its own, itself included; of items without a text, those without one.
func (r *Result) alikeTexts(byWords map[sumKey][]int32) func(one *item) []sumKey {
	byWord := map[string][]uint32{}
	for k := range byWords {
		for _, w := range r.world.worded[k.words] {
			if len(w) > 2 {
				byWord[w] = append(byWord[w], k.words)
			}
		}
	}
	known := map[uint32][]uint32{}
	return func(one *item) []sumKey {
		list, ok := known[one.words]
		if !ok {
			list = []uint32{one.words}
			for _, w := range r.world.worded[one.words] {
				if len(byWord[w]) > 100 { // says nothing
					continue
				}
				for _, other := range byWord[w] {
					if !slices.Contains(list, other) && r.world.unlike(one.words, other) <= unlikeFrom/2 {
						list = append(list, other)
					}
				}
			}
			slices.Sort(list)
			known[one.words] = list
		}
		var out []sumKey
		for _, words := range list {
			out = append(out, sumKey{words, one.currency})
		}
		return out
	}
}

// sum looks for the items that add up to one.
func (r *Result) sum(side int, at int32, one *item, byWords map[sumKey][]int32, keys []sumKey) {
	other := 1 - side
	var near []int32
	for _, k := range keys {
		list := byWords[k]
		from, _ := slices.BinarySearchFunc(list, one.day-r.window(), func(x, day int32) int { return int(r.sides[other].items[x].day - day) })
		for _, x := range list[from:] {
			it := &r.sides[other].items[x]
			if it.day > one.day+r.window() {
				break
			}
			if r.sets[other][x] == 0 && (it.amount < 0) == (one.amount < 0) && size(it.amount) < size(one.amount) {
				near = append(near, x)
			}
		}
		if len(near) > mostNear {
			r.Untried++
			return
		}
	}
	if len(near) < 2 {
		return
	}
	amounts := make([]int64, len(near))
	for i, x := range near {
		amounts[i] = r.sides[other].items[x].amount
	}
	found, whole := sums(amounts, one.amount)
	if !whole {
		r.Untried++
		return
	}
	if len(found) == 0 {
		return
	}
	var several []int32
	for _, i := range found[0] {
		several = append(several, near[i])
	}
	reason := fmt.Sprintf("%d that add up to it", len(several))
	if len(found) > 1 {
		reason += ", among other ways"
	}
	sets := [2][]int32{}
	sets[side], sets[other] = []int32{at}, several
	r.settle(sets[0], sets[1], Several, len(found) == 1, reason)
}

// sums finds the sets of two to mostTogether amounts of one sign that add up to a target: two sets at most, as more say no more. whole is false where there were too many to try.
func sums(amounts []int64, target int64) (found [][]int, whole bool) {
	order := make([]int, len(amounts))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(x, y int) int { return int(min(max(size(amounts[y])-size(amounts[x]), -1), 1)) })
	rest := make([]int64, len(order)+1) // what those behind each add up to
	for i := len(order) - 1; i >= 0; i-- {
		rest[i] = rest[i+1] + size(amounts[order[i]])
	}
	tried := 0
	var chosen []int
	var look func(i int, left int64) bool
	look = func(i int, left int64) bool {
		if left == 0 {
			if len(chosen) > 1 {
				found = append(found, slices.Clone(chosen))
			}
			return len(found) < 2
		}
		if i == len(order) || len(chosen) == mostTogether || rest[i] < left {
			return true
		}
		if tried++; tried > sumsTried {
			return false
		}
		if of := size(amounts[order[i]]); of <= left {
			chosen = append(chosen, order[i])
			ok := look(i+1, left-of)
			chosen = chosen[:len(chosen)-1]
			if !ok {
				return false
			}
		}
		return look(i+1, left)
	}
	look(0, size(target))
	return found, tried <= sumsTried
}
