package reconcile

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Spec says how two ledgers are settled. What is left out is found, or is as usual.
type Spec struct {
	Ours   *Columns `json:"ours,omitempty" yaml:"ours,omitempty"`
	Theirs *Columns `json:"theirs,omitempty" yaml:"theirs,omitempty"`
	// Window is how many days two items may lie apart; nil for five.
	Window *int `json:"window,omitempty" yaml:"window,omitempty"`
	// Tolerance is how much two amounts of one reference may differ, in thousandths of the larger one; nil for ten.
	Tolerance *int `json:"tolerance,omitempty" yaml:"tolerance,omitempty"`
	// Rates are those at which net becomes gross, in thousandths.
	Rates []int `json:"rates,omitempty" yaml:"rates,omitempty,flow"`
	// Without are the passes that are not made.
	Without []int `json:"without,omitempty" yaml:"without,omitempty,flow"`
	// Decisions hold before any pass.
	Decisions []Decision `json:"-" yaml:"-"`
}

const (
	usualWindow    = 5
	usualTolerance = 10
)

// usualRates are rates of value added tax in use, in thousandths (common practice).
var usualRates = []int{50, 55, 60, 70, 77, 80, 81, 90, 100, 120, 130, 135, 150, 160, 170, 180, 190, 200, 210, 220, 230, 240, 250, 270}

// The passes, in the order they are made.
const (
	Exact     = 1 // the same reference, amount and date
	Reference = 2 // the same reference and amount within the window
	Alike     = 3 // the same amount within the window, texts alike or nothing else of that amount near
	Tolerated = 4 // the same reference, amounts that hardly differ
	Several   = 5 // several items against one or several, by reference or by sum
	Errors    = 6 // likely errors: digits swapped, a slide of the decimal mark, the sign turned, gross for net
)

// State is where an item stands.
type State string

// The states.
const (
	Settled State = "settled"
	Offered State = "offered"
	Open    State = "open"
)

// Set is items of both sides that belong together.
type Set struct {
	Ours, Theirs []int32 // items
	Pass         int
	Reason       string
	Settled      bool  // otherwise it is offered
	Difference   int64 // ours less theirs, of the smallest part
}

// Result is what settling found.
type Result struct {
	Spec    Spec
	Sets    []Set
	Untried int // items whose sums of several were too many to try

	world  *world
	sides  [2]*ledger
	sets   [2][]int32  // of each item, its set and one more; 0 for none
	reason [2][]string // of open items, what is known of them
	broken [2][]bool   // somebody keeps the item open
}

// Settle settles two ledgers. Refusals are *problem.Problem.
//
// Cost: O(items log items), and the best pairing within items of one amount that lie near one another.
func Settle(ctx context.Context, ours, theirs *table.Table, spec Spec) (*Result, error) {
	for _, pass := range spec.Without {
		if pass < Exact || pass > Errors {
			return nil, problem.New("The passes are 1 to 6", "there is no pass %d to leave out", pass)
		}
	}
	w := &world{currencies: map[string]uint32{}, refs: table.NewDictBuilder(), texts: table.NewDictBuilder()}
	r := &Result{Spec: spec, world: w}
	tables := [2]*table.Table{ours, theirs}
	for i, given := range []**Columns{&r.Spec.Ours, &r.Spec.Theirs} {
		if *given == nil {
			c, err := Propose(tables[i])
			if err != nil {
				return nil, fmt.Errorf("%s: %w", [2]string{"ours", "theirs"}[i], err)
			}
			*given = &c
		}
		p, err := places(tables[i], **given)
		if err != nil {
			return nil, err
		}
		w.places = max(w.places, p)
	}
	w.digits = byDigits(tables, [2]*Columns{r.Spec.Ours, r.Spec.Theirs})
	for i, c := range []*Columns{r.Spec.Ours, r.Spec.Theirs} {
		var err error
		if r.sides[i], err = w.read(tables[i], *c); err != nil {
			return nil, err
		}
		if len(r.sides[i].items) == 0 {
			return nil, problem.New("Look at which columns hold the amounts", "%s has no line with an amount", [2]string{"our side", "their side"}[i])
		}
		r.sets[i], r.reason[i] = make([]int32, len(r.sides[i].items)), make([]string, len(r.sides[i].items))
		r.broken[i] = make([]bool, len(r.sides[i].items))
	}
	if !r.Spec.Theirs.Turned && spec.Theirs == nil && r.mirrored() {
		c := *r.Spec.Theirs
		c.Turned = true
		r.Spec.Theirs = &c
		for i := range r.sides[1].items {
			r.sides[1].items[i].amount *= -1
		}
		r.sides[1].total *= -1
	}
	w.cut()
	r.mine()
	if err := r.decide(tables, spec.Decisions); err != nil {
		return nil, err
	}
	return r, r.passes(ctx)
}

// passes makes those that are not left out.
func (r *Result) passes(ctx context.Context) error {
	for _, p := range []struct {
		pass int
		make func()
	}{
		{Exact, r.exact}, {Reference, r.byReference}, {Alike, r.alike}, {Tolerated, r.tolerated},
		{Several, r.severalByReference}, {Errors, r.errors}, {Several, r.severalBySum}, {Errors, r.rest},
	} {
		if err := ctx.Err(); err != nil {
			return err
		}
		if !slices.Contains(r.Spec.Without, p.pass) {
			p.make()
		}
	}
	return nil
}

func (r *Result) window() int32 {
	if r.Spec.Window != nil {
		return int32(*r.Spec.Window)
	}
	return usualWindow
}

// mirrored says whether the other side writes amounts with the other sign: more of its items have a partner turned than as they stand.
func (r *Result) mirrored() bool {
	type key struct {
		ref    uint32
		amount int64
	}
	have := map[key]bool{}
	for i := range r.sides[0].items {
		it := &r.sides[0].items[i]
		have[key{it.ref, it.amount}] = true
	}
	same, turned := 0, 0
	for i := range r.sides[1].items {
		it := &r.sides[1].items[i]
		if have[key{it.ref, it.amount}] {
			same++
		}
		if have[key{it.ref, -it.amount}] {
			turned++
		}
	}
	return turned > 2*same
}

// settle makes a set of items.
func (r *Result) settle(ours, theirs []int32, pass int, settled bool, reason string) {
	s := Set{Ours: ours, Theirs: theirs, Pass: pass, Reason: reason, Settled: settled}
	at := int32(len(r.Sets) + 1)
	for _, i := range ours {
		s.Difference += r.sides[0].items[i].amount
		r.sets[0][i] = at
	}
	for _, i := range theirs {
		s.Difference -= r.sides[1].items[i].amount
		r.sets[1][i] = at
	}
	r.Sets = append(r.Sets, s)
}

// common is what the items of a group have in common; parts that are not asked for are 0.
type common struct {
	amount   int64
	text     uint32 // a reference, or words
	currency uint32
	day      int32
}

func (c common) compare(other common) int {
	return cmp.Or(cmp.Compare(c.amount, other.amount), cmp.Compare(c.text, other.text), cmp.Compare(c.currency, other.currency), cmp.Compare(c.day, other.day))
}

func byRef(it *item) (common, bool) { return common{text: it.ref, currency: it.currency}, it.ref != 0 }

// groups sorts the items of both sides that are in no set yet by a key, and calls a function for each key that both sides have. A key that is not ok is left out.
func (r *Result) groups(key func(it *item) (common, bool), to func(ours, theirs []int32)) {
	type keyed struct {
		common
		at int32
	}
	var sides [2][]keyed
	for s := range sides {
		items := r.sides[s].items
		for i := range items {
			if r.sets[s][i] != 0 || r.broken[s][i] {
				continue
			}
			if k, ok := key(&items[i]); ok {
				sides[s] = append(sides[s], keyed{k, int32(i)})
			}
		}
		slices.SortFunc(sides[s], func(x, y keyed) int {
			return cmp.Or(x.compare(y.common), cmp.Compare(x.at, y.at))
		})
	}
	i, j := 0, 0
	for i < len(sides[0]) && j < len(sides[1]) {
		x, y := sides[0][i], sides[1][j]
		if c := x.compare(y.common); c < 0 {
			i++
			continue
		} else if c > 0 {
			j++
			continue
		}
		var group [2][]int32
		for i < len(sides[0]) && sides[0][i].common == x.common {
			group[0] = append(group[0], sides[0][i].at)
			i++
		}
		for j < len(sides[1]) && sides[1][j].common == x.common {
			group[1] = append(group[1], sides[1][j].at)
			j++
		}
		to(group[0], group[1])
	}
}

// exact settles what has the same reference, amount and date. Where one side has more of them than the other some were posted twice; which, nothing tells, so that all are offered together.
func (r *Result) exact() {
	r.groups(func(it *item) (common, bool) {
		return common{it.amount, it.ref, it.currency, it.day}, it.ref != 0 && it.day != noDay
	}, func(ours, theirs []int32) {
		if len(ours) != len(theirs) {
			r.settle(ours, theirs, Exact, false, fmt.Sprintf("posted twice: %d of ours against %d of theirs, the same throughout", len(ours), len(theirs)))
			return
		}
		for i := range ours {
			r.settle([]int32{ours[i]}, []int32{theirs[i]}, Exact, true, "the same reference, amount and date")
		}
	})
}

// byReference settles what has the same reference and amount, the nearest dates overall.
func (r *Result) byReference() {
	r.groups(func(it *item) (common, bool) {
		return common{amount: it.amount, text: it.ref, currency: it.currency}, it.ref != 0
	}, func(ours, theirs []int32) { r.pair(ours, theirs, Reference) })
}

// alike settles what has the same amount within the window.
func (r *Result) alike() {
	r.groups(func(it *item) (common, bool) { return common{amount: it.amount, currency: it.currency}, true },
		func(ours, theirs []int32) { r.pair(ours, theirs, Alike) })
}

// apart is how many days two items lie apart; ok is false where one has no date, which counts as within the window.
func apart(a, b *item) (days int32, ok bool) {
	if a.day == noDay || b.day == noDay {
		return 0, false
	}
	return max(a.day-b.day, b.day-a.day), true
}
