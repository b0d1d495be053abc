package spelling

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"sync"

	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Options say what is known of a column before its values are looked at.
type Options struct {
	Kind Kind // free where it is empty
	// Standards are right values, which need not be in the column: values are tied to one of them or to
	// nothing, and they are never tied to one another. With none the most frequent values are it.
	Standards []string
	// Forms are short forms of one's own beside those that are shipped: a word or a whole value, and what it
	// stands for.
	Forms map[string]string
	// Most is how many distinct values are compared beyond the order of words; 0 is no bound. With more,
	// the weaker rungs bring nothing.
	Most int
}

// Passed says why the weaker rungs of a column are passed over; "" where they are not. Ids and addresses of the
// web, nearly every one of which is different, are not spellings of one another however alike they are.
func (o Options) Passed(t *table.Table, c *table.Column) string {
	values, rows := 0, 0
	for code, n := range t.Counts(c) {
		if code > 0 && n > 0 {
			values++
			rows += int(n)
		}
	}
	read := c.Effective()
	switch {
	case o.Most > 0 && values > o.Most:
		return fmt.Sprintf("%s distinct values are more than the %s that are compared beyond the order of words", text.Grouped(values), text.Grouped(o.Most))
	case values > 1000 && values*10 > rows*9 && read.Kind != reading.Text && read.Kind != "":
		return "nearly every value is different, and they read as " + read.Words() + ": look for duplicates by this column rather than for spellings"
	}
	return ""
}

// Ladder groups the values of a column for every rung at once: by rung, the groups with evidence accepted
// down to it. Groups come with most rows first, then by standard value; a group in which nothing would
// change is left out. Blank values take no part.
//
// Beyond the order of words, groups are stars: each member is tied to the standard value itself, so that a
// chain of likenesses never holds together what its ends do not.
//
// Cost: O(distinct log distinct) and that of allPairs, on all cores; nothing is compared with everything.
func Ladder(t *table.Table, c *table.Column, known Decisions, o Options) [][]Group {
	out := make([][]Group, len(Rungs))
	var work sync.WaitGroup
	for rung := Crosswalk; rung <= Order; rung++ {
		work.Go(func() {
			if len(o.Standards) > 0 {
				out[rung] = newLadder(t, c, known, o, rung).groups(rung)
			} else {
				out[rung] = strict(t, c, known, rung)
			}
		})
	}
	if o.Passed(t, c) != "" {
		work.Wait()
		for rung := Forms; int(rung) < len(Rungs); rung++ {
			out[rung] = out[Order]
		}
		return out
	}
	l := newLadder(t, c, known, o, Order)
	l.climb()
	work.Wait()
	for rung := Forms; int(rung) < len(Rungs); rung++ {
		work.Go(func() { out[rung] = l.groups(rung) })
	}
	work.Wait()
	return out
}

// Find groups the values of a column of any kind, accepting evidence down to a rung.
func Find(t *table.Table, c *table.Column, known Decisions, accept Rung) []Group {
	if accept <= Order {
		return strict(t, c, known, accept)
	}
	return Ladder(t, c, known, Options{})[accept]
}

// class is values that are one on the strict evidence.
type class struct {
	part     []int // nodes
	standard string
	rows     int
	words    []string
	right    bool // one of the standard values that were given
}

// edge ties two classes; a is the one that is written more often.
type edge struct {
	a, b int
	rung Rung
	cost int
	why  string
}

type ladder struct {
	f       *finder
	kind    Kind
	own     map[string]string // short forms of the steward's: words, and what they stand for
	given   map[string]bool   // standard values that were given
	classes []class
	uses    map[string]int // of each word: the classes it stands in
	edges   []edge
	alone   []Group        // of each class, the group it is by itself; without members where it is one value
	changes []bool         // of each class, whether anything changes in that
	held    map[int][]edge // by class: those that are written alike and are something else
	known   map[[2]int]bool
}

// newLadder makes classes of the values that are one on the evidence down to a strict rung.
func newLadder(t *table.Table, c *table.Column, known Decisions, o Options, base Rung) *ladder {
	f := newFinder(t, c, known, true)
	l := &ladder{f: f, kind: cmp.Or(o.Kind, Free), given: map[string]bool{}, uses: map[string]int{}, held: map[int][]edge{}, known: map[[2]int]bool{}}
	l.own = make(map[string]string, len(o.Forms))
	for short, long := range o.Forms {
		l.own[strings.Join(text.Words(short), " ")] = long
	}
	if len(o.Standards) > 0 {
		l.give(o.Standards)
	}
	f.tie(base)
	for _, all := range f.members() {
		if len(all) > 1 {
			slices.SortFunc(all, func(a, b int) int { return f.rank(f.nodes[a], f.nodes[b]) })
		}
		for _, part := range f.split(all) {
			cl := class{part: part, standard: f.standard(part)}
			for _, n := range part {
				cl.rows += f.nodes[n].rows
				if v := f.nodes[n].value; l.given[v] && !cl.right {
					cl.standard, cl.right = v, true
				}
			}
			l.classes = append(l.classes, cl)
		}
	}
	slices.SortFunc(l.classes, func(a, b class) int {
		switch {
		case a.right != b.right && a.right:
			return -1
		case a.right != b.right:
			return 1
		case a.rows != b.rows:
			return cmp.Compare(b.rows, a.rows)
		}
		return cmp.Compare(a.standard, b.standard)
	})
	side(func(w, workers int) {
		for i := len(l.classes) * w / workers; i < len(l.classes)*(w+1)/workers; i++ {
			l.classes[i].words = text.Words(l.classes[i].standard)
		}
	})
	for i := range l.classes {
		cl := &l.classes[i]
		for j, w := range cl.words {
			if !slices.Contains(cl.words[:j], w) {
				l.uses[w]++
			}
		}
	}
	return l
}

// give adds standard values that the column has not.
func (l *ladder) give(standards []string) {
	have := map[string]int{}
	for i, n := range l.f.nodes {
		have[n.value] = i
	}
	for _, v := range standards {
		if strings.TrimSpace(v) == "" {
			continue
		}
		l.given[v] = true
		if _, ok := have[v]; !ok {
			have[v] = len(l.f.nodes)
			l.f.nodes = append(l.f.nodes, node{v, 0, table.FoldHash(v), false, true, len(l.f.nodes)})
		}
	}
	for i := range l.f.nodes { // any value may meet one of these
		l.f.nodes[i].meets = true
	}
}

// climb finds the evidence beyond the order of words.
func (l *ladder) climb() {
	defer l.byThemselves()
	l.forms()
	l.slips()
	l.sound()
	l.likeness()
	l.central()
	slices.SortStableFunc(l.edges, func(x, y edge) int {
		return cmp.Or(cmp.Compare(x.rung, y.rung), cmp.Compare(x.cost, y.cost), cmp.Compare(x.a, y.a), cmp.Compare(x.b, y.b))
	})
}

// byThemselves writes down the group that each class is without others, which all rungs begin with.
func (l *ladder) byThemselves() {
	l.alone, l.changes = make([]Group, len(l.classes)), make([]bool, len(l.classes))
	side(func(w, workers int) {
		for i := w; i < len(l.classes); i += workers {
			if cl := l.classes[i]; len(cl.part) > 1 {
				l.alone[i], l.changes[i] = l.f.groupOf(cl.part, cl.standard)
			}
		}
	})
}

// central puts, of classes that are equally frequent, those first that most others are near, so that they
// become the middle of their star.
func (l *ladder) central() {
	degree := make([]int, len(l.classes))
	for _, e := range l.edges {
		degree[e.a]++
		degree[e.b]++
	}
	order := make([]int, len(l.classes)) // class at each place
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, y := l.classes[a], l.classes[b]
		if x.right != y.right || x.rows != y.rows {
			return cmp.Compare(a, b)
		}
		return cmp.Or(cmp.Compare(degree[b], degree[a]), cmp.Compare(a, b))
	})
	place, classes := make([]int, len(order)), make([]class, len(order))
	for at, i := range order {
		place[i], classes[at] = at, l.classes[i]
	}
	l.classes = classes
	for i, e := range l.edges {
		a, b := place[e.a], place[e.b]
		l.edges[i].a, l.edges[i].b = min(a, b), max(a, b)
	}
	known := make(map[[2]int]bool, len(l.known))
	for pair := range l.known {
		a, b := place[pair[0]], place[pair[1]]
		known[[2]int{min(a, b), max(a, b)}] = true
	}
	l.known = known
	held := map[int][]edge{}
	for i, all := range l.held {
		for _, e := range all {
			held[place[i]] = append(held[place[i]], edge{a: place[e.a], b: place[e.b], why: e.why})
		}
	}
	l.held = held
}

// mostTogether is how many classes with the same key are compared with one another; of more, each is with the
// most frequent ones alone.
const mostTogether = 40

// together gives the pairs of classes with the same key to a function, the more frequent first.
func (l *ladder) together(key func(i int) string, to func(a, b int)) {
	keys := make([]string, len(l.classes))
	side(func(w, workers int) {
		for i := len(keys) * w / workers; i < len(keys)*(w+1)/workers; i++ {
			keys[i] = key(i)
		}
	})
	first := make(map[string]int, len(keys))
	more := map[int][]int{} // by the first class with a key: the others
	for i, k := range keys {
		if k == "" {
			continue
		}
		if at, ok := first[k]; ok {
			more[at] = append(more[at], i)
		} else {
			first[k] = i
		}
	}
	for i := range l.classes {
		rest, ok := more[i]
		if !ok {
			continue
		}
		all := append([]int{i}, rest...)
		for x, a := range all[:min(len(all), mostTogether)] {
			for _, b := range all[x+1:] {
				to(a, b)
			}
		}
	}
}

// tie adds an edge, unless it is there on stricter evidence or the classes are held apart.
func (l *ladder) tie(a, b int, rung Rung, cost int, why string) {
	if a > b {
		a, b = b, a
	}
	if a == b || l.known[[2]int{a, b}] {
		return
	}
	l.known[[2]int{a, b}] = true
	l.edges = append(l.edges, edge{a, b, rung, cost, why})
}

// keepOut notes that two classes written alike are two things.
func (l *ladder) keepOut(a, b int, why string) {
	if a > b {
		a, b = b, a
	}
	for _, pair := range [][2]int{{a, b}, {b, a}} {
		if h := l.held[pair[0]]; len(h) < maxHeld && !slices.ContainsFunc(h, func(e edge) bool { return e.b == pair[1] }) {
			l.held[pair[0]] = append(h, edge{a: pair[0], b: pair[1], why: why})
		}
	}
}

// maxHeld is how many values that are held apart a group lists.
const maxHeld = 20
