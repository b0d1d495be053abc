package table_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/table"
)

// The open-addressing dictionary against Go's own map, on values of every length that
// the hash treats apart, through both ways of adding.
func TestDictAgainstMap(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	b, m := table.NewDictBuilder(), map[string]uint32{}
	var buf, side []byte
	var spans []uint64
	var want []uint32
	for range 50_000 {
		v := strings.Repeat(string(rune('a'+r.IntN(3))), r.IntN(40)) + fmt.Sprint(r.IntN(9000))
		if m[v] == 0 {
			m[v] = uint32(len(m) + 1)
		}
		if r.IntN(2) == 0 {
			spans = append(spans, uint64(len(buf))<<32|uint64(len(v)))
			buf = append(buf, v...)
		} else {
			spans = append(spans, table.Side|uint64(len(side))<<32|uint64(len(v)))
			side = append(side, v...)
		}
		want = append(want, m[v])
	}
	for i, code := range b.Encode(nil, buf, side, spans) {
		if code != want[i] {
			t.Fatalf("value %d has code %d, want %d", i, code, want[i])
		}
	}
	d := b.Dict()
	if d.Len() != len(m) {
		t.Fatalf("%d values, want %d", d.Len(), len(m))
	}
	for v, code := range m {
		if got, ok := d.Find(v); !ok || got != code || d.Value(code) != v {
			t.Fatalf("Find(%q) = %d, %v; want %d", v, got, ok, code)
		}
	}
	if _, ok := d.Find("no such value"); ok {
		t.Error("found what is not there")
	}
}

func TestNewDictChecks(t *testing.T) {
	for _, ends := range [][]uint32{nil, {1, 3}, {0, 2}, {0, 3, 2, 3}} {
		if _, err := table.NewDict([]byte("abc"), ends); err == nil {
			t.Errorf("offsets %v were taken", ends)
		}
	}
}

// A rewrite equals rewriting every cell, shares the codes, and leaves the original.
func TestRewriteEqualsCellByCell(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 200 {
		before := coretest.Table(r, 60, 1)
		text := coretest.Text(before)
		c := before.Columns()[0]
		for _, to := range []func(string) string{strings.ToLower, strings.TrimSpace, func(v string) string { return v[:len(v)/2] }} {
			next, _ := c.Rewrite(table.Each(to))
			if next.Codes != c.Codes {
				t.Fatal("the codes were not shared")
			}
			for row := range before.Rows() {
				old, had := c.Value(uint32(row))
				got, has := next.Value(uint32(row))
				if had != has || had && got != to(old) {
					t.Fatalf("row %d: %q became %q (%v), want %q", row, old, got, has, to(old))
				}
			}
			seen := map[string]bool{}
			for code := uint32(1); code <= uint32(next.Dict.Len()); code++ {
				if seen[next.Dict.Value(code)] {
					t.Fatalf("%q stands twice in the dictionary", next.Dict.Value(code))
				}
				seen[next.Dict.Value(code)] = true
			}
			c = next
		}
		if coretest.Text(before) != text {
			t.Fatal("the original changed")
		}
	}
}

func TestCountsFollowSelection(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 100 {
		tab := coretest.Table(r, 60, 2)
		sel := &table.Selection{}
		for row := range tab.Rows() {
			if r.IntN(2) == 0 {
				sel.Rows = append(sel.Rows, uint32(row))
			}
		}
		for _, tt := range []*table.Table{tab, tab.Select(sel)} {
			c, _ := tt.Columns()[1].Rewrite(table.Each(strings.ToLower))
			tt = tt.With(1, c)
			want := map[string]int{}
			for _, row := range coretest.Rows(tt) {
				want[row[1]]++
			}
			for code, n := range tt.Counts(c) {
				v := c.Dict.Value(uint32(code))
				if code == 0 {
					v = "∅"
				}
				if want[v] != int(n) {
					t.Fatalf("%q counts %d, want %d", v, n, want[v])
				}
			}
		}
	}
}

// A profile's facts are those of each value by itself, and the mark for values that
// meet another is set where folding each pair says so.
func TestFacts(t *testing.T) {
	values := []string{"Gill net", "GILL NET", "Trawl", "", "  ", "12", "0012", "1,200", "2031-10-04", "yes", "LK-004811", " x", "a  b", "-", "?"}
	rows := [][]string{{"c"}}
	for _, v := range values {
		rows = append(rows, []string{v})
	}
	d := coretest.Build(rows...).Columns()[0].Dict
	f := d.Facts()
	want := map[string]table.Trait{
		"Gill net": table.MeetsAnother, "GILL NET": table.MeetsAnother, "Trawl": 0, "": table.IsBlankValue, "  ": table.IsBlankValue,
		"12": 0, "0012": 0, "1,200": 0, "2031-10-04": 0, "yes": 0, "LK-004811": 0, " x": table.LooseSpaces, "a  b": table.LooseSpaces,
		"-": 0, "?": 0,
	}
	for v, traits := range want {
		code, ok := d.Find(v)
		if !ok || f.Traits[code] != traits {
			t.Errorf("%q has the traits %08b, want %08b", v, f.Traits[code], traits)
		}
		if f.Fold[code] != table.FoldHash(v) {
			t.Errorf("the fold of %q differs from that of the value alone", v)
		}
	}
}

// A table refuses columns that do not fit it.
func TestNewTableChecks(t *testing.T) {
	column := func(name string, cells int) *table.Column {
		return &table.Column{Name: name, Codes: &table.Codes{At: make([]uint32, cells)}, Dict: table.NewDictBuilder().Dict()}
	}
	for what, columns := range map[string][]*table.Column{
		"too few cells":     {column("a", 2)},
		"no name":           {column("", 3)},
		"a name used twice": {column("a", 3), column("a", 3)},
	} {
		if _, err := table.New(columns, 3); err == nil {
			t.Errorf("%s: taken", what)
		}
	}
	tab, err := table.New([]*table.Column{column("a", 3)}, 3)
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := tab.Column("b"); !errors.Is(err, table.ErrNoColumn) {
		t.Errorf("a column that is not there: %v", err)
	}
}

// So many values that they are rewritten on several goroutines in turn, against a map; those that
// become one share the code of the first.
func TestRewriteManyValues(t *testing.T) {
	const n = 300_000
	b := table.NewDictBuilder()
	for i := range n {
		b.Add(fmt.Sprint("value ", i))
	}
	codes := make([]uint32, n)
	for i := range codes {
		codes[i] = uint32(i + 1)
	}
	c := &table.Column{Name: "a", Codes: &table.Codes{At: codes}, Dict: b.Dict()}
	next, recode := c.Rewrite(func() func(uint32, string) string {
		return func(code uint32, v string) string {
			if code%3 == 0 {
				return v[:len(v)-1]
			}
			return strings.ToUpper(v)
		}
	})
	known := map[string]uint32{}
	for code := uint32(1); code <= n; code++ {
		v := fmt.Sprint("value ", code-1)
		want := strings.ToUpper(v)
		if code%3 == 0 {
			want = v[:len(v)-1]
		}
		if known[want] == 0 {
			known[want] = uint32(len(known) + 1)
		}
		if recode[code] != known[want] || next.Dict.Value(recode[code]) != want {
			t.Fatalf("%q became %q with the code %d, want %q with %d", v, next.Dict.Value(recode[code]), recode[code], want, known[want])
		}
	}
	if next.Dict.Len() != len(known) || recode[0] != 0 {
		t.Errorf("%d values, want %d", next.Dict.Len(), len(known))
	}
}
