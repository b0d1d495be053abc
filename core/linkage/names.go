package linkage

import (
	"slices"

	"grandledger/core/text"
)

// names are a given and a family name that may have changed places: their attributes.
type names struct{ given, family int }

// crossed finds the attributes that are given and family names; nil where there are none.
func (r *records) crossed() *names {
	at := func(k Kind) int {
		return slices.IndexFunc(r.attributes, func(a *attribute) bool { return a.Kind == k })
	}
	n := &names{given: at(Given), family: at(Family)}
	if n.given < 0 || n.family < 0 {
		return nil
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
	given, family := r.attributes[n.given].values, r.attributes[n.family].values
	x, y := given[ga].text == family[fb].text, family[fa].text == given[gb].text
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
func (r *records) eitherOrder() []*part {
	var out []*part
	for _, at := range []int{r.names.given, r.names.family} {
		p := &part{attribute: at, same: 0.85, key: func(_ *attribute, v *value, add func(string)) { add(v.text) }}
		p.all(r.attributes[at])
		out = append(out, p)
	}
	return out
}
