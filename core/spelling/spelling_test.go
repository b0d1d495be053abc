package spelling_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/core/text"
)

func column(counts map[string]int) (*table.Table, *table.Column) {
	rows := [][]string{{"c"}}
	var values []string
	for v := range counts {
		values = append(values, v)
	}
	slices.Sort(values)
	for _, v := range values {
		for range counts[v] {
			rows = append(rows, []string{v})
		}
	}
	t := coretest.Build(rows...)
	return t, t.Columns()[0]
}

// told writes groups as lines: standard: value rows why; …
func told(groups []spelling.Group) string {
	var b strings.Builder
	for _, g := range groups {
		fmt.Fprintf(&b, "%s %d %s:", g.Standard, g.Rows, spelling.Rungs[g.Weakest])
		for _, m := range g.Members {
			fmt.Fprintf(&b, " %s=%d(%s)", m.Value, m.Rows, m.Why)
		}
		b.WriteByte('\n')
	}
	return b.String()
}

var gear = map[string]int{"Gill net": 9, "GILL NET": 4, "gill net ": 12, "Net, gill": 2, "Bottom trawl": 5, "Trawl": 3, "GN": 1, "": 4, " ": 2}

func TestLadder(t *testing.T) {
	tab, c := column(gear)
	none := spelling.Decisions{}
	known := spelling.Decisions{Standard: map[string]string{"GN": "Gill net"}}
	for _, k := range []struct {
		known  spelling.Decisions
		accept spelling.Rung
		want   string
	}{
		{none, spelling.Crosswalk, ""},
		{none, spelling.Spelling, "Gill net 25 spelling: gill net =12(trailing space, letter case) Gill net=9() GILL NET=4(letter case)\n"},
		{none, spelling.Order, "Gill net 27 order: gill net =12(trailing space, letter case) Gill net=9() GILL NET=4(letter case) Net, gill=2(same words, other order)\n"},
		{known, spelling.Crosswalk, "Gill net 10 crosswalk: Gill net=9() GN=1(in the crosswalk)\n"},
		{known, spelling.Spelling, "Gill net 26 spelling: gill net =12(trailing space, letter case) Gill net=9() GILL NET=4(letter case) GN=1(in the crosswalk)\n"},
	} {
		if got := told(spelling.Find(tab, c, k.known, k.accept)); got != k.want {
			t.Errorf("accepting %s:\n%swant\n%s", spelling.Rungs[k.accept], got, k.want)
		}
	}
}

func TestKnownStandardNeedNotStandInTheColumn(t *testing.T) {
	tab, c := column(map[string]int{"gn": 3, "G.N.": 1})
	got := told(spelling.Find(tab, c, spelling.Decisions{Standard: map[string]string{"GN": "Gill net"}}, spelling.Order))
	want := "Gill net 4 spelling: gn=3(letter case from “GN”) G.N.=1(punctuation from “GN”)\n"
	if got != want {
		t.Errorf("got\n%swant\n%s", got, want)
	}
}

func TestKeptApart(t *testing.T) {
	tab, c := column(gear)
	got := told(spelling.Find(tab, c, spelling.Decisions{Apart: [][2]string{{"Net, gill", "Gill net"}, {"GILL NET", "Gill net"}}}, spelling.Order))
	want := "Gill net 21 spelling: gill net =12(trailing space, letter case) Gill net=9()\n" +
		"GILL NET 6 order: GILL NET=4() Net, gill=2(same words, other order)\n"
	if got != want {
		t.Errorf("got\n%swant\n%s", got, want)
	}
}

// Groups partition the values exactly as comparing every pair by its keys does, and
// come the same on every run.
func TestAgainstAllPairs(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 32))
	for range 200 {
		tab := coretest.Table(r, 60, 1)
		c := tab.Columns()[0]
		groups := spelling.Find(tab, c, spelling.Decisions{}, spelling.Order)
		of := map[string]int{}
		for i, g := range groups {
			for _, m := range g.Members {
				of[m.Value] = i + 1
			}
		}
		for code, n := range tab.Counts(c) {
			for other, m := range tab.Counts(c) {
				a, b := c.Dict.Value(uint32(code)), c.Dict.Value(uint32(other))
				if n == 0 || m == 0 || code == other || text.Fold(a) == "" || text.Fold(b) == "" {
					continue
				}
				same := text.Fold(a) == text.Fold(b) || text.WordKey(a) == text.WordKey(b) && text.WordKey(a) != ""
				if same && (of[a] != of[b] || of[a] == 0) {
					t.Fatalf("%q and %q are not in one group", a, b)
				}
			}
		}
		if told(groups) != told(spelling.Find(tab, c, spelling.Decisions{}, spelling.Order)) {
			t.Fatal("another run gave other groups")
		}
	}
}

func TestStanding(t *testing.T) {
	for _, c := range []struct {
		decisions []spelling.Decision
		want      string
	}{
		{[]spelling.Decision{{Variant: "A", Standard: "B"}, {Variant: "B", Standard: "C"}}, "map[A:C B:C]"},
		{[]spelling.Decision{{Variant: "B", Standard: "C"}, {Variant: "A", Standard: "B"}}, "map[A:B B:C]"},
		{[]spelling.Decision{{Variant: "B", Standard: "C"}, {Variant: "C", Standard: "B"}}, "map[C:B]"},
		{[]spelling.Decision{{Variant: "A", Standard: "B"}, {Variant: "A", Standard: "C"}}, "map[A:C]"},
		{nil, "map[]"},
	} {
		if got := fmt.Sprint(spelling.Standing(c.decisions)); got != c.want {
			t.Errorf("%v stand as %s, want %s", c.decisions, got, c.want)
		}
	}
}
