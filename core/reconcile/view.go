package reconcile

import (
	"cmp"
	"slices"
	"strings"
)

// Shown is an item as a page shows it.
type Shown struct {
	Row    int
	Amount string // as it counts for us
}

// Group is a set of items, or one open item, in a class.
type Group struct {
	Class        string
	Set          int // from 1; 0 for an open item
	Pass         int
	Reason       string
	Settled      bool
	Ours, Theirs []Shown
	Difference   string

	minor int64
}

// Classes are the classes in their order, for those who show one at a time.
var Classes = []string{offered, differs, twiceOurs, twice, withThem, withUs, agreed}

// Groups gives the sets and open items of a class, the largest differences first. Cost: O(items).
func (r *Result) Groups(class string) []Group {
	var out []Group
	for i := range r.Sets {
		set := &r.Sets[i]
		name := differs
		switch {
		case !set.Settled:
			name = offered
		case set.Difference == 0:
			name = agreed
		}
		if name != class {
			continue
		}
		g := Group{Class: class, Set: i + 1, Pass: set.Pass, Reason: set.Reason, Settled: set.Settled, Difference: r.world.amount(set.Difference), minor: size(set.Difference)}
		for side, list := range [2][]int32{set.Ours, set.Theirs} {
			for _, at := range list {
				g.add(side, r.shown(side, at))
			}
		}
		out = append(out, g)
	}
	for side := range r.sides {
		for i, set := range r.sets[side] {
			name := [2]string{withThem, withUs}[side]
			if strings.HasPrefix(r.reason[side][i], "posted twice") {
				name = [2]string{twiceOurs, twice}[side]
			}
			if set != 0 || name != class {
				continue
			}
			it := &r.sides[side].items[i]
			g := Group{Class: class, Reason: r.reason[side][i], Difference: r.world.amount(int64(1-2*side) * it.amount), minor: size(it.amount)}
			g.add(side, r.shown(side, int32(i)))
			out = append(out, g)
		}
	}
	slices.SortStableFunc(out, func(a, b Group) int { return cmp.Compare(b.minor, a.minor) })
	return out
}

func (g *Group) add(side int, s Shown) {
	if side == 0 {
		g.Ours = append(g.Ours, s)
	} else {
		g.Theirs = append(g.Theirs, s)
	}
}

func (r *Result) shown(side int, at int32) Shown {
	it := &r.sides[side].items[at]
	return Shown{Row: int(it.row), Amount: r.world.amount(it.amount)}
}
