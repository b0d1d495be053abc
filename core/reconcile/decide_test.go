package reconcile

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
)

func settled(t *testing.T, ours, theirs [][]string, spec Spec) *Result {
	t.Helper()
	res, err := Settle(context.Background(), coretest.Build(ours...), coretest.Build(theirs...), spec)
	if err != nil {
		t.Fatal(err)
	}
	if s, err := res.Statement(); err != nil || strings.Trim(s.Unexplained, "0.") != "" {
		t.Fatalf("%+v %v", s, err)
	}
	return res
}

func lines(t *testing.T, res *Result) (out []string) {
	t.Helper()
	if err := res.Lines(func(l Line) error {
		out = append(out, fmt.Sprintf("%d.%d %s %d %s", l.Side, l.Row+1, l.State, l.Pass, l.Reason))
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	return out
}

// What somebody decided stands before all passes: items settled by hand belong together whatever their amounts, items kept open stay open though a pass would settle them, an explanation
// changes nothing else, and what is no longer there does nothing.
func TestDecidedByHand(t *testing.T) {
	ours := [][]string{{"date", "amount", "reference"}, {"2031-01-01", "10.00", "A100"}, {"2031-01-02", "20.00", "A200"}, {"2031-01-03", "33.00", ""}, {"2031-01-04", "1.00", ""}, {"2031-01-04", "1.00", ""}}
	theirs := [][]string{{"date", "amount", "reference"}, {"2031-01-01", "10.00", "A100"}, {"2031-01-02", "20.00", "A200"}, {"2031-01-09", "30.00", ""}}
	mine, yours := Keys(coretest.Build(ours...)), Keys(coretest.Build(theirs...))
	if mine[3] == mine[4] || len(mine) != 5 {
		t.Errorf("two rows that say the same have one key: %v", mine)
	}
	res := settled(t, ours, theirs, Spec{Decisions: []Decision{
		{Kind: BySettling, Ours: []string{mine[2]}, Theirs: []string{yours[2]}, Note: "a fee of 3.00"},
		{Kind: ByBreaking, Ours: []string{mine[0]}, Theirs: []string{yours[0]}},
		{Kind: ByExplaining, Ours: []string{mine[3]}, Note: "asked Ada"},
		{Kind: BySettling, Ours: []string{"gone"}, Theirs: []string{yours[1]}},
	}})
	want := []string{"0.1 open 0 kept open by hand", "0.2 settled 1 the same reference, amount and date", "0.3 settled 0 settled by hand: a fee of 3.00", "0.4 open 0 asked Ada", "0.5 open 0 ", "1.1 open 0 kept open by hand", "1.2 settled 1 the same reference, amount and date", "1.3 settled 0 settled by hand: a fee of 3.00"}
	if got := lines(t, res); !slices.Equal(got, want) {
		t.Errorf("%s", strings.Join(got, "\n"))
	}
	for at, s := range res.Sets {
		if s.Pass == ByHand && res.world.amount(s.Difference) != "3.00" {
			t.Errorf("set %d: %+v", at, s)
		}
	}
	if _, err := Settle(context.Background(), coretest.Build(ours...), coretest.Build(theirs...), Spec{Decisions: []Decision{{Kind: "guess", Ours: []string{mine[0]}}}}); err == nil {
		t.Error("there is no such decision")
	}
}

// Every item of both sides is in exactly one group of one class, and the groups' differences add up to that of the ledgers.
func TestGroupsHoldEveryItemOnce(t *testing.T) {
	ours, theirs, _ := ledgers(rand.New(rand.NewPCG(21, 22)), 900)
	res, err := Settle(context.Background(), ours, theirs, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	var seen [2]map[int]bool
	seen[0], seen[1] = map[int]bool{}, map[int]bool{}
	for _, class := range Classes {
		last := int64(1) << 62
		for _, g := range res.Groups(class) {
			if g.minor > last {
				t.Errorf("%s is not in the order of its differences", class)
			}
			last = g.minor
			for side, items := range [2][]Shown{g.Ours, g.Theirs} {
				for _, it := range items {
					if seen[side][it.Row] {
						t.Fatalf("row %d of side %d is there twice", it.Row, side)
					}
					seen[side][it.Row] = true
				}
			}
		}
	}
	if len(seen[0]) != ours.Rows() || len(seen[1]) != theirs.Rows() {
		t.Errorf("%d and %d items in groups of %d and %d", len(seen[0]), len(seen[1]), ours.Rows(), theirs.Rows())
	}
}

// Amounts come in any convention: signed, debits and credits, unsigned with words for their direction, with marks of either kind, and references within texts; currencies stay apart.
func TestConventions(t *testing.T) {
	ours := [][]string{{"date", "amount", "reference", "currency"}, {"2031-01-01", "1,250.00", "INV-5001", "EUR"}, {"2031-01-02", "-45.50", "INV-5002", "EUR"}, {"2031-01-03", "80.00", "INV-5003", "NOK"}}
	for name, c := range map[string]struct {
		theirs [][]string
		states string
	}{
		"debits and credits":  {[][]string{{"booked", "ref", "credit", "debit", "currency"}, {"2031-01-01", "5001", "1250.00", "", "EUR"}, {"2031-01-02", "5002", "", "45.50", "EUR"}, {"2031-01-03", "5003", "80.00", "", "EUR"}}, "settled settled open"},
		"words for direction": {[][]string{{"booked", "ref", "amount", "direction", "currency"}, {"2031-01-01", "5001", "1250.00", "CRDT", "EUR"}, {"2031-01-02", "5002", "45.50", "DBIT", "EUR"}, {"2031-01-03", "5003", "80.00", "CRDT", "NOK"}}, "settled settled settled"},
		"in the text":         {[][]string{{"booked", "ref", "amount", "text", "currency"}, {"2031-01-01", "", "1250.00", "payment INV 5001 thanks", "EUR"}, {"2031-01-02", "", "-45.50", "for 5002", "EUR"}, {"2031-01-03", "5003", "80.00", "", "NOK"}}, "settled settled settled"},
		"decimal commas":      {[][]string{{"booked", "ref", "amount", "currency"}, {"2031-01-01", "5001", "1.250,00", "EUR"}, {"2031-01-02", "5002", "-45,50", "EUR"}, {"2031-01-03", "5003", "80,00", "NOK"}}, "settled settled settled"},
	} {
		res := settled(t, ours, c.theirs, Spec{})
		var states []string
		for _, l := range lines(t, res)[:3] {
			states = append(states, strings.Fields(l)[1])
		}
		if got := strings.Join(states, " "); got != c.states {
			t.Errorf("%s: %s\n%s", name, got, strings.Join(lines(t, res), "\n"))
		}
	}
	bad := settled(t, ours, [][]string{{"booked", "ref", "amount"}, {"2031-01-01", "5001", "1250.00"}, {"2031-01-01", "5009", "about ten"}, {"2031-01-02", "5002", "7.00"}, {"2031-01-02", "5004", "8.00"}}, Spec{Theirs: &Columns{Date: "booked", Amount: "amount", Reference: "ref"}})
	if u := bad.Unread(1); len(u) != 1 || u[0].Row != 1 || u[0].Value != "about ten" {
		t.Errorf("%+v", u)
	}
}

// Several against one: by reference with the same sum, and by a sum that only one set of alike items has; one that several sets have is offered.
func TestSeveralAgainstOne(t *testing.T) {
	header := []string{"date", "amount", "reference", "counterparty"}
	res := settled(t, [][]string{header, {"2031-01-05", "100.00", "A900", "Ice"}, {"2031-01-05", "60.00", "", "Gull Point Nets"}, {"2031-01-05", "9.00", "", "Quay"}},
		[][]string{header, {"2031-01-05", "70.00", "A900", "Ice"}, {"2031-01-06", "30.00", "A900", "Ice"}, {"2031-01-06", "41.25", "", "Gull Point Nets"}, {"2031-01-07", "18.75", "", "Gull Point Nets"},
			{"2031-01-05", "4.00", "", "Quay"}, {"2031-01-05", "5.00", "", "Quay"}, {"2031-01-06", "6.00", "", "Quay"}, {"2031-01-06", "3.00", "", "Quay"}}, Spec{})
	got := lines(t, res)
	for at, want := range []string{"0.1 settled 5 the same reference, 1 against 2 with the same sum", "0.2 settled 5 2 that add up to it", "0.3 offered 5 2 that add up to it, among other ways"} {
		if got[at] != want {
			t.Errorf("%q, want %q", got[at], want)
		}
	}
}

// However many currencies there are, as where a wrong column is taken for them, they stay apart.
func TestCurrenciesStayApart(t *testing.T) {
	header := []string{"date", "amount", "reference", "currency"}
	ours, theirs := [][]string{header}, [][]string{header, {"2031-01-01", "5.00", "A100", "C65536"}}
	for i := range 65_536 {
		ours = append(ours, []string{"2031-01-01", "5.00", fmt.Sprintf("A%d", 100+i), fmt.Sprintf("C%d", i)})
	}
	columns := &Columns{Date: "date", Amount: "amount", Reference: "reference", Currency: "currency"}
	if res := settled(t, ours, theirs, Spec{Ours: columns, Theirs: columns}); len(res.Sets) != 0 {
		t.Errorf("two currencies in one set: %+v", res.Sets)
	}
}

// A pass left out settles and offers nothing, what it would have settled is open or is left to a weaker one, and the statement balances all the same.
func TestPassesLeftOut(t *testing.T) {
	header := []string{"date", "amount", "reference", "counterparty"}
	ours := [][]string{header, {"2031-01-01", "10.00", "A100", "Ice"}, {"2031-01-02", "21.00", "A200", "Nets"}, {"2031-01-03", "33.00", "", "Quay Store"}, {"2031-01-05", "1000.00", "A400", "Fuel"}, {"2031-01-06", "70.00", "A500", "Crew"}, {"2031-01-07", "123.45", "A600", "Haulage"}}
	theirs := [][]string{header, {"2031-01-01", "10.00", "A100", "Ice"}, {"2031-01-04", "21.00", "A200", "Nets"}, {"2031-01-04", "33.00", "", "QUAY STORE"}, {"2031-01-05", "999.50", "A400", "Fuel"}, {"2031-01-06", "40.00", "A500", "Crew"}, {"2031-01-06", "30.00", "A500", "Crew"}, {"2031-01-07", "132.45", "A600", "Haulage"}}
	made := func(without ...int) (n [Errors + 1]int) {
		for _, set := range settled(t, ours, theirs, Spec{Without: without}).Sets {
			n[set.Pass]++
		}
		return n
	}
	all := made()
	for pass := Exact; pass <= Errors; pass++ {
		if all[pass] == 0 {
			t.Errorf("no set by pass %d to begin with", pass)
		}
		if n := made(pass); n[pass] != 0 {
			t.Errorf("%d sets by pass %d, which was left out", n[pass], pass)
		}
	}
	if n := made(1, 2, 3, 4, 5, 6); n != [Errors + 1]int{} {
		t.Errorf("sets by passes that were all left out: %v", n)
	}
	if _, err := Settle(context.Background(), coretest.Build(ours...), coretest.Build(theirs...), Spec{Without: []int{7}}); err == nil {
		t.Error("a seventh pass was left out")
	}
}
