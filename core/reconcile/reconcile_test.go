package reconcile

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"grandledger/core/coretest"
	"grandledger/core/table"
)

// Outside reference: brute force over all assignments of all small cases, the least cost there is.
func TestAssignAgainstBruteForce(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 3000 {
		n, m := 1+r.IntN(5), 1+r.IntN(5)
		costs := make([][]int, n)
		for i := range costs {
			costs[i] = make([]int, m)
			for j := range costs[i] {
				costs[i][j] = r.IntN(12)
			}
		}
		best := 1 << 30
		var try func(i, taken, sum, paired int)
		try = func(i, taken, sum, paired int) {
			if i == n {
				if paired == min(n, m) {
					best = min(best, sum)
				}
				return
			}
			try(i+1, taken, sum, paired)
			for j := range m {
				if taken&(1<<j) == 0 {
					try(i+1, taken|1<<j, sum+costs[i][j], paired+1)
				}
			}
		}
		try(0, 0, 0, 0)
		got, paired, seen := 0, 0, map[int]bool{}
		for i, j := range assign(costs) {
			if j < 0 {
				continue
			}
			if seen[j] {
				t.Fatalf("column %d twice", j)
			}
			seen[j] = true
			got += costs[i][j]
			paired++
		}
		if got != best || paired != min(n, m) {
			t.Fatalf("%v: %d for %d pairs, the least is %d", costs, got, paired, best)
		}
	}
}

// Outside reference: all subsets, one by one.
func TestSumsAgainstBruteForce(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 3000 {
		n := 1 + r.IntN(9)
		amounts := make([]int64, n)
		sign := int64(1 - 2*r.IntN(2))
		for i := range amounts {
			amounts[i] = sign * int64(1+r.IntN(20))
		}
		target := sign * int64(1+r.IntN(60))
		ways := 0
		for set := range 1 << n {
			sum, size := int64(0), 0
			for i := range n {
				if set&(1<<i) != 0 {
					sum += amounts[i]
					size++
				}
			}
			if sum == target && size >= 2 && size <= mostTogether {
				ways++
			}
		}
		found, whole := sums(amounts, target)
		if !whole || len(found) != min(ways, 2) {
			t.Fatalf("%v to %d: %d found, %d there are", amounts, target, len(found), ways)
		}
		for _, set := range found {
			sum := int64(0)
			for _, i := range set {
				sum += amounts[i]
			}
			if sum != target {
				t.Fatalf("%v adds up to %d", set, sum)
			}
		}
	}
	many := make([]int64, 64)
	for i := range many {
		many[i] = int64(1000 + i)
	}
	if _, whole := sums(many, 7777); whole {
		t.Error("all sums of 64 were tried")
	}
}

// Outside reference: common practice: a difference divisible by nine suggests two digits swapped or a slide of the decimal mark.
func TestSlips(t *testing.T) {
	r := &Result{}
	for _, c := range []struct {
		a, b int64
		want string
	}{
		{12345, 12435, "digits swapped"}, {12345, 13245, "digits swapped"}, {1234, 12340, "the decimal mark slid"}, {123400, 1234, "the decimal mark slid"}, {500, -500, "the sign turned"}, {10000, 11900, "gross for net at 19 %"},
		{12345, 54321, ""}, {12345, 12346, ""}, {12345, 12345, ""}, {100, -200, ""}, {910, 109, ""}, {91, 19, "digits swapped"}, {100, 10, "digits swapped"},
	} {
		if got := r.slip(c.a, c.b); got != c.want {
			t.Errorf("%d and %d: %q, want %q", c.a, c.b, got, c.want)
		}
		if got := r.slip(c.b, c.a); got != c.want {
			t.Errorf("%d and %d the other way: %q, want %q", c.b, c.a, got, c.want)
		}
	}
}

// ledgers makes two of so many items with known truth: other dates, missing references, digits swapped, slides, signs, split items, items of one side alone, items posted twice.
func ledgers(r *rand.Rand, n int) (ours, theirs *table.Table, truth map[[2]int]bool) {
	a, b := [][]string{{"date", "amount", "reference", "counterparty"}}, [][]string{{"booked", "value", "ref", "description"}}
	truth = map[[2]int]bool{}
	day := func(d int) string { return time.Date(2031, 1, 1+d, 0, 0, 0, 0, time.UTC).Format("2006-01-02") }
	money := func(minor int64) string { return strconv.FormatFloat(float64(minor)/100, 'f', 2, 64) }
	for i := range n {
		d, amount := r.IntN(200), int64(100+r.IntN(400_000))
		amount *= int64(1 - 2*r.IntN(2))
		party := []string{"Harbour", "Quay", "Fathom", "Selkie", "Tern", "Gannet", "Skua"}[r.IntN(7)] + " " + []string{"Ice", "Fuel", "Nets", "Haulage", "Store", "Crew"}[r.IntN(6)] + fmt.Sprint(" ", r.IntN(30))
		one := []string{day(d), money(amount), fmt.Sprintf("INV-%05d", 10000+i), party}
		other := []string{day(d + r.IntN(4)), money(amount), fmt.Sprint(10000 + i), strings.ToUpper(party)}
		if r.IntN(12) == 0 {
			other[2] = ""
		}
		kind := r.IntN(100)
		switch kind {
		case 0:
			a = append(a, one)
			continue
		case 1:
			b = append(b, other)
			continue
		case 2:
			other[1] = money(amount * 10)
		case 3:
			other[1] = money(-amount)
		}
		a = append(a, one)
		if kind == 4 && max(amount, -amount) > 1000 {
			part := amount / 3
			for _, p := range []int64{part, amount - part} {
				b = append(b, []string{other[0], money(p), other[2], other[3]})
				truth[[2]int{len(a) - 1, len(b) - 1}] = true
			}
			continue
		}
		b = append(b, other)
		truth[[2]int{len(a) - 1, len(b) - 1}] = true
		if kind == 5 {
			b = append(b, slices.Clone(other))
		}
	}
	return coretest.Build(a...), coretest.Build(b...), truth
}

// On ledgers of known truth nearly all that could be settled is, and rightly; the columns are found, references written otherwise meet, every item is in one class and the classes add up to the difference.
func TestLedgersOfKnownTruth(t *testing.T) {
	ours, theirs, truth := ledgers(rand.New(rand.NewPCG(5, 6)), 6000)
	res, err := Settle(context.Background(), ours, theirs, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	if c := res.Spec.Theirs; c.Date != "booked" || c.Amount != "value" || c.Reference != "ref" || !slices.Equal(c.Texts, []string{"description"}) || c.Turned {
		t.Errorf("%+v", c)
	}
	found, right := 0, 0
	for _, s := range res.Sets {
		for _, x := range s.Ours {
			for _, y := range s.Theirs {
				if s.Settled {
					found++
					if truth[[2]int{int(x) + 1, int(y) + 1}] {
						right++
					}
				}
			}
		}
	}
	if precision, recall := float64(right)/float64(found), float64(right)/float64(len(truth)); precision < 0.999 || recall < 0.98 {
		t.Errorf("%.4f of what is settled is right, %.4f of what could be is settled", precision, recall)
	}
	s, err := res.Statement()
	if err != nil || s.Unexplained != "0.00" {
		t.Fatalf("%+v %v", s, err)
	}
	again, err := Settle(context.Background(), ours, theirs, Spec{})
	if err != nil || len(again.Sets) != len(res.Sets) {
		t.Fatal("a second run differs", err)
	}
	for i := range again.Sets {
		if fmt.Sprint(again.Sets[i]) != fmt.Sprint(res.Sets[i]) {
			t.Fatalf("set %d differs on a second run", i)
		}
	}
}

// However ledgers look, every item of both is in one class, the classes add up to the difference of the sums, and no more than what cancels is called agreed.
func TestEveryStatementBalances(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for range 400 {
		var sides [2]*table.Table
		var sums [2]int64
		for side := range sides {
			rows := [][]string{{"date", "amount", "ref", "text", "currency"}}
			for range 1 + r.IntN(30) {
				amount := int64(r.IntN(41) - 20)
				sums[side] += amount
				rows = append(rows, []string{fmt.Sprintf("2031-01-%02d", 1+r.IntN(12)), fmt.Sprintf("%d.50", amount), []string{"", "A1", "B2", "77123"}[r.IntN(4)], []string{"", "ice", "nets", "ice and nets 77123"}[r.IntN(4)], []string{"EUR", "EUR", "NOK"}[r.IntN(3)]})
			}
			sides[side] = coretest.Build(rows...)
		}
		ours, theirs := &Columns{Date: "date", Amount: "amount", Reference: "ref", Texts: []string{"text"}, Currency: "currency"}, &Columns{Date: "date", Amount: "amount", Reference: "ref", Texts: []string{"text"}, Currency: "currency"}
		res, err := Settle(context.Background(), sides[0], sides[1], Spec{Ours: ours, Theirs: theirs})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := res.Statement(); err != nil {
			t.Fatal(err)
		}
		lines := 0
		if err := res.Lines(func(l Line) error { lines++; return nil }); err != nil || lines != sides[0].Rows()+sides[1].Rows() {
			t.Fatalf("%d lines of %d items", lines, sides[0].Rows()+sides[1].Rows())
		}
		for _, s := range res.Sets {
			for _, x := range s.Ours {
				for _, y := range s.Theirs {
					if a, b := res.sides[0].items[x], res.sides[1].items[y]; a.currency != b.currency {
						t.Fatalf("two currencies in one set: %+v", s)
					}
				}
			}
		}
	}
}

// What is equally good in two ways is offered; the best pairing overall is taken where the first come would not be; the window holds; the other sign is found.
func TestPairing(t *testing.T) {
	settle := func(ours, theirs [][]string, spec Spec) *Result {
		t.Helper()
		res, err := Settle(context.Background(), coretest.Build(append([][]string{{"date", "amount", "reference", "counterparty"}}, ours...)...), coretest.Build(append([][]string{{"date", "amount", "reference", "counterparty"}}, theirs...)...), spec)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := res.Statement(); err != nil {
			t.Fatal(err)
		}
		return res
	}
	states := func(res *Result) (out []string) {
		_ = res.Lines(func(l Line) error { out = append(out, fmt.Sprint(l.State, " ", l.Pass)); return nil })
		return out
	}
	// One of ours lies between two of theirs.
	res := settle([][]string{{"2031-01-03", "10.00", "", "Ice"}}, [][]string{{"2031-01-02", "10.00", "", "Ice"}, {"2031-01-04", "10.00", "", "Ice"}}, Spec{})
	if got := states(res); got[0] != "offered 3" {
		t.Errorf("%v", got)
	}
	// The first is nearer to the second's partner; overall both find one.
	res = settle([][]string{{"2031-01-05", "10.00", "", "Ice"}, {"2031-01-09", "10.00", "", "Ice"}}, [][]string{{"2031-01-06", "10.00", "", "Ice"}, {"2031-01-01", "10.00", "", "Ice"}}, Spec{})
	if got := states(res); !slices.Equal(got, []string{"settled 3", "settled 3", "settled 3", "settled 3"}) {
		t.Errorf("%v", got)
	}
	none := 0
	if got := states(settle([][]string{{"2031-01-03", "10.00", "A77", "Ice"}}, [][]string{{"2031-01-04", "10.00", "A77", "Ice"}}, Spec{Window: &none})); got[0] != "offered 6" {
		t.Errorf("%v", got)
	}
	res = settle([][]string{{"2031-01-03", "10.00", "A77", "Ice"}, {"2031-01-03", "-4.00", "A78", "Ice"}}, [][]string{{"2031-01-03", "-10.00", "A77", "Ice"}, {"2031-01-03", "4.00", "A78", "Ice"}}, Spec{})
	if got := states(res); !res.Spec.Theirs.Turned || got[0] != "settled 1" || got[3] != "settled 1" {
		t.Errorf("%v %+v", got, res.Spec.Theirs)
	}
	for want, side := range map[string][][]string{"no column looks like an amount": {{"a", "b"}, {"x", "y"}}} {
		if _, err := Settle(context.Background(), coretest.Build(side...), coretest.Build([]string{"date", "amount"}, []string{"2031-01-01", "1"}), Spec{}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", want, err)
		}
	}
	words := coretest.Build([]string{"amount"}, []string{"soon"})
	if _, err := Settle(context.Background(), words, words, Spec{Ours: &Columns{Amount: "amount"}, Theirs: &Columns{Amount: "amount"}}); err == nil || !strings.Contains(err.Error(), "no line with an amount") {
		t.Error(err)
	}
	if _, err := Settle(context.Background(), words, words, Spec{Ours: &Columns{Amount: "gone"}, Theirs: &Columns{Amount: "amount"}}); err == nil || !strings.Contains(err.Error(), `no column "gone"`) {
		t.Error(err)
	}
}
