package linkage

import (
	"math"
	"math/rand/v2"
)

// dependent finds the attributes that go together among pairs that are two things, such as city and country, since agreement on
// both says less than the sum: for each the more telling attribute, given which it agrees most beyond chance, if five
// times and more (one parent each, as in C. Chow and C. Liu, IEEE Transactions 1968).
func (r *records) dependent(w []Weights, across bool) {
	telling := func(i int) float64 { return tail(w[i].U, r.attributes[i].Kind.near()) } // the less, the more telling
	others := 0
	for _, a := range r.attributes {
		if a.Kind.class() != equals {
			others++
		}
	}
	parents := make([]*agreeing, len(w))
	for i := range w {
		best := 2.0
		if k := r.attributes[i].Kind; k == Coordinates || k.learned() {
			continue // the one tells more than what it goes together with, the other is learned
		}
		for j := range w {
			// Where hardly two agree by chance, those that do are one thing and teach nothing of others. Pairs that agree are drawn from equal
			// values, of places from those in one neighbourhood.
			agree := w[j].U[r.attributes[j].Kind.same()]
			if r.attributes[j].Kind == Coordinates {
				agree = telling(j)
			}
			if i == j || telling(j) >= telling(i) || agree*float64(r.len()) < byChance/float64(max(1, others-1)) {
				continue
			}
			if parents[j] == nil {
				parents[j] = r.agreeing(j)
			}
			u, n := r.given(i, j, parents[j], across)
			if n < 200 {
				continue
			}
			more := tail(u, r.attributes[i].Kind.near()) / telling(i)
			if r.attributes[j].Kind == Coordinates && more > 2 {
				more = math.Inf(1) // whatever is said of places goes together with where they lie
			}
			if more > best {
				best = more
				w[i].Given, w[i].UGiven, w[i].given = r.attributes[j].Name, u, j
			}
		}
	}
}

// byChance is how many records one must agree with by chance on an attribute for those to be two things mostly; fewer where
// other attributes tell these from pairs that are one thing.
const byChance = 6

// agreeing are sampled records that share a key of an attribute with others.
type agreeing struct {
	by  map[uint64][]uint32
	all []sharing
}

// sharing is a record under a key that another has too.
type sharing struct {
	key    uint64
	record uint32
}

func (r *records) agreeing(j int) *agreeing {
	out := &agreeing{by: map[uint64][]uint32{}}
	parent, key := r.attributes[j], r.parts[j][0]
	if parent.Kind == Coordinates {
		key = r.parts[j][1]
	}
	sample := r.sample(sampled)
	for _, rec := range sample {
		for _, k := range key.of(parent.codes[rec]) {
			out.by[k] = append(out.by[k], rec)
		}
	}
	for _, rec := range sample {
		for _, k := range key.of(parent.codes[rec]) {
			if len(out.by[k]) > 1 {
				out.all = append(out.all, sharing{k, rec})
			}
		}
	}
	return out
}

// given is u of one attribute among pairs that agree on another, drawn from the records that share a key of that. Pairs that agree on a
// third of the others and more may be one thing, and are left out.
func (r *records) given(i, j int, of *agreeing, across bool) (u []float64, n int) {
	g := rand.New(rand.NewPCG(19, uint64(i*100+j)))
	parent, child := r.attributes[j], r.attributes[i]
	p, c := parent.comparer(), child.comparer()
	u = make([]float64, child.Kind.levels())
	others := make([]*comparer, 0, len(r.attributes))
	for at, a := range r.attributes {
		if at != i && at != j {
			others = append(others, a.comparer())
		}
	}
	if len(of.all) == 0 {
		return u, 0
	}
	for range 6000 {
		x := of.all[g.IntN(len(of.all))]
		block := of.by[x.key]
		y := block[g.IntN(len(block))]
		if x.record == y || across && r.table(x.record) == r.table(y) {
			continue
		}
		if l := p.level(parent.codes[x.record], parent.codes[y]); !tells(l) || l < parent.Kind.near() {
			continue
		}
		agree, told := 0, 0
		for _, o := range others {
			if l := o.level(o.codes[x.record], o.codes[y]); tells(l) && o.Kind.class() != equals {
				told++
				if l >= o.Kind.half() {
					agree++
				}
			}
		}
		if told > 0 && 3*agree > told {
			continue
		}
		if l := c.level(child.codes[x.record], child.codes[y]); tells(l) {
			u[l]++
			n++
		}
	}
	for l := range u {
		u[l] = (u[l] + 0.5) / (float64(n) + 0.5*float64(len(u)))
	}
	return u, n
}
