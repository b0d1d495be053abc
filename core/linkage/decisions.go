package linkage

import (
	"crypto/sha256"
	"encoding/hex"
	"strings"

	"grandledger/core/table"
	"grandledger/core/text"
)

// Decision is what somebody decided of two records, known by their keys.
type Decision struct {
	A, B string
	Same bool
}

// Key is what a record is known by in decisions: all its cells but an id, folded, so that it is the same record in the next delivery, and
// others that say the same share what was decided. Cost: O(cells of the row).
func Key(t *table.Table, row int) string {
	h := sha256.New()
	for _, c := range t.Columns() {
		if strings.EqualFold(c.Name, "id") {
			continue
		}
		v, _ := c.Value(t.BaseRow(row))
		h.Write([]byte(text.Fold(v)))
		h.Write([]byte{0})
	}
	return hex.EncodeToString(h.Sum(nil)[:12])
}

// decided are the decisions on records, by their numbers, the lower first.
type decided map[uint64]bool

func (r *records) decided(tables []*table.Table, all []Decision) decided {
	out := decided{}
	if len(all) == 0 {
		return out
	}
	wanted := map[string][]uint32{}
	for _, d := range all {
		wanted[d.A], wanted[d.B] = nil, nil
	}
	for i, t := range tables {
		for row := range t.Rows() {
			key := Key(t, row)
			if of, ok := wanted[key]; ok && len(of) < mostAlike {
				wanted[key] = append(of, uint32(r.starts[i]+row))
			}
		}
	}
	for _, d := range all {
		for _, a := range wanted[d.A] {
			for _, b := range wanted[d.B] {
				if a != b {
					out[pairOf(a, b)] = d.Same
				}
			}
		}
	}
	return out
}

// mostAlike is how many records that say the same a decision holds for.
const mostAlike = 50

func pairOf(a, b uint32) uint64 { return uint64(min(a, b))<<32 | uint64(max(a, b)) }

// Finding is what one attribute says of a pair.
type Finding struct {
	Attribute   string   `json:"attribute"`
	Left, Right []string `json:"-"`
	Level       int      `json:"level"`  // 0 for unlike
	Levels      int      `json:"levels"` // that there are
	Missing     bool     `json:"missing"`
	Bits        float64  `json:"bits"` // the rarity of what is equal in them
}

// Findings says what each attribute finds of two rows; the bits add up to the weight of the pair.
func (r *Result) Findings(tables []*table.Table, p Pair) []Finding {
	rec := r.records
	kinds := rec.kinds()
	pattern := uint64(0)
	rare := make([]float64, len(rec.attributes))
	a, b := uint32(rec.starts[p.LeftTable]+p.LeftRow), uint32(rec.starts[p.RightTable]+p.RightRow)
	for i, at := range rec.attributes {
		c := at.comparer()
		x, y := at.codes[a], at.codes[b]
		l := c.level(x, y)
		pattern |= uint64(l) << (4 * i)
		rare[i] = c.rarity(x, y, l, r.started[i])
	}
	k := len(rec.attributes)
	pattern = rec.swap(pattern, rec.codes[int(a)*k:], rec.codes[int(b)*k:])
	var out []Finding
	for i, at := range rec.attributes {
		l := int(pattern >> (4 * i) & 15)
		f := Finding{Attribute: at.Name, Level: l, Levels: at.Kind.levels(), Missing: l == missing, Left: cells(tables[p.LeftTable], at.Columns[p.LeftTable], p.LeftRow), Right: cells(tables[p.RightTable], at.Columns[p.RightTable], p.RightRow)}
		if tells(uint8(l)) {
			f.Bits = bitsOf(r.Weights, kinds, pattern, i) + rare[i]
		}
		out = append(out, f)
	}
	return out
}

func cells(t *table.Table, names []string, row int) []string {
	var out []string
	for _, name := range names {
		v := ""
		if c, _, err := t.Column(name); err == nil {
			v, _ = c.Value(t.BaseRow(row))
		}
		out = append(out, v)
	}
	return out
}
