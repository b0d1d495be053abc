package join_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/join"
	"grandledger/core/table"
	"grandledger/core/text"
)

// nested is the textbook nested-loop join over the text of the rows.
func nested(left, right *table.Table, on []int, rows join.Rows, by func(string) string) (out [][]string) {
	l, r := coretest.Rows(left), coretest.Rows(right)
	blank := func(row []string) bool {
		for _, at := range on {
			if strings.TrimSpace(row[at]) != "" && row[at] != "∅" {
				return false
			}
		}
		return true
	}
	none := []string{"∅", "∅", "∅"}
	metRight := make([]bool, len(r))
	for _, a := range l {
		met := false
		for j, b := range r {
			same := !blank(a)
			for _, at := range on {
				same = same && by(a[at]) == by(b[at]) && a[at] != "∅" && b[at] != "∅"
			}
			if same {
				met, metRight[j] = true, true
				out = append(out, slices.Concat(a, b))
			}
		}
		if !met && (rows == join.Left || rows == join.All) {
			out = append(out, slices.Concat(a, none))
		}
	}
	for j, b := range r {
		if !metRight[j] && (rows == join.Right || rows == join.All) {
			out = append(out, slices.Concat(none, b))
		}
	}
	return out
}

func TestAgainstNestedLoops(t *testing.T) {
	r := rand.New(rand.NewPCG(41, 42))
	names := []string{"a", "b", "c"}
	for round := range 400 {
		left, right := coretest.Table(r, 40, 3), coretest.Table(r, 40, 3)
		if half := left.Rows() / 2; round%3 == 0 { // a selection, as after setting rows aside
			left = left.Select(&table.Selection{Rows: seq(half)})
		}
		rows := []join.Rows{join.Both, join.Left, join.Right, join.All}[round%4]
		on := r.Perm(3)[:1+r.IntN(3)]
		spec := join.Spec{Rows: rows}
		as, by := duplicate.Exact, func(v string) string { return v }
		switch round % 5 {
		case 1:
			as, by = duplicate.Folded, text.Fold
		case 2:
			as, by = duplicate.Words, text.WordKey
		case 3: // through a crosswalk
			spec.Standards = map[string]map[string]string{"x": {coretest.Pieces[0]: coretest.Pieces[1], coretest.Pieces[2]: "other"}}
			by = func(v string) string {
				if s, ok := spec.Standards["x"][v]; ok {
					return s
				}
				return v
			}
		}
		for _, at := range on {
			one := join.On{Left: names[at], Right: names[at], As: as}
			if spec.Standards != nil {
				one.Crosswalk = "x"
			}
			spec.On = append(spec.On, one)
		}
		for _, n := range names {
			spec.Left = append(spec.Left, join.Bring{Column: n, As: "l" + n})
			spec.Right = append(spec.Right, join.Bring{Column: n, As: "r" + n})
		}
		m, err := join.Find(join.Side{Table: left, Name: "L"}, join.Side{Table: right, Name: "R"}, spec)
		if err != nil {
			t.Fatal(err)
		}
		res, err := m.Result(context.Background())
		if err != nil {
			t.Fatal(err)
		}
		want := nested(left, right, on, rows, by)
		if got := coretest.Rows(res.Table); !slices.EqualFunc(got, want, slices.Equal) {
			t.Fatalf("%s on %v gives\n%q\nwant\n%q", rows, on, got, want)
		}
		if m.Coverage.Result != len(want) || res.Balance.After != len(want) {
			t.Fatalf("foretold %d rows, balance %+v, there are %d", m.Coverage.Result, res.Balance, len(want))
		}
		if aside := res.Balance.SetAside; aside > 0 && len(res.Aside.Rows) != aside || aside == 0 && res.Aside != nil {
			t.Fatalf("balance %+v, set aside %v", res.Balance, res.Aside)
		}
		unmatched := 0
		all, n := m.UnmatchedLeft(1000)
		for _, u := range all {
			unmatched += u.Rows
		}
		if n != len(all) || unmatched != m.Coverage.LeftRows-m.Coverage.LeftMatched {
			t.Fatalf("unmatched keys stand for %d rows, coverage %+v", unmatched, m.Coverage)
		}
	}
}

func seq(n int) []uint32 {
	out := make([]uint32, n)
	for i := range out {
		out[i] = uint32(i)
	}
	return out
}

func TestColumnsAndProvenance(t *testing.T) {
	left := coretest.Build([]string{"vessel", "kg"}, []string{"Tern", "1"}, []string{"Skua", "2"}, []string{"SKUA", "3"})
	right := coretest.Build([]string{"vessel", "kg"}, []string{"Skua", "9"}, []string{"Tern", "8"}, []string{"Tern", "7"})
	m, err := join.Find(join.Side{Table: left, Name: "L"}, join.Side{Table: right, Name: "R"},
		join.Spec{On: []join.On{{Left: "vessel", Right: "vessel"}}, Rows: join.Left})
	if err != nil {
		t.Fatal(err)
	}
	res, err := m.Result(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, c := range res.Table.Columns() {
		names = append(names, c.Name)
	}
	if !slices.Equal(names, []string{"vessel", "kg", "kg (2)"}) {
		t.Errorf("columns %q", names)
	}
	var from []string
	for row := range res.Table.Rows() {
		from = append(from, fmt.Sprint(res.Table.Origins()[0].Row(uint32(row)), res.Table.Origins()[1].Row(uint32(row))))
	}
	if want := []string{"1 2", "1 3", "2 1", "3 0"}; !slices.Equal(from, want) {
		t.Errorf("rows come from %q, want %q", from, want)
	}
	u, _ := m.UnmatchedLeft(5)
	if len(u) != 1 || u[0].Key[0] != "SKUA" || len(u[0].Near) != 1 || u[0].Near[0] != "Skua" {
		t.Errorf("unmatched %+v", u)
	}
	if c := m.Coverage; c.LeftMatched != 2 || c.RightMatched != 3 || c.LeftMany != 1 || c.RightMany != 0 || c.Pairs != 3 || c.Result != 4 {
		t.Errorf("coverage %+v", c)
	}
}

func TestRefusals(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"x"})
	s := join.Side{Table: tab, Name: "terns"}
	on := []join.On{{Left: "a", Right: "a"}}
	for _, c := range []struct {
		spec join.Spec
		says string
	}{
		{join.Spec{Rows: join.Both}, "no pair"},
		{join.Spec{On: on, Rows: "some"}, "some"},
		{join.Spec{On: []join.On{{Left: "q", Right: "a"}}, Rows: join.Both}, `terns has no column "q"`},
		{join.Spec{On: on, Rows: join.Both, Left: []join.Bring{{Column: "a", As: "x"}}, Right: []join.Bring{{Column: "a", As: "x"}}}, "two columns"},
		{join.Spec{On: on, Rows: join.Both, Left: []join.Bring{}, Right: []join.Bring{}}, "no column"},
	} {
		if _, err := join.Find(s, s, c.spec); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%+v: %v", c.spec, err)
		}
	}
}
