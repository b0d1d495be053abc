package reconcile

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// What somebody decides of items.
const (
	BySettling   = "settle"  // they belong together
	ByBreaking   = "break"   // they do not: they stay open, whatever the passes find
	ByExplaining = "explain" // they stay as they are, with a word of why
)

// Decision is what somebody decided of items, known by their keys.
type Decision struct {
	Kind         string
	Ours, Theirs []string
	Note         string
}

// ByHand is the pass of sets that somebody settled.
const ByHand = 0

// Keys gives each row of a table what it is known by in decisions: all its cells, and how many rows before it say the same. Cost: O(cells).
func Keys(t *table.Table) []string {
	out := make([]string, t.Rows())
	times := map[string]int{}
	for row := range out {
		h := sha256.New()
		var size [8]byte
		for _, c := range t.Columns() {
			v, _ := c.Value(t.BaseRow(row))
			binary.LittleEndian.PutUint64(size[:], uint64(len(v)))
			h.Write(size[:])
			h.Write([]byte(v))
		}
		k := hex.EncodeToString(h.Sum(nil)[:10])
		out[row] = fmt.Sprintf("%s.%d", k, times[k])
		times[k]++
	}
	return out
}

// decide takes what was decided before any pass is made. Decisions on items that are no longer there do nothing.
func (r *Result) decide(tables [2]*table.Table, decisions []Decision) error {
	if len(decisions) == 0 {
		return nil
	}
	var at [2]map[string]int32
	for side, t := range tables {
		at[side] = map[string]int32{}
		keys := Keys(t)
		for i := range r.sides[side].items {
			at[side][keys[r.sides[side].items[i].row]] = int32(i)
		}
	}
	for _, d := range decisions {
		var items [2][]int32
		whole := true
		for side, keys := range [2][]string{d.Ours, d.Theirs} {
			for _, k := range keys {
				i, ok := at[side][k]
				whole = whole && ok && r.sets[side][i] == 0
				items[side] = append(items[side], i)
			}
		}
		if !whole {
			continue
		}
		switch d.Kind {
		case BySettling:
			reason := "settled by hand"
			if d.Note != "" {
				reason += ": " + d.Note
			}
			r.settle(items[0], items[1], ByHand, true, reason)
		case ByBreaking, ByExplaining:
			for side := range items {
				for _, i := range items[side] {
					if d.Kind == ByBreaking {
						r.broken[side][i] = true
						r.reason[side][i] = "kept open by hand"
					}
					if d.Note != "" {
						r.reason[side][i] = d.Note
					}
				}
			}
		default:
			return problem.New("Settle, break or explain", "%q is no decision", d.Kind)
		}
	}
	return nil
}
