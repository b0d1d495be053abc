package linkage

import (
	"slices"

	"grandledger/core/table"
	"grandledger/core/text"
)

// names are a given and a family name that may have changed places.
type names struct {
	given, family int         // attributes
	of            [2][]uint32 // a number for each code of either, the same where their texts are
}

// crossed finds the attributes that are given and family names; nil where there are none.
func (r *records) crossed() *names {
	at := func(k Kind) int {
		return slices.IndexFunc(r.attributes, func(a *attribute) bool { return a.Kind == k })
	}
	n := &names{given: at(Given), family: at(Family)}
	if n.given < 0 || n.family < 0 {
		return nil
	}
	known := table.NewDictBuilder()
	for side, i := range []int{n.given, n.family} {
		values := r.attributes[i].values
		n.of[side] = make([]uint32, len(values))
		for code := 1; code < len(values); code++ {
			n.of[side][code] = known.Add(values[code].text)
		}
	}
	return n
}

// swap changes the levels of two names in a pattern that have changed places, one of them with a slip at most: the given name says so, and the family name
// is told by it.
func (r *records) swap(pattern uint64, left, right []uint32) uint64 {
	n := r.names
	if n == nil {
		return pattern
	}
	g, f := 4*n.given, 4*n.family
	if l, k := uint8(pattern>>g&15), uint8(pattern>>f&15); !tells(l) || !tells(k) || l >= Given.half() || k >= Family.half() {
		return pattern
	}
	ga, gb, fa, fb := left[n.given], right[n.given], left[n.family], right[n.family]
	x, y := n.of[0][ga] == n.of[1][fb], n.of[1][fa] == n.of[0][gb]
	given, family := r.attributes[n.given].values, r.attributes[n.family].values
	switch {
	case x && y:
	case x && text.Distance(family[fa].text, given[gb].text, 1) <= 1:
	case y && text.Distance(given[ga].text, family[fb].text, 1) <= 1:
	default:
		return pattern
	}
	return pattern&^(15<<g|15<<f) | swapped<<g | told<<f
}

// eitherOrder are the parts of a rule under which records meet that have the same two names in either order.
func (n *names) eitherOrder() []*part {
	var out []*part
	for side, at := range []int{n.given, n.family} {
		p := &part{attribute: at, same: 0.85, ends: make([]uint32, len(n.of[side]))}
		for code := 1; code < len(n.of[side]); code++ {
			p.keys = append(p.keys, mix(uint64(n.of[side][code])))
			p.ends[code] = uint32(len(p.keys))
		}
		out = append(out, p)
	}
	return out
}
