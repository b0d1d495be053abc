package linkage

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/survivorship"
	"grandledger/core/table"
)

// Outside reference: Fellegi and Sunter 1969: the weight of a level is log2(m/u), and posterior odds are prior odds times 2 to the
// weight.
func TestWeights(t *testing.T) {
	w := []Weights{{M: []float64{0.1, 0.9}, U: []float64{0.75, 0.25}, given: -1, with: -1}, {M: []float64{0.5, 0.5}, U: []float64{0.875, 0.125}, given: -1, with: -1}}
	kinds := []Kind{Category, Category}
	for pattern, want := range map[uint64]float64{0x11: math.Log2(0.9/0.25) + 2, 0x01: math.Log2(0.9/0.25) + math.Log2(0.5/0.875), 0x10: math.Log2(0.1/0.75) + 2, 0x1f: 2, 0xff: 0} {
		if got := weigh(w, kinds, pattern); math.Abs(got-want) > 1e-12 {
			t.Errorf("%x: %f bits, want %f", pattern, got, want)
		}
	}
	if got := Probability(math.Log2(3) + 1); math.Abs(got-6.0/7) > 1e-12 { // odds 3 times 2
		t.Error(got)
	}
}

// Outside reference: Bagga and Baldwin 1998, their worked example; as CHECKS.md quotes it.
func TestBCubed(t *testing.T) {
	truth := []int{1, 1, 1, 1, 1, 2, 2, 3, 3, 3, 3, 3}
	for _, c := range []struct {
		answer    []int
		precision float64
	}{{[]int{1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2, 2}, .76}, {[]int{1, 1, 1, 1, 1, 2, 2, 1, 1, 1, 1, 1}, .58}} {
		p, r := BCubed(c.answer, truth)
		if math.Abs(p-c.precision) > .005 || r != 1 {
			t.Errorf("%.3f %.3f, want %.2f and 1", p, r, c.precision)
		}
	}
}

// Outside reference: Wilson 1927, as CHECKS.md quotes it.
func TestWilson(t *testing.T) {
	for _, c := range []struct {
		right, of int
		low, high float64
	}{{0, 10, 0, .278}, {5, 10, .237, .763}, {0, 0, 0, 1}} {
		low, high := Wilson(c.right, c.of)
		if math.Abs(low-c.low) > .0006 || math.Abs(high-c.high) > .0006 {
			t.Errorf("%d of %d: %.4f to %.4f", c.right, c.of, low, high)
		}
	}
}

// Pairs drawn from known m, u and prevalence give these back within what is drawn and what is held to from the start.
func TestEstimateFindsWhatWasDrawn(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	draw := func(p []float64) uint64 {
		x := r.Float64()
		for l, q := range p {
			if x -= q; x < 0 {
				return uint64(l)
			}
		}
		return uint64(len(p) - 1)
	}
	m := [][]float64{{.1, .05, .15, .7}, {.2, .8}, {.05, .05, .1, .8}, {.12, .03, .05, .8}}
	u := [][]float64{{.9985, .0005, .0005, .0005}, {.99, .01}, {.9989, .0005, .0005, .0001}, {.9997, .0001, .0001, .0001}}
	kinds := []Kind{Word, Country, Date, Code}
	const n, links = 40_000, 8_000
	rec := &records{starts: []int{0, 2 * n}}
	var w []Weights
	for i, k := range kinds {
		rec.attributes = append(rec.attributes, &attribute{Attribute: Attribute{Kind: k}})
		w = append(w, Weights{M: slices.Clone(k.startM()), U: slices.Clone(u[i]), given: -1, with: -1})
	}
	var pairs []compared
	var patterns []uint64
	known := map[uint64]int32{}
	for i := range n {
		p := u
		if i < links {
			p = m
		}
		pattern := uint64(0)
		for a := range kinds {
			pattern |= draw(p[a]) << (4 * a)
		}
		at, ok := known[pattern]
		if !ok {
			at = int32(len(patterns))
			known[pattern] = at
			patterns = append(patterns, pattern)
		}
		pairs = append(pairs, compared{uint32(2 * i), uint32(2*i + 1), at, 0})
	}
	prior, notes := rec.learn(w, pairs, patterns, false, nil)
	for i := range m {
		for l := range m[i] {
			if math.Abs(w[i].M[l]-m[i][l]) > 0.05 {
				t.Errorf("attribute %d, level %d: m %.3f, drawn %.3f", i, l, w[i].M[l], m[i][l])
			}
		}
	}
	if got := math.Exp2(prior) * float64(rec.possible(false)); got < 0.75*links || got > 1.05*links || len(notes) > 0 {
		t.Errorf("%.0f links expected, %d drawn; %v", got, links, notes)
	}
	// Too few to learn from: said, and nothing is changed.
	few := []Weights{{M: slices.Clone(Word.startM()), U: []float64{.97, .01, .01, .01}, given: -1, with: -1}}
	rec.attributes = rec.attributes[:1]
	if _, notes := rec.learn(few, make([]compared, 20), []uint64{0}, false, nil); len(notes) != 1 || !reflect.DeepEqual(few[0].M, Word.startM()) {
		t.Errorf("%v %v", notes, few)
	}
}

// Weights rise with the level, whatever was counted.
func TestRising(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 9))
	for range 500 {
		m, u := make([]float64, 2+r.IntN(5)), []float64{}
		for i := range m {
			m[i] = r.Float64()
			u = append(u, r.Float64())
		}
		sum := 0.0
		for _, x := range m {
			sum += x
		}
		rising(m, u)
		after := 0.0
		for l := range m {
			after += m[l]
			if l > 0 && bits(m[l], u[l]) < bits(m[l-1], u[l-1])-1e-9 {
				t.Fatalf("%v %v", m, u)
			}
		}
		if math.Abs(sum-after) > 1e-9 {
			t.Fatalf("the sum is %f and was %f", after, sum)
		}
	}
}

// Probabilities where a record is one thing with one other at most are the marginals of all matchings, counted one by one.
func TestRivalsAgainstAllMatchings(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	for range 200 {
		left, right := 1+r.IntN(4), 1+r.IntN(4)
		rec := &records{starts: []int{0, left, left + right}}
		var pairs []compared
		joined := make([]int, left+right) // without circles, where messages are exact
		for i := range joined {
			joined[i] = i
		}
		find := func(i int) int {
			for joined[i] != i {
				i = joined[i]
			}
			return i
		}
		var weights []float64
		for a := range left {
			for b := range right {
				if x, y := find(a), find(left+b); x != y && r.IntN(3) > 0 {
					joined[x] = y
					pairs = append(pairs, compared{uint32(a), uint32(left + b), int32(len(weights)), 0})
					weights = append(weights, r.Float64()*12-6)
				}
			}
		}
		want, all := make([]float64, len(pairs)), 0.0
		for set := range 1 << len(pairs) {
			used, odds := map[uint32]bool{}, 1.0
			for i, p := range pairs {
				if set>>i&1 == 1 {
					if used[p.a] || used[p.b] {
						odds = 0
						break
					}
					used[p.a], used[p.b] = true, true
					odds *= math.Exp2(weights[i])
				}
			}
			all += odds
			for i := range pairs {
				if set>>i&1 == 1 {
					want[i] += odds
				}
			}
		}
		rec.probabilities(pairs, weights, 0, true, func(i int, p float64) {
			if math.Abs(p-want[i]/all) > 0.002 {
				t.Fatalf("%v %v: pair %d has %f, want %f", pairs, weights, i, p, want[i]/all)
			}
		})
	}
}

// Every pair that shares a key under a rule is a candidate, once, and no other; across tables none within one.
func TestCandidatesAgainstEveryPair(t *testing.T) {
	r := rand.New(rand.NewPCG(13, 14))
	for range 30 {
		var tables []*table.Table
		for range 2 {
			rows := [][]string{{"name", "city", "code"}}
			for range 60 {
				rows = append(rows, []string{fmt.Sprintf("%s %s", coretest.Pieces[r.IntN(len(coretest.Pieces))], string(rune('a'+r.IntN(9)))+"ker"), string(rune('A'+r.IntN(6))) + "burg", fmt.Sprint("K", r.IntN(40))})
			}
			tables = append(tables, coretest.Build(rows...))
		}
		attributes := []Attribute{{Name: "name", Kind: Text, Columns: [][]string{{"name"}, {"name"}}}, {Name: "city", Kind: Word, Columns: [][]string{{"city"}, {"city"}}}, {Name: "code", Kind: Code, Columns: [][]string{{"code"}, {"code"}}}}
		rec := newRecords(tables, attributes, nil, false, false)
		across := r.IntN(2) == 0
		rules := rec.propose(across)
		if len(rules) == 0 {
			t.Fatal("no rule")
		}
		plan := &Plan{records: rec, base: Result{Rules: rules}, across: across, near: rec.near}
		for _, rule := range rules {
			plan.keyed = append(plan.keyed, func() []uint64 { return rec.keyed(rule) })
		}
		var got []uint64
		for _, shard := range [][2]uint32{{0, 37}, {37, 90}, {90, uint32(rec.len())}} {
			found, _ := plan.candidates(shard[0], shard[1])
			for _, part := range found {
				got = append(got, part...)
			}
		}
		var want []uint64
		for a := range uint32(rec.len()) {
			for b := a + 1; int(b) < rec.len(); b++ {
				meet := false
				for _, rule := range rules {
					keys := map[uint64]bool{}
					rec.each(rule, a, func(k uint64) { keys[k] = true })
					rec.each(rule, b, func(k uint64) { meet = meet || keys[k] })
				}
				if meet && !(across && rec.table(a) == rec.table(b)) {
					want = append(want, uint64(a)<<32|uint64(b))
				}
			}
		}
		slices.Sort(got)
		if !slices.Equal(got, want) {
			t.Fatalf("%d candidates, %d pairs share a key", len(got), len(want))
		}
	}
}

// people makes records of invented people, some of them twice with a change, and says which belong together.
func people(n int) (*table.Table, []int) {
	r := rand.New(rand.NewPCG(21, 22))
	name := func(k int) string {
		v := ""
		for range k {
			v += []string{"ka", "lo", "mer", "tin", "sha", "vor", "bel", "dun", "ri", "os", "an", "pet", "gul", "har", "wes"}[r.IntN(15)]
		}
		return v
	}
	rows := [][]string{{"id", "given name", "surname", "born", "place", "phone"}}
	var of []int
	for i := range n {
		row := []string{"", name(2), name(3), fmt.Sprintf("%d-%02d-%02d", 1940+r.IntN(60), 1+r.IntN(12), 1+r.IntN(28)), name(3), fmt.Sprintf("0%d", 100000+r.IntN(899999))}
		for copies := range 1 + r.IntN(2) {
			out := slices.Clone(row)
			if copies > 0 {
				switch r.IntN(5) {
				case 0:
					out[1] = out[1][:len(out[1])-1]
				case 1:
					out[3] = ""
				case 2:
					out[4] = name(3)
				case 3:
					out[5] = ""
				case 4:
					b := []byte(out[2])
					b[1], b[2] = b[2], b[1]
					out[2] = string(b)
				}
			}
			if copies > 0 && r.IntN(6) == 0 { // what only the kinds of names tell
				out[1], out[2] = out[2], out[1]
			}
			out[0] = fmt.Sprint(len(rows))
			rows = append(rows, out)
			of = append(of, i)
		}
	}
	return coretest.Build(rows...), of
}

// Without a word of what is compared: the columns, kinds, rules and weights are found, the ids are no evidence, and the same comes out on every run.
func TestPeopleWithoutASpec(t *testing.T) {
	tab, of := people(3000)
	first, err := Link(context.Background(), []*table.Table{tab}, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	var kinds []string
	for _, a := range first.Spec.Attributes {
		kinds = append(kinds, a.Name+" "+string(a.Kind))
	}
	slices.Sort(kinds)
	if got := strings.Join(kinds, ", "); got != "born date, given name given name, phone telephone, place place, surname family name" {
		t.Error(got)
	}
	s := Score{}
	for i := 1; i < len(of); i++ {
		if of[i] == of[i-1] {
			s.There++
		}
	}
	for _, p := range first.Pairs {
		if p.Verdict == Linked {
			s.Found++
			if of[p.LeftRow] == of[p.RightRow] {
				s.Right++
			}
		}
	}
	if s.F1() < 0.98 {
		t.Errorf("precision %.3f, recall %.3f of %d pairs", s.Precision(), s.Recall(), s.There)
	}
	if len(first.Clusters) < s.There*9/10 {
		t.Errorf("%d clusters of %d pairs", len(first.Clusters), s.There)
	}
	again, err := Link(context.Background(), []*table.Table{tab}, Spec{})
	if err != nil || !reflect.DeepEqual(first.Pairs, again.Pairs) || !reflect.DeepEqual(first.Clusters, again.Clusters) {
		t.Errorf("a second run differs (%v)", err)
	}
	cut, stop := context.WithCancel(context.Background())
	stop()
	if _, err := Link(cut, []*table.Table{tab}, Spec{}); err == nil {
		t.Error("it was not cancelled")
	}
}

// Golden records: one for each cluster and each single record, as many records as there are, values by their rules.
func TestGolden(t *testing.T) {
	tab, _ := people(400)
	res, err := Link(context.Background(), []*table.Table{tab}, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	res.Spec.Survivorship = map[string]survivorship.Rule{"surname": survivorship.Longest}
	made, err := res.Golden([]*table.Table{tab}, Keeping{})
	if err != nil {
		t.Fatal(err)
	}
	golden, conflicts := made.Table, made.Differ
	inClusters := 0
	for _, c := range res.Clusters {
		inClusters += len(c)
	}
	if want := tab.Rows() - inClusters + len(res.Clusters); golden.Rows() != want {
		t.Errorf("%d golden records, want %d", golden.Rows(), want)
	}
	records, _, _ := golden.Column("records")
	sum := 0
	for row := range golden.Rows() {
		var n int
		v, _ := records.Value(golden.BaseRow(row))
		fmt.Sscan(v, &n)
		sum += n
	}
	if sum != tab.Rows() {
		t.Errorf("made of %d records, there are %d", sum, tab.Rows())
	}
	surname, _, _ := golden.Column("surname")
	from, _, _ := tab.Column("surname")
	for i, c := range res.Clusters[:50] {
		longest := ""
		for _, row := range c {
			if v, _ := from.Value(tab.BaseRow(row.Row)); len(v) > len(longest) {
				longest = v
			}
		}
		if got, _ := surname.Value(golden.BaseRow(i)); got != longest {
			t.Errorf("cluster %d: %q, the longest is %q", i+1, got, longest)
		}
	}
	if conflicts["place"] == 0 || conflicts["place"] > len(res.Clusters) {
		t.Errorf("%v", conflicts)
	}

	// From one record that goes before the others: the newest, or the fullest.
	for rule, better := range map[survivorship.Rule]func(a, b int) bool{
		Newest:  func(a, b int) bool { return cells(tab, []string{"born"}, a)[0] > cells(tab, []string{"born"}, b)[0] },
		Fullest: func(a, b int) bool { return filledOf(tab, a) > filledOf(tab, b) },
	} {
		res.Spec.Survivorship = map[string]survivorship.Rule{"place": rule}
		made, err := res.Golden([]*table.Table{tab}, Keeping{})
		if err != nil {
			t.Fatal(err)
		}
		c, _, _ := made.Table.Column("place")
		for i, cluster := range res.Clusters {
			best := -1
			for _, row := range cluster {
				if cells(tab, []string{"place"}, row.Row)[0] != "" && (best < 0 || better(row.Row, best)) {
					best = row.Row
				}
			}
			if got, _ := c.Value(made.Table.BaseRow(i)); best >= 0 && got != cells(tab, []string{"place"}, best)[0] {
				t.Errorf("%s: cluster %d has %q, its record %d says %q", rule, i+1, got, best, cells(tab, []string{"place"}, best)[0])
			}
		}
	}
	res.Spec.Survivorship = map[string]survivorship.Rule{"place": "newest:phone"}
	if _, err := res.Golden([]*table.Table{tab}, Keeping{}); err == nil || !strings.Contains(err.Error(), "no record is the newest") {
		t.Error(err)
	}
	res.Spec.Survivorship = map[string]survivorship.Rule{"surname": survivorship.Longest, "place": Nearest}
	if _, err := res.Golden([]*table.Table{tab}, Keeping{}); err != nil {
		t.Error(err)
	}
	res.Spec.Survivorship = map[string]survivorship.Rule{"surname": survivorship.Longest}

	// A value picked by hand holds until what it was picked of changes.
	tables := []*table.Table{tab}
	ids, _ := Lasting(res.Groups(tables), nil, 1)
	list, err := res.Conflicts(tables, "place")
	if err != nil || len(list) != conflicts["place"] {
		t.Fatalf("%d conflicts, %d counted (%v)", len(list), conflicts["place"], err)
	}
	one := list[0]
	pick := Keeping{IDs: ids, Picks: map[Picking]Picked{{ids[one.Group], "place"}: {one.Values[1].Value, one.Of}, {ids[list[1].Group], "place"}: {"elsewhere", "of others"}}}
	made, err = res.Golden(tables, pick)
	if err != nil || made.Asks != 1 {
		t.Fatalf("%d are asked (%v)", made.Asks, err)
	}
	place, _, _ := made.Table.Column("place")
	for g, want := range map[int]string{one.Group: one.Values[1].Value, list[1].Group: list[1].Values[0].Value} {
		if got, _ := place.Value(made.Table.BaseRow(g)); got != want {
			t.Errorf("golden record %d: %q, want %q", g, got, want)
		}
	}
	for g := range golden.Rows() {
		before, _, _ := golden.Column("place")
		x, _ := before.Value(golden.BaseRow(g))
		if y, _ := place.Value(made.Table.BaseRow(g)); x != y && g != one.Group {
			t.Errorf("golden record %d changed from %q to %q", g, x, y)
		}
	}
	// The cross-reference has each record once, under the identifier of its golden record.
	cross, err := res.CrossReference(tables, []string{"people"}, ids)
	if err != nil || cross.Rows() != tab.Rows() {
		t.Fatalf("%d rows of %d records (%v)", cross.Rows(), tab.Rows(), err)
	}
	under, _, _ := cross.Column("golden")
	for g, c := range res.Clusters {
		for _, row := range c {
			if v, _ := under.Value(cross.BaseRow(row.Row)); v != fmt.Sprint(ids[g]) {
				t.Fatalf("row %d stands under %s, its cluster is %d", row.Row, v, ids[g])
			}
		}
	}
}

// filledOf is how many attributes of a record say something.
func filledOf(t *table.Table, row int) (n int) {
	for _, c := range t.Columns() {
		if v, _ := c.Value(t.BaseRow(row)); v != "" && c.Name != "id" {
			n++
		}
	}
	return n
}

// What somebody decided holds: two records kept apart are in no cluster together, two held to be the same are linked though no rule
// brings them together; and the findings of a pair add up to its weight.
func TestDecisions(t *testing.T) {
	tab, of := people(400)
	tables := []*table.Table{tab}
	res, err := Link(context.Background(), tables, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range res.Pairs[:100] {
		sum := 0.0
		for _, f := range res.Findings(tables, p) {
			sum += f.Bits
		}
		if math.Abs(sum-p.Weight) > 1e-3 {
			t.Fatalf("the findings of %+v add up to %f", p, sum)
		}
	}
	var first Pair
	for _, p := range res.Pairs {
		if p.Verdict == Linked {
			first = p
			break
		}
	}
	other := tab.Rows() - 1
	if of[other] == of[first.LeftRow] {
		t.Fatal("choose another row")
	}
	spec := Spec{Decisions: []Decision{{Key(tab, first.LeftRow), Key(tab, first.RightRow), false}, {Key(tab, other), Key(tab, first.LeftRow), true}}}
	again, err := Link(context.Background(), tables, spec)
	if err != nil {
		t.Fatal(err)
	}
	same := false
	for _, c := range again.Clusters {
		has := map[int]bool{}
		for _, row := range c {
			has[row.Row] = true
		}
		if has[first.LeftRow] && has[first.RightRow] {
			t.Errorf("kept apart, and in one cluster: %v", c)
		}
		same = same || has[first.LeftRow] && has[other]
	}
	if !same {
		t.Error("held to be the same, and in no cluster together")
	}
}

// Weights that somebody sets stay as they are set, and are refused where they are not those of the levels.
func TestWeightsByHand(t *testing.T) {
	tab, _ := people(200)
	set := Weights{Attribute: "place", M: []float64{.1, .05, .05, .1, .1, .1, .5}, U: []float64{.9, .05, .02, .01, .01, .005, .005}}
	res, err := Link(context.Background(), []*table.Table{tab}, Spec{Weights: []Weights{set}})
	if err != nil {
		t.Fatal(err)
	}
	for _, w := range res.Weights {
		if w.Attribute == "place" && (!slices.Equal(w.M, set.M) || !slices.Equal(w.U, set.U)) {
			t.Errorf("%+v", w)
		}
	}
	for want, w := range map[string]Weights{"which is not compared": {Attribute: "smell"}, "are not those of its levels": {Attribute: "place", M: []float64{.5, .5}, U: []float64{.5, .5}}} {
		if _, err := Link(context.Background(), []*table.Table{tab}, Spec{Weights: []Weights{w}}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %s", err, want)
		}
	}
}

// Two tables that call their columns otherwise; each thing stands once in each.
func TestAcross(t *testing.T) {
	left := [][]string{{"id", "name", "country"}}
	right := [][]string{{"id", "state_name", "country_code"}}
	r := rand.New(rand.NewPCG(3, 1))
	countries := [][2]string{{"Norway", "NO"}, {"Germany", "DE"}, {"Russian Federation", "RU"}, {"Côte d'Ivoire", "CI"}}
	for i := range 400 {
		c := countries[r.IntN(len(countries))]
		v := fmt.Sprintf("%c%s%s", 'A'+i%26, []string{"lor", "met", "sha", "vin", "ka", "ber"}[r.IntN(6)], []string{"dun", "gul", "wes", "har", "nor"}[r.IntN(5)]) + string(rune('a'+i/26))
		left = append(left, []string{fmt.Sprint("L", i), v, c[0]})
		right = append(right, []string{fmt.Sprint("R", i), v + []string{" Province", " District", ""}[r.IntN(3)], c[1]})
	}
	res, err := Link(context.Background(), []*table.Table{coretest.Build(left...), coretest.Build(right...)}, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	right1, linked := 0, map[int]int{}
	for _, p := range res.Pairs {
		if p.Verdict == Linked {
			linked[p.LeftRow]++
			if p.LeftRow == p.RightRow {
				right1++
			}
		}
	}
	if right1 < 385 || len(linked) > 400 {
		t.Errorf("%d of 400 are right, %d linked; %+v", right1, len(linked), res.Spec.Attributes)
	}
	for row, n := range linked {
		if n > 1 {
			t.Errorf("row %d is linked %d times", row, n)
		}
	}
}

// What cannot be linked says why; what is one value throughout, blank, or of another script does no harm; and ten thousand records that
// are the same are not compared each with each.
func TestOddTables(t *testing.T) {
	one := func(rows ...[]string) *table.Table { return coretest.Build(rows...) }
	for want, tables := range map[string][]*table.Table{
		"the tables have no column in common: id, name against id, weight": {one([]string{"id", "name"}, []string{"1", "Alpha"}), one([]string{"id", "weight"}, []string{"1", "20"})},
		"there is nothing to compare":                                      {one([]string{"id", "note"}, []string{"1", "same"}, []string{"2", "same"})},
	} {
		if _, err := Link(context.Background(), tables, Spec{}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %s", err, want)
		}
	}
	if _, err := Link(context.Background(), []*table.Table{one([]string{"a"}, []string{"1"})}, Spec{Attributes: []Attribute{{Name: "b", Kind: Text, Columns: [][]string{{"b"}}}}}); err == nil || !strings.Contains(err.Error(), `table 1 has no column "b"`) {
		t.Error(err)
	}
	if _, err := Link(context.Background(), []*table.Table{one([]string{"a"}, []string{"1"})}, Spec{Attributes: []Attribute{{Name: "a", Kind: "smell", Columns: [][]string{{"a"}}}}}); err == nil || !strings.Contains(err.Error(), `there is no kind "smell"`) {
		t.Error(err)
	}
	rows := [][]string{{"name", "city", "blank", "имя"}}
	for range 10_000 {
		rows = append(rows, []string{"Port Kestrel Ice", "Gull Point", "", "Москва"})
	}
	for i := range 500 {
		rows = append(rows, []string{fmt.Sprintf("Firm %c%c", 'A'+i%26, 'a'+i/26), fmt.Sprintf("Town %d", i%40), " ", "Казань"})
	}
	res, err := Link(context.Background(), []*table.Table{one(rows...)}, Spec{})
	if err != nil || res.Compared > 3_000_000 {
		t.Errorf("%v: %d pairs compared", err, res.Compared)
	}
	narrowed := 0
	for _, rule := range res.Rules {
		narrowed += rule.Narrowed
	}
	if narrowed == 0 {
		t.Error("no block is said to have been narrowed")
	}
}
