package table_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/table"
)

// However values come (all new, all the same, new at first and repeated later, absent in
// between), codes are in order of first appearance, as a map gives them.
func TestEncodeAgainstMap(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 1))
	for name, draw := range map[string]func(i int) int{
		"all new":            func(i int) int { return i },
		"few":                func(i int) int { return r.IntN(50) },
		"nearly all new":     func(i int) int { return i - r.IntN(2)*r.IntN(2)*r.IntN(2)*r.IntN(2)*r.IntN(i+1) },
		"new, then repeated": func(i int) int { return i % 150_000 },
		"repeated, then new": func(i int) int { return max(i, 90_000) },
		"every third absent": func(i int) int { return i/3*3 - i%3 },
	} {
		t.Run(name, func(t *testing.T) {
			b := table.NewDictBuilder()
			codes := map[string]uint32{}
			var values []string
			var got, want []uint32
			for i := 0; i < 400_000; {
				var buf, side []byte
				var spans []uint64
				for range 1 + r.IntN(40_000) {
					n := draw(i)
					if n < 0 {
						spans, want = append(spans, table.Absent), append(want, table.Missing)
						i++
						continue
					}
					v := fmt.Sprintf("v%d", n)
					into, mark := &buf, uint64(0)
					if i%7 == 0 {
						into, mark = &side, table.Side
					}
					spans = append(spans, mark|uint64(len(*into))<<32|uint64(len(v)))
					*into = append(*into, v...)
					i++
					if codes[v] == 0 {
						values = append(values, v)
						codes[v] = uint32(len(values))
					}
					want = append(want, codes[v])
				}
				got = b.Encode(got, buf, side, spans)
			}
			d := finished(t, b, got, want, values)
			if c, ok := d.Find(values[len(values)/2]); !ok || c != uint32(len(values)/2+1) {
				t.Fatalf("found %d, %t", c, ok)
			}
		})
	}
}

// Lists are looked up by their items: those of any items and length, with commas, marks and
// escapes in them, broken ones and what is no list get the codes a map gives them.
func TestListsAgainstMap(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 2))
	odd := []string{"[]", "", "[", "[,]", `[""]`, `["a,b","c"]`, `["a","b,c"]`, `["a\"","b"]`, `["a\",\"b"]`, `["a`, `[1,2]`, `[[1],2]`, `["a"]x`, "no list"}
	b := table.NewDictBuilder()
	codes := map[string]uint32{}
	var values []string
	var got, want []uint32
	for len(want) < 800_000 {
		var buf []byte
		var spans []uint64
		for range 20_000 {
			v := odd[r.IntN(len(odd))]
			if r.IntN(8) > 0 {
				items, few := make([]string, r.IntN(4)), 300
				if len(want) > 600_000 { // by then they are looked up so
					items, few = make([]string, r.IntN(12)), []int{20, 300, 40_000}[r.IntN(3)]
				}
				for i := range items {
					items[i] = fmt.Sprintf(`"item %d"`, r.IntN(few))
				}
				v = "[" + strings.Join(items, ",") + "]"
			}
			spans = append(spans, uint64(len(buf))<<32|uint64(len(v)))
			buf = append(buf, v...)
			if codes[v] == 0 {
				values = append(values, v)
				codes[v] = uint32(len(values))
			}
			want = append(want, codes[v])
		}
		got = b.Encode(got, buf, nil, spans)
	}
	finished(t, b, got, want, values)
}

// finished ends an encoding and holds its codes and values against those of a map.
func finished(t *testing.T, b *table.DictBuilder, got, want []uint32, values []string) *table.Dict {
	t.Helper()
	d := b.Finish(got)
	if !slices.Equal(got, want) || d.Len() != len(values) {
		t.Fatalf("%d values, want %d; or codes out of order", d.Len(), len(values))
	}
	for i, v := range values {
		if d.Value(uint32(i+1)) != v {
			t.Fatalf("value %d is %q, want %q", i+1, d.Value(uint32(i+1)), v)
		}
	}
	return d
}
