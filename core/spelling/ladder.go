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
	given   map[string]bool // standard values that were given
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
	slices.SortStableFunc(l.classes, func(a, b class) int {
		if a.right != b.right {
			return map[bool]int{true: -1, false: 1}[a.right]
		}
		return cmp.Or(cmp.Compare(b.rows, a.rows), cmp.Compare(a.standard, b.standard))
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

// forms ties short forms to what they stand for.
func (l *ladder) forms() {
	l.together(func(i int) string { return strings.Join(formed(l.classes[i].standard, l.kind), " ") },
		func(a, b int) { l.tie(a, b, Forms, 0, shortened(l.classes[a].words, l.classes[b].words)) })
	if l.kind == Person {
		return
	}
	// Initials stand for one thing or for none: where several could be meant nothing is guessed.
	stands := map[string][]int{}
	for i, cl := range l.classes {
		for _, letters := range initials(cl.standard) {
			stands[letters] = append(stands[letters], i)
		}
	}
	for i, cl := range l.classes {
		letters, ok := acronym(cl.standard)
		if !ok || len(cl.words) > 1 && len(strings.Join(cl.words, "")) != len(letters) {
			continue
		}
		if of := stands[letters]; len(of) == 1 && of[0] != i {
			l.tie(i, of[0], Forms, 1, "initials: “"+strings.ToUpper(letters)+"” for “"+l.classes[of[0]].standard+"”")
		}
	}
}

// shortened says which words of two values stand for one another.
func shortened(a, b []string) string {
	onlyA, onlyB := without(a, b), without(b, a)
	if len(onlyA) == 0 && len(onlyB) == 0 {
		return "the same words"
	}
	say := func(words []string) string { return "“" + strings.Join(words, " ") + "”" }
	switch {
	case len(onlyA) == 0:
		return "without " + say(onlyB)
	case len(onlyB) == 0:
		return "without " + say(onlyA)
	}
	return "another form: " + say(onlyB) + " for " + say(onlyA)
}

// slips ties values that are few edits apart. Values that end in a word which very many end in, such as Ltd,
// are compared without it and with one another, as the index of segments finds nothing but that word in
// them; those whose last word is a slip of it are compared with these too.
func (l *ladder) slips() {
	folds := make([]string, len(l.classes))
	var others []int // classes that end in no such word
	tails := l.tails()
	ending := make([][]headOf, len(tails))
	for i, cl := range l.classes {
		folds[i] = text.Fold(cl.standard)
		at := -1
		for t, tail := range tails {
			last := ""
			if n := len(cl.words); n > 1 {
				last = cl.words[n-1]
			}
			switch head, ends := strings.CutSuffix(folds[i], last); {
			case last == "" || !ends || head == "":
			case last == tail:
				at = t
				ending[t] = append(ending[t], headOf{i, head, 0})
			case len(last) > 2:
				if d := text.Distance(last, tail, 2); d <= 2 && d < len(tail)-1 {
					ending[t] = append(ending[t], headOf{i, head, d})
				}
			}
		}
		if at < 0 {
			others = append(others, i)
		}
	}
	plain := make([]string, len(others))
	for n, i := range others {
		plain[n] = folds[i]
	}
	for _, n := range allPairs(plain, 0) {
		l.slip(others[n.a], others[n.b], int(n.edits), folds)
	}
	for t, heads := range ending {
		plain := make([]string, len(heads))
		for n, h := range heads {
			plain[n] = h.fold
		}
		for _, n := range allPairs(plain, len(tails[t])) {
			a, b := heads[n.a], heads[n.b]
			if edits := int(n.edits) + a.edits + b.edits; edits <= slips(min(len(folds[a.class]), len(folds[b.class]))) {
				l.slip(a.class, b.class, edits, folds)
			}
		}
		l.sameHeads(heads, folds)
	}
}

// headOf is a class without its last word, which is some edits away from a frequent one.
type headOf struct {
	class int
	fold  string
	edits int
}

// sameHeads ties values that differ in their last word alone.
func (l *ladder) sameHeads(heads []headOf, folds []string) {
	by := map[string]int{}
	for n, h := range heads {
		if h.edits == 0 {
			by[h.fold] = n + 1
		}
	}
	for _, h := range heads {
		if n := by[h.fold]; h.edits > 0 && n > 0 && h.edits <= slips(min(len(folds[h.class]), len(folds[heads[n-1].class]))) {
			l.slip(heads[n-1].class, h.class, h.edits, folds)
		}
	}
}

// frequentTail is how many classes end in a word that is taken off them, and the share of all it must be.
const (
	frequentTail = 2000
	tailShare    = 200
)

// tails lists the words that very many classes end in.
func (l *ladder) tails() []string {
	ends := map[string]int{}
	for _, cl := range l.classes {
		if n := len(cl.words); n > 1 && len(cl.words[n-1]) > 2 {
			ends[cl.words[n-1]]++
		}
	}
	var out []string
	for w, n := range ends {
		if n >= max(frequentTail, len(l.classes)/tailShare) {
			out = append(out, w)
		}
	}
	slices.Sort(out)
	return out
}

// slip ties two classes that are some edits apart, or holds them apart.
func (l *ladder) slip(a, b, edits int, folds []string) {
	if edits == 0 || first(folds[a]) != first(folds[b]) && edits == 1 && slips(min(len(folds[a]), len(folds[b]))) < 2 {
		return // a slip in the first letter is rare, and counts for two
	}
	if why := l.two(a, b); why != "" {
		l.keepOut(a, b, why)
		return
	}
	l.tie(a, b, Slips, edits, slipWords(folds[a], folds[b], edits))
}

func first(v string) rune {
	for _, c := range v {
		return c
	}
	return 0
}

// Two values are two things, however alike, where both stand in many rows, or differ in words that others
// use too.
const (
	frequentRows  = 5 // rows from which a value is no slip of one that is less than fourfold
	frequentTimes = 4
	oftenUsed     = 20 // classes from which a word is so usual that one used once is a slip of it
	usedWords     = 3  // classes from which a word is no slip of another such
)

// two says why two classes that are written alike are two things; "" where nothing says so.
func (l *ladder) two(a, b int) string {
	x, y := l.classes[a], l.classes[b]
	onlyX, onlyY := without(x.words, y.words), without(y.words, x.words)
	oneEach := len(onlyX) == 1 && len(onlyY) == 1 && len(x.words) > 1
	why := heldApart(x.words, y.words)
	if why == shortWord && min(l.uses[onlyX[0]], l.uses[onlyY[0]]) == 1 && max(l.uses[onlyX[0]], l.uses[onlyY[0]]) >= oftenUsed {
		why = "" // a word used once beside one that is used very often
	}
	if why != "" {
		return why
	}
	if few := min(x.rows, y.rows); !x.right && !y.right && few >= frequentRows && few*frequentTimes > max(x.rows, y.rows) {
		return "both are written often"
	}
	if oneEach && l.uses[onlyX[0]] >= usedWords && l.uses[onlyY[0]] >= usedWords {
		return "“" + onlyX[0] + "” and “" + onlyY[0] + "” are both words that others use"
	}
	return ""
}

// soundsLike is the likeness of the letters that words of one sound must have besides.
const soundsLike = 0.84

// sound ties values that sound alike word for word, by two codes.
func (l *ladder) sound() {
	l.together(func(i int) string {
		words := l.classes[i].words
		if len(words) > 6 {
			return ""
		}
		var key []string
		letters := 0
		for _, w := range words {
			code := text.Soundex(w)
			if code == "" {
				return ""
			}
			letters += len(w)
			key = append(key, code)
		}
		if letters < 5 {
			return ""
		}
		return strings.Join(key, " ")
	}, func(a, b int) {
		x, y := l.classes[a].words, l.classes[b].words
		for i, w := range x {
			if w != y[i] && (text.Cologne(w) != text.Cologne(y[i]) || text.JaroWinkler(w, y[i]) < soundsLike) {
				return
			}
		}
		if why := l.two(a, b); why != "" {
			l.keepOut(a, b, why)
			return
		}
		l.tie(a, b, Sound, 0, "sounds the same")
	})
}

// groups makes stars of the classes: each is tied to a more frequent one by the strictest evidence there
// is, unless that is itself tied to another, or others are tied to it already.
func (l *ladder) groups(accept Rung) []Group {
	centre, why, followers := make([]int, len(l.classes)), make([]edge, len(l.classes)), make([]int, len(l.classes))
	for i := range centre {
		centre[i] = i
	}
	towards := make([][]edge, len(l.classes)) // of each class, the edges to more frequent ones
	doubtful := map[int][]edge{}              // of each class, those that are as near to another
	for _, e := range l.edges {
		towards[e.b] = append(towards[e.b], e)
	}
	for _, e := range l.edges {
		if e.rung > accept {
			break
		}
		if centre[e.b] != e.b || followers[e.b] > 0 || centre[e.a] != e.a || l.apart(e.a, e.b) {
			continue
		}
		if other := l.asNear(e, towards[e.b], centre); other >= 0 {
			doubtful[e.a] = append(doubtful[e.a], edge{a: e.a, b: e.b, why: "as near to “" + l.classes[other].standard + "”"})
			continue
		}
		centre[e.b], why[e.b] = e.a, e
		followers[e.a]++
	}
	tied := map[int][]int{}
	for i, c := range centre {
		if c != i {
			tied[c] = append(tied[c], i)
		}
	}
	out := []Group{}
	for i, cl := range l.classes {
		if centre[i] != i || len(cl.part)+len(tied[i]) < 2 || len(l.given) > 0 && !cl.right {
			continue
		}
		if g, changes := l.group(i, tied[i], why, centre, doubtful[i]); changes {
			out = append(out, g)
		}
	}
	slices.SortStableFunc(out, func(a, b Group) int {
		return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.Standard, b.Standard))
	})
	return out
}

// asNear finds another class that the lesser one of an edge is as near to, on the same evidence, and that
// is not much less frequent: nothing is guessed then. It is -1 where there is none.
func (l *ladder) asNear(e edge, others []edge, centre []int) int {
	for _, o := range others {
		if o.a == e.a || o.rung != e.rung || o.cost != e.cost || centre[o.a] == e.a || centre[e.a] == o.a || len(l.given) == 0 && l.near(e.a, o.a) {
			continue
		}
		if x, y := l.classes[e.a], l.classes[o.a]; x.right && y.right || x.right == y.right && y.rows*frequentTimes > x.rows {
			return o.a
		}
	}
	return -1
}

// near says whether two classes are tied by themselves.
func (l *ladder) near(a, b int) bool { return l.known[[2]int{min(a, b), max(a, b)}] }

// apart says whether somebody keeps values of two classes apart, or the crosswalk knows another standard
// value for each.
func (l *ladder) apart(a, b int) bool {
	x, y := l.classes[a], l.classes[b]
	if len(l.given) > 0 && x.right == y.right {
		return true // two standard values, or none
	}
	_, knownX := l.f.known.Standard[x.standard]
	_, knownY := l.f.known.Standard[y.standard]
	if knownX && knownY {
		return true
	}
	if len(l.f.apart) == 0 {
		return false
	}
	for _, n := range x.part {
		for _, m := range y.part {
			if l.f.apart[[2]string{l.f.nodes[n].value, l.f.nodes[m].value}] {
				return true
			}
		}
	}
	return l.f.apart[[2]string{x.standard, y.standard}]
}

// group writes a star down.
func (l *ladder) group(i int, tied []int, why []edge, centre []int, doubtful []edge) (Group, bool) {
	var g Group
	var changes bool
	if l.alone != nil && len(l.classes[i].part) > 1 {
		g, changes = l.alone[i], l.changes[i]
		g.Members, g.Held = slices.Clone(g.Members), []Held{}
	} else {
		g, changes = l.f.groupOf(l.classes[i].part, l.classes[i].standard)
	}
	for _, j := range tied {
		e, cl := why[j], l.classes[j]
		for _, n := range cl.part {
			v := l.f.nodes[n]
			if v.rows == 0 {
				continue
			}
			m := Member{Value: v.value, Rows: v.rows, Rung: e.rung, Why: e.why}
			if v.value != cl.standard {
				if _, also := alike(v.value, cl.standard); also != "" {
					m.Why += "; " + also
				}
			}
			g.Members, g.Rows, changes = append(g.Members, m), g.Rows+v.rows, true
		}
		g.Weakest = max(g.Weakest, e.rung)
	}
	slices.SortFunc(g.Members, func(a, b Member) int {
		return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.Value, b.Value))
	})
	for _, h := range slices.Concat(l.held[i], doubtful)[:min(maxHeld, len(l.held[i])+len(doubtful))] {
		if centre[h.b] != i {
			g.Held = append(g.Held, Held{l.classes[h.b].standard, l.classes[h.b].rows, h.why})
		}
	}
	return g, changes
}
