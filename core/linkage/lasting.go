package linkage

import (
	"cmp"
	"slices"
)

// Moved is an identifier of golden records that another one took the place of.
type Moved struct {
	From, To int64
	// Merged says that nothing is left under the old one; otherwise some of its records went to another one.
	Merged bool
}

// Lasting gives groups of records identifiers that last: a group has the one that most of its records had before, if no other group has more of them, and a
// new one, counted on from next, if there is none left for it. A record is known by its key. What was under an identifier and stands under another now
// is told. Ties are decided by the lower identifier, then by the order of the groups.
//
// Cost: O(records log records).
func Lasting(groups [][]string, before map[string]int64, next int64) (ids []int64, moved []Moved) {
	type claim struct {
		group, records int
		id             int64
	}
	var claims []claim
	for g, keys := range groups {
		had := map[int64]int{}
		for _, k := range keys {
			if id, ok := before[k]; ok {
				had[id]++
			}
		}
		for id, n := range had {
			claims = append(claims, claim{g, n, id})
		}
	}
	slices.SortFunc(claims, func(a, b claim) int {
		return cmp.Or(cmp.Compare(b.records, a.records), cmp.Compare(a.id, b.id), cmp.Compare(a.group, b.group))
	})
	ids = make([]int64, len(groups))
	taken := map[int64]bool{}
	for _, c := range claims {
		if ids[c.group] == 0 && !taken[c.id] {
			ids[c.group], taken[c.id] = c.id, true
		}
	}
	for g := range ids {
		if ids[g] == 0 {
			ids[g] = next
			next++
		}
	}
	for _, c := range claims {
		if to := ids[c.group]; to != c.id {
			moved = append(moved, Moved{c.id, to, !taken[c.id]})
		}
	}
	slices.SortFunc(moved, func(a, b Moved) int { return cmp.Or(cmp.Compare(a.From, b.From), cmp.Compare(a.To, b.To)) })
	return ids, moved
}
