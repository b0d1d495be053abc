// Package spelling groups the values of a column that look like one thing written
// several ways, and says for each why it is there. Evidence is a ladder; each value is
// judged by the strictest rung that ties it to the standard value of its group.
package spelling

import (
	"cmp"
	"slices"
	"strings"

	"grandledger/core/table"
	"grandledger/core/text"
)

// Rung is a step of the ladder of evidence, strictest first.
type Rung int

// The rungs, strictest first.
const (
	Crosswalk Rung = iota // a decision somebody has already made
	Spelling              // letter case, spacing, punctuation, accents, invisible characters
	Order                 // the same words in another order, or a word repeated
	Forms                 // short forms, initials, titles, numerals, singular and plural
	Slips                 // a few letters mistyped, by length, and no digit
	Sound                 // the same by sound, word for word
	Likeness              // alike overall, rare words weighing more
)

// Rungs names the rungs as the API and the interface know them.
var Rungs = []string{"crosswalk", "spelling", "order", "forms", "slips", "sound", "likeness"}

// Decisions is what the crosswalk of a column already knows.
type Decisions struct {
	Standard map[string]string // variant -> standard value
	Apart    [][2]string       // values that must not become one
}

// Member is one value of a group. Why is empty for the standard value itself.
type Member struct {
	Value string `json:"value"`
	Rows  int    `json:"rows"`
	Rung  Rung   `json:"rung"`
	Why   string `json:"why"`
	// For and Against are what other columns of the rows testify (Testify).
	For     []string `json:"for,omitempty"`
	Against []string `json:"against,omitempty"`
}

// Group is values that look like one thing. The standard value need not be among the
// members: the crosswalk may know one that the column does not hold.
type Group struct {
	Standard string   `json:"standard"`
	Members  []Member `json:"members"` // most rows first
	Rows     int      `json:"rows"`
	Weakest  Rung     `json:"weakest"` // the weakest evidence that holds a member
	Held     []Held   `json:"held"`    // values that are written alike and are held to be something else
}

// Held is a value that is kept out of a group, and why.
type Held struct {
	Value string `json:"value"`
	Rows  int    `json:"rows"`
	Why   string `json:"why"`
}

// node is a value that takes part: one of the column's, or one the crosswalk knows
// (rows 0 and not among the members).
type node struct {
	value  string
	rows   int
	fold   uint64
	loose  bool
	meets  bool // another value, or one the crosswalk speaks of
	parent int
}

// strict groups the values of a column on evidence down to the order of words. Groups come with most
// rows first, then by standard value; a group in which nothing would change is left out. Blank values take
// no part.
//
// Cost: O(distinct) to pick the values that meet another, by what the dictionary
// remembers of them; then O(n log n) for those alone.
func strict(t *table.Table, c *table.Column, known Decisions, accept Rung) []Group {
	f := newFinder(t, c, known, false)
	f.tie(accept)
	return f.groups()
}

// newFinder takes the values in that meet another, or one the crosswalk speaks of; with every all that
// stand in rows and are not blank.
func newFinder(t *table.Table, c *table.Column, known Decisions, every bool) *finder {
	f := &finder{known: known, byValue: map[string]int{}, apart: map[[2]string]bool{}}
	for _, p := range known.Apart {
		f.apart[p], f.apart[[2]string{p[1], p[0]}] = true, true
	}
	counts, facts, words := t.Counts(c), c.Dict.Facts(), c.Dict.Words()
	spokenOf := hashesOf(known)
	for code := 1; code < len(counts); code++ {
		// A value that meets no other, nor one the crosswalk speaks of, is in no group.
		meets := facts.Traits[code]&table.MeetsAnother != 0 || words.Shared[code] || spokenOf[facts.Fold[code]] || spokenOf[words.Hash[code]]
		if (meets || every) && counts[code] > 0 && facts.Traits[code]&table.IsBlankValue == 0 {
			f.nodes = append(f.nodes, node{c.Dict.Value(uint32(code)), int(counts[code]), facts.Fold[code],
				facts.Traits[code]&table.LooseSpaces != 0, meets, len(f.nodes)})
		}
	}
	return f
}

// tie ties values by the evidence down to a rung.
func (f *finder) tie(accept Rung) {
	f.joinKnown()
	if accept >= Spelling {
		f.joinFolds()
	}
	if accept >= Order {
		f.joinWords()
	}
}

// hashesOf gives the hashes of all values that a crosswalk speaks of.
func hashesOf(known Decisions) map[uint64]bool {
	out := map[uint64]bool{}
	for variant, standard := range known.Standard {
		for _, v := range []string{variant, standard} {
			out[table.FoldHash(v)], out[table.WordHash(v)] = true, true
		}
	}
	return out
}

type finder struct {
	nodes   []node
	known   Decisions
	byValue map[string]int // only values the crosswalk speaks of
	apart   map[[2]string]bool
}

func (f *finder) root(i int) int {
	for f.nodes[i].parent != i {
		f.nodes[i].parent = f.nodes[f.nodes[i].parent].parent
		i = f.nodes[i].parent
	}
	return i
}

func (f *finder) join(a, b int) {
	a, b = f.root(a), f.root(b)
	f.nodes[max(a, b)].parent = min(a, b)
}

// joinKnown adds the crosswalk's values the column lacks and ties each variant to its
// standard value.
func (f *finder) joinKnown() {
	if len(f.known.Standard) == 0 {
		return
	}
	wanted := map[string]bool{}
	for variant, standard := range f.known.Standard {
		wanted[variant], wanted[standard] = true, true
	}
	for i, n := range f.nodes {
		if wanted[n.value] {
			f.byValue[n.value] = i
		}
	}
	absent := []string{}
	for v := range wanted {
		if _, ok := f.byValue[v]; !ok {
			absent = append(absent, v)
		}
	}
	slices.Sort(absent)
	for _, v := range absent {
		f.byValue[v] = len(f.nodes)
		f.nodes = append(f.nodes, node{v, 0, table.FoldHash(v), false, true, len(f.nodes)})
	}
	for variant, standard := range f.known.Standard {
		f.join(f.byValue[variant], f.byValue[standard])
	}
}

// joinFolds ties values with equal Fold: equal hashes first, the keys themselves only
// where hashes agree.
func (f *finder) joinFolds() {
	order := f.ordered(func(a, b node) int { return cmp.Compare(a.fold, b.fold) })
	for i := 0; i < len(order); {
		j := i + 1
		for j < len(order) && f.nodes[order[j]].fold == f.nodes[order[i]].fold {
			j++
		}
		if j-i > 1 {
			first := map[string]int{}
			for _, n := range order[i:j] {
				f.joinFirst(first, text.Fold(f.nodes[n].value), n)
			}
		}
		i = j
	}
}

// joinWords ties values with equal words in whatever order.
func (f *finder) joinWords() {
	first := map[string]int{}
	for i, n := range f.nodes {
		if !n.meets {
			continue
		}
		if key := text.WordKey(n.value); key != "" {
			f.joinFirst(first, key, i)
		}
	}
}

func (f *finder) joinFirst(first map[string]int, key string, n int) {
	if at, ok := first[key]; ok {
		f.join(at, n)
	} else {
		first[key] = n
	}
}

func (f *finder) ordered(compare func(a, b node) int) []int {
	var order []int
	for i, n := range f.nodes {
		if n.meets {
			order = append(order, i)
		}
	}
	slices.SortFunc(order, func(a, b int) int {
		return cmp.Or(compare(f.nodes[a], f.nodes[b]), cmp.Compare(a, b))
	})
	return order
}

func (f *finder) groups() []Group {
	out := []Group{}
	for _, all := range f.members() {
		if len(all) < 2 {
			continue
		}
		slices.SortFunc(all, func(a, b int) int { return f.rank(f.nodes[a], f.nodes[b]) })
		for _, part := range f.split(all) {
			if g, changes := f.group(part); changes {
				out = append(out, g)
			}
		}
	}
	slices.SortFunc(out, func(a, b Group) int {
		return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.Standard, b.Standard))
	})
	return out
}

// members lists the sets of values that are tied, each in the order of the column.
func (f *finder) members() [][]int {
	at := make([]int, len(f.nodes)) // place of the set of each root, from 1
	sizes := []int{}
	for i := range f.nodes {
		r := f.root(i)
		if at[r] == 0 {
			sizes = append(sizes, 0)
			at[r] = len(sizes)
		}
		sizes[at[r]-1]++
	}
	room, out := make([]int, len(f.nodes)), make([][]int, len(sizes))
	for i, size := range sizes {
		out[i], room = room[:0:size], room[size:]
	}
	for i := range f.nodes {
		set := &out[at[f.root(i)]-1]
		*set = append(*set, i)
	}
	return out
}

// rank puts the value fit to be the standard first: one without loose spaces, the
// most used, and of two equally used the one earlier in the alphabet.
func (f *finder) rank(a, b node) int {
	if a.loose != b.loose {
		if b.loose {
			return -1
		}
		return 1
	}
	return cmp.Or(cmp.Compare(b.rows, a.rows), cmp.Compare(a.value, b.value))
}

// split takes a set apart where two of its values are to be kept apart: each value
// joins the first part in which nothing speaks against it.
func (f *finder) split(all []int) [][]int {
	if len(f.apart) == 0 {
		return [][]int{all}
	}
	var parts [][]int
next:
	for _, n := range all {
		for i, part := range parts {
			if !slices.ContainsFunc(part, func(m int) bool { return f.apart[[2]string{f.nodes[n].value, f.nodes[m].value}] }) {
				parts[i] = append(part, n)
				continue next
			}
		}
		parts = append(parts, []int{n})
	}
	return parts
}

func (f *finder) group(part []int) (Group, bool) { return f.groupOf(part, f.standard(part)) }

// groupOf writes a group of a standard value down, and says whether anything would change.
func (f *finder) groupOf(part []int, standard string) (Group, bool) {
	g := Group{Standard: standard, Held: []Held{}}
	changes := false
	for _, n := range part {
		v := f.nodes[n]
		if v.rows == 0 {
			continue
		}
		m := Member{Value: v.value, Rows: v.rows}
		if v.value != g.Standard {
			m.Rung, m.Why = f.evidence(v.value, g.Standard, part)
			g.Weakest = max(g.Weakest, m.Rung)
			changes = true
		}
		g.Rows += v.rows
		g.Members = append(g.Members, m)
	}
	slices.SortFunc(g.Members, func(a, b Member) int {
		return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.Value, b.Value))
	})
	return g, changes
}

// standard is what the crosswalk says, else the first by rank. Where the crosswalk
// knows several, the one that most rows of the group stand for wins.
func (f *finder) standard(part []int) string {
	votes := map[string]int{}
	for _, n := range part {
		if s, ok := f.known.Standard[f.nodes[n].value]; ok {
			votes[s] += f.nodes[n].rows + 1
		}
	}
	best := ""
	for s, rows := range votes {
		if best == "" || rows > votes[best] || rows == votes[best] && s < best {
			best = s
		}
	}
	if best != "" {
		return best
	}
	return f.nodes[part[0]].value
}

// evidence finds the strictest rung that ties a value to the standard, directly or
// through a variant that the crosswalk already maps to it.
func (f *finder) evidence(value, standard string, part []int) (Rung, string) {
	if f.known.Standard[value] == standard {
		return Crosswalk, "in the crosswalk"
	}
	if rung, why := alike(value, standard); why != "" {
		return rung, why
	}
	best, why := Order+1, ""
	through := func(known bool) {
		for _, n := range part {
			other := f.nodes[n].value
			if other == value || (f.known.Standard[other] == standard) != known {
				continue
			}
			if r, w := alike(value, other); w != "" && r < best {
				best, why = r, w+" from “"+other+"”"
			}
		}
	}
	if through(true); why == "" {
		through(false)
	}
	if why == "" {
		return Order, "through other spellings of the group"
	}
	return best, why
}

// alike judges two values by themselves; an empty why means no rung ties them.
func alike(a, b string) (Rung, string) {
	if text.Fold(a) == text.Fold(b) {
		return Spelling, strings.Join(text.Differences(a, b), ", ")
	}
	if text.WordKey(a) != text.WordKey(b) {
		return 0, ""
	}
	wa, wb := text.Words(a), text.Words(b)
	if len(wa) != len(wb) {
		return Order, "a word repeated"
	}
	return Order, "same words, other order"
}
