package reconcile

import (
	"fmt"
	"slices"
)

// Costs of a pair of items that may be settled: a day apart costs 10, texts that have nothing in common 100, references that differ 150.
const (
	dayCosts   = 10
	wordsCost  = 100
	refsCost   = 150
	notNear    = 1 << 20 // may not be settled
	unlikeFrom = 60      // texts that cost more are not alike
)

// cost of settling two items of one amount in a pass.
func (r *Result) cost(a, b *item, pass int) int {
	days, dated := apart(a, b)
	if dated && days > r.window() {
		return notNear
	}
	cost := int(days) * dayCosts
	if pass == Reference {
		return cost
	}
	if a.ref != 0 && b.ref != 0 && a.ref != b.ref {
		cost += refsCost
	}
	return cost + r.world.unlike(a.words, b.words)
}

// pair settles items of one amount, the pairing that costs least overall: of what lies within the window by date, by pieces that have nothing to do with one another. Pairs that are
// equally good in another way are offered.
func (r *Result) pair(ours, theirs []int32, pass int) {
	byDay := func(side int) func(x, y int32) int {
		return func(x, y int32) int {
			a, b := r.sides[side].items[x].day, r.sides[side].items[y].day
			if a != b {
				if a < b {
					return -1
				}
				return 1
			}
			return int(x - y)
		}
	}
	slices.SortFunc(ours, byDay(0))
	slices.SortFunc(theirs, byDay(1))
	// A piece ends where the next item of either side lies more than the window behind all before it.
	for i, j := 0, 0; i < len(ours) || j < len(theirs); {
		from, to := i, j
		end := int64(noDay) - 1
		for {
			next := int64(1) << 40
			side := 0
			if i < len(ours) {
				next = int64(r.sides[0].items[ours[i]].day)
			}
			if j < len(theirs) && int64(r.sides[1].items[theirs[j]].day) < next {
				next, side = int64(r.sides[1].items[theirs[j]].day), 1
			}
			if i == len(ours) && j == len(theirs) || end >= noDay && next > end+int64(r.window()) && next != noDay {
				break
			}
			end = max(end, next)
			if side == 0 {
				i++
			} else {
				j++
			}
		}
		if i > from && j > to {
			r.piece(ours[from:i], theirs[to:j], pass)
		}
	}
}

// mostPaired is how many items of a side are paired at their best overall; of more only what is the same throughout is settled, the rest stays for a person.
const mostPaired = 120

func (r *Result) piece(ours, theirs []int32, pass int) {
	if len(ours) > mostPaired || len(theirs) > mostPaired {
		ours, theirs = r.plain(ours, theirs, pass)
		if len(ours) > mostPaired || len(theirs) > mostPaired || len(ours) == 0 || len(theirs) == 0 {
			r.Untried += len(ours)
			return
		}
	}
	costs := make([][]int, len(ours))
	for i, x := range ours {
		costs[i] = make([]int, len(theirs))
		for j, y := range theirs {
			costs[i][j] = r.cost(&r.sides[0].items[x], &r.sides[1].items[y], pass)
		}
	}
	partner := assign(costs)
	for i, j := range partner {
		if j < 0 || costs[i][j] >= notNear {
			continue
		}
		x, y := ours[i], theirs[j]
		a, b := &r.sides[0].items[x], &r.sides[1].items[y]
		if pass == Alike && !r.near(a, b, len(ours) == 1 && len(theirs) == 1) {
			continue
		}
		settled := !otherwise(costs, partner, i)
		reason := r.words(a, b, pass)
		if !settled {
			reason += ", but another is as near"
		}
		r.settle([]int32{x}, []int32{y}, pass, settled, reason)
	}
}

// plain settles of very many items of one amount those that have the same date and text, as often as both sides have them, and gives the others.
func (r *Result) plain(ours, theirs []int32, pass int) (restOurs, restTheirs []int32) {
	type key struct {
		day   int32
		words uint32
		ref   uint32
	}
	of := func(it *item) key {
		if pass == Reference {
			return key{day: it.day}
		}
		return key{it.day, it.words, it.ref}
	}
	waiting := map[key][]int32{}
	for _, y := range theirs {
		k := of(&r.sides[1].items[y])
		waiting[k] = append(waiting[k], y)
	}
	for _, x := range ours {
		a := &r.sides[0].items[x]
		k := of(a)
		if list := waiting[k]; len(list) > 0 && (k.words != 0 || pass == Reference) {
			r.settle([]int32{x}, []int32{list[0]}, pass, true, r.words(a, &r.sides[1].items[list[0]], pass))
			waiting[k] = list[1:]
			continue
		}
		restOurs = append(restOurs, x)
	}
	for _, y := range theirs {
		if r.sets[1][y] == 0 {
			restTheirs = append(restTheirs, y)
		}
	}
	return restOurs, restTheirs
}

// near says whether two items of one amount are near enough to be one: their texts are alike, or they have none and nothing else of the amount lies near.
func (r *Result) near(a, b *item, alone bool) bool {
	if a.ref != 0 && b.ref != 0 && a.ref != b.ref {
		return false
	}
	if a.words != 0 && b.words != 0 {
		return r.world.unlike(a.words, b.words) <= unlikeFrom
	}
	return alone
}

// words says why two items are settled in a pass.
func (r *Result) words(a, b *item, pass int) string {
	what := "the same amount"
	switch {
	case pass == Reference:
		what = "the same reference and amount"
	case a.words != 0 && a.words == b.words:
		what = "the same amount and text"
	case a.words != 0 && b.words != 0:
		what = "the same amount, texts alike"
	}
	switch days, dated := apart(a, b); {
	case !dated:
		return what
	case days == 0:
		return what + ", the same date"
	case days == 1:
		return what + ", a day apart"
	default:
		return fmt.Sprintf("%s, %d days apart", what, days)
	}
}

// otherwise says whether what is settled with a row could be settled otherwise at the same cost: with a column that is free, or by two pairs changing partners.
func otherwise(costs [][]int, partner []int, i int) bool {
	j := partner[i]
	taken := map[int]int{}
	for x, y := range partner {
		if y >= 0 && costs[x][y] < notNear {
			taken[y] = x
		}
	}
	for y, c := range costs[i] {
		if y == j || c >= notNear {
			continue
		}
		x, ok := taken[y]
		if !ok {
			if c <= costs[i][j] {
				return true
			}
			continue
		}
		if costs[x][j] < notNear && c+costs[x][j] <= costs[i][j]+costs[x][y] {
			return true
		}
	}
	for x := range costs { // a row that is free
		if y := partner[x]; (y < 0 || costs[x][y] >= notNear) && costs[x][j] <= costs[i][j] {
			return true
		}
	}
	return false
}
