package reconcile

import (
	"fmt"
	"strconv"
)

// tolerated settles one item with one of the same reference whose amount hardly differs, if each side has but this one of the reference left.
func (r *Result) tolerated() {
	of := int64(usualTolerance)
	if r.Spec.Tolerance != nil {
		of = int64(*r.Spec.Tolerance)
	}
	r.singles(func(x, y int32, a, b *item) {
		difference, larger := distance(a.amount, b.amount), max(size(a.amount), size(b.amount))
		if difference == 0 || (a.amount < 0) != (b.amount < 0) || difference*1000 > larger*of || r.slip(a.amount, b.amount) != "" {
			return
		}
		r.settle([]int32{x}, []int32{y}, Tolerated, true, "the same reference, amounts that differ by "+r.world.amount(difference))
	})
}

// singles calls a function for items of one reference of which each side has one left, within the window.
func (r *Result) singles(to func(x, y int32, a, b *item)) {
	r.groups(byRef, func(ours, theirs []int32) {
		if len(ours) != 1 || len(theirs) != 1 {
			return
		}
		a, b := &r.sides[0].items[ours[0]], &r.sides[1].items[theirs[0]]
		if days, dated := apart(a, b); dated && days > r.window() {
			return
		}
		to(ours[0], theirs[0], a, b)
	})
}

// errors settles one item with one of the same reference, or of the same text near by, whose amount differs by a likely error. Another amount under one reference is offered.
func (r *Result) errors() {
	r.singles(func(x, y int32, a, b *item) {
		if slip := r.slip(a.amount, b.amount); slip != "" {
			r.settle([]int32{x}, []int32{y}, Errors, true, "the same reference, "+slip)
		}
	})
	// Without a reference on either side, the text has to be the same, and no other item of it near.
	r.groups(func(it *item) (common, bool) { return common{text: it.words, currency: it.currency}, it.words != 0 }, func(ours, theirs []int32) {
		if len(ours) > 50 || len(theirs) > 50 {
			return
		}
		type found struct {
			x, y int32
			slip string
		}
		var all []found
		times := map[int32]int{}
		for _, x := range ours {
			for _, y := range theirs {
				a, b := &r.sides[0].items[x], &r.sides[1].items[y]
				if a.ref != 0 && b.ref != 0 && a.ref != b.ref {
					continue
				}
				if days, dated := apart(a, b); !dated || days > r.window() {
					continue
				}
				if slip := r.slip(a.amount, b.amount); slip != "" {
					all = append(all, found{x, y, slip})
					times[x]++
					times[^y]++
				}
			}
		}
		for _, f := range all {
			if r.sets[0][f.x] != 0 || r.sets[1][f.y] != 0 {
				continue
			}
			alone := times[f.x] == 1 && times[^f.y] == 1
			r.settle([]int32{f.x}, []int32{f.y}, Errors, alone, "the same text near by, "+f.slip)
		}
	})
}

// rest offers what has one reference and differs all the same, and says of open items what is known of them.
func (r *Result) rest() {
	r.groups(byRef, func(ours, theirs []int32) {
		if len(ours) != 1 || len(theirs) != 1 {
			return
		}
		a, b := &r.sides[0].items[ours[0]], &r.sides[1].items[theirs[0]]
		what := "the same reference, another amount"
		if days, dated := apart(a, b); a.amount == b.amount && dated {
			what = fmt.Sprintf("the same reference and amount, %d days apart", days)
		}
		r.settle(ours, theirs, Errors, false, what)
	})
	// What is on one side twice, once of it settled, was posted twice.
	for side := range r.sides {
		type key struct {
			ref, words uint32
			day        int32
			currency   uint32
			amount     int64
		}
		of := func(it *item) key { return key{it.ref, it.words, it.day, it.currency, it.amount} }
		settled := map[key]bool{}
		items := r.sides[side].items
		for i := range items {
			if r.sets[side][i] != 0 {
				settled[of(&items[i])] = true
			}
		}
		for i := range items {
			if r.sets[side][i] == 0 && r.reason[side][i] == "" && (items[i].ref != 0 || items[i].words != 0) && settled[of(&items[i])] {
				r.reason[side][i] = "posted twice"
			}
		}
	}
}

// slip says which likely error makes one amount of the other; "" for none.
func (r *Result) slip(a, b int64) string {
	switch {
	case a == b || a == 0 || b == 0:
		return ""
	case a == -b:
		return "the sign turned"
	case (a < 0) != (b < 0):
		return ""
	}
	x, y := size(a), size(b)
	if (x-y)%9 == 0 {
		if swapped(x, y) {
			return "digits swapped"
		}
		for _, by := range []int64{10, 100, 1000} {
			if x*by == y || y*by == x {
				return "the decimal mark slid"
			}
		}
	}
	rates := r.Spec.Rates
	if rates == nil {
		rates = usualRates
	}
	low, high := min(x, y), max(x, y)
	for _, rate := range rates {
		if gross := (low*int64(1000+rate) + 500) / 1000; distance(gross, high) <= 1 && high-low > 1 {
			return fmt.Sprintf("gross for net at %g %%", float64(rate)/10)
		}
	}
	return ""
}

// swapped says whether two numbers differ by two digits that changed places beside one another.
func swapped(x, y int64) bool {
	a, b := strconv.FormatInt(x, 10), strconv.FormatInt(y, 10)
	if len(a) < len(b) {
		a, b = b, a
	}
	for len(b) < len(a) {
		b = "0" + b
	}
	at := -1
	for i := range a {
		if a[i] == b[i] {
			continue
		}
		if at >= 0 {
			return i == at+1 && a[i] == b[at] && a[at] == b[i] && a[i+1:] == b[i+1:]
		}
		at = i
	}
	return false
}

func size(x int64) int64        { return max(x, -x) }
func distance(x, y int64) int64 { return max(x-y, y-x) }
