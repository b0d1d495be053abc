package spelling

import (
	"cmp"
	"slices"
)

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
		e = l.through(e, centre, why)
		if centre[e.b] != e.b || followers[e.b] > 0 || centre[e.a] != e.a || l.apart(e.a, e.b) {
			continue
		}
		if other := l.alsoNear(e, towards[e.b], centre); other >= 0 {
			doubtful[e.a] = append(doubtful[e.a], edge{a: e.a, b: e.b, why: asNear + " “" + l.classes[other].standard + "”"})
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

// through gives, for an edge to a class that is itself tied as another form of its standard value, the edge to that: both
// forms are the same value, so what is a slip of one is a slip of the other. Any other edge comes back as it is.
func (l *ladder) through(e edge, centre []int, why []edge) edge {
	for _, ends := range [2][2]int{{e.a, e.b}, {e.b, e.a}} {
		form, other := ends[0], ends[1]
		c := centre[form]
		if c == form || why[form].rung != Forms || why[form].cost > 0 || e.rung == Forms || centre[other] != other || other == c {
			continue
		}
		if x, y := l.classes[c], l.classes[other]; !y.right && (x.right || x.rows >= y.rows) {
			return edge{c, other, e.rung, e.cost, e.why + " from “" + l.classes[form].standard + "”"}
		}
	}
	return e
}

// asNear begins what is said of a value that may belong to another as well.
const asNear = "as near to"

// alsoNear finds another class that the lesser one of an edge is as near to, on the same evidence, and that
// is not much less frequent: nothing is guessed then. It is -1 where there is none.
func (l *ladder) alsoNear(e edge, others []edge, centre []int) int {
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
