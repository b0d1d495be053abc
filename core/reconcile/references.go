package reconcile

import (
	"strings"

	"grandledger/core/table"
	"grandledger/core/text"
)

// digitsFrom is from how many digits on a reference is known by them.
const digitsFrom = 4

// refKey is a reference as it is compared: by its digits alone, where one side writes more around them and there are enough.
func (w *world) refKey(v string) string {
	k := refKey(v)
	if !w.digits {
		return k
	}
	if d := text.Digits(k); len(d) >= digitsFrom {
		return d
	}
	return k
}

// byDigits says whether the references of two sides have more in common by their digits. Cost: O(distinct).
func byDigits(tables [2]*table.Table, columns [2]*Columns) bool {
	var whole, digits [2]map[string]bool
	for i, t := range tables {
		whole[i], digits[i] = map[string]bool{}, map[string]bool{}
		c, _, err := t.Column(columns[i].Reference)
		if columns[i].Reference == "" || err != nil {
			return false
		}
		for code, n := range t.Counts(c) {
			if n > 0 && code > 0 {
				v := c.Dict.Value(uint32(code))
				whole[i][refKey(v)], digits[i][(&world{digits: true}).refKey(v)] = true, true
			}
		}
	}
	common := func(m [2]map[string]bool) (n int) {
		for k := range m[0] {
			if m[1][k] {
				n++
			}
		}
		return n
	}
	return common(digits)*10 > common(whole)*11
}

// mine finds the references of the other side in the texts of items that have none of their own, if the text names one alone. Cost: O(distinct texts).
func (r *Result) mine() {
	for side := range r.sides {
		known := map[uint32]bool{}
		for i := range r.sides[1-side].items {
			known[r.sides[1-side].items[i].ref] = true
		}
		of := map[uint32]uint32{}
		items := r.sides[side].items
		for i := range items {
			if items[i].ref != 0 || items[i].words == 0 {
				continue
			}
			ref, ok := of[items[i].words]
			if !ok {
				for _, w := range r.world.worded[items[i].words] {
					k := r.world.refKey(w)
					if digits := text.Digits(k); len(digits) < digitsFrom {
						continue
					}
					if at := r.world.refs.Find(k); at != 0 && known[at] {
						if ref != 0 && ref != at { // it names two
							ref = 0
							break
						}
						ref = at
					}
				}
				of[items[i].words] = ref
			}
			items[i].ref = ref
		}
	}
}

// refKey is a reference without what it is written with: marks, spaces, case, zeros before numbers.
func refKey(v string) string {
	var b strings.Builder
	zeros := true
	for _, c := range strings.ToLower(v) {
		switch {
		case '0' <= c && c <= '9':
			if c == '0' && zeros {
				continue
			}
			zeros = false
			b.WriteRune(c)
		case 'a' <= c && c <= 'z' || c > 127:
			zeros = true
			b.WriteRune(c)
		default:
			zeros = true
		}
	}
	return b.String()
}
