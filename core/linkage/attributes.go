package linkage

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Attribute is what is compared: a column of each table, two of them for coordinates (latitude and longitude).
type Attribute struct {
	Name    string     `json:"name" yaml:"name"`
	Kind    Kind       `json:"kind" yaml:"kind"`
	Columns [][]string `json:"columns" yaml:"columns"` // by table
	// Within are three distances that rise, within which numbers agree less and less, instead of shares of the larger one.
	Within []float64 `json:"within,omitempty" yaml:"within,omitempty,flow"`
	// Crosswalk is the one whose standard values its cells are compared by.
	Crosswalk string `json:"crosswalk,omitempty" yaml:"crosswalk,omitempty"`
}

// never says whether a column is no evidence: its name says that it is an id, or it numbers the rows of its own table.
func never(c *column) bool {
	return slices.Equal(c.name, []string{"id"}) || c.filled == 0 || c.running()
}

// maxAttributes is how many attributes are compared.
const maxAttributes = 12

// Propose pairs the columns of tables by name, kind and content and says what each pair is. Of one table every column with something to
// tell is an attribute. It refuses tables that have nothing in common. Cost: O(distinct) for each column.
func Propose(tables []*table.Table) ([]Attribute, error) {
	all := make([][]*column, len(tables))
	for i, t := range tables {
		found := make([]*column, len(t.Columns()))
		side(len(found), func(c int) { found[c] = looked(t, t.Columns()[c]) })
		all[i] = slices.DeleteFunc(found, never)
	}
	var out []Attribute
	used := make([]map[*column]bool, len(tables))
	for i := range used {
		used[i] = map[*column]bool{}
	}
	// Each column of the first table takes the best of each other table.
	type paired struct {
		columns []*column
		score   float64
	}
	var pairs []paired
	for _, c := range all[0] {
		p := paired{columns: []*column{c}}
		for i := 1; i < len(tables); i++ {
			best, score := (*column)(nil), 0.0
			for _, other := range all[i] {
				if s := affinity(c, other); s > score {
					best, score = other, s
				}
			}
			p.columns = append(p.columns, best)
			p.score += score
		}
		pairs = append(pairs, p)
	}
	slices.SortStableFunc(pairs, func(a, b paired) int { return cmp.Compare(b.score, a.score) })
	for _, p := range pairs {
		var names [][]string
		for i, c := range p.columns {
			if c == nil || used[i][c] {
				names = nil
				break
			}
			names = append(names, []string{c.Name})
		}
		if names == nil || len(tables) == 1 && useless(p.columns[0]) {
			continue
		}
		for i, c := range p.columns {
			used[i][c] = true
		}
		out = append(out, Attribute{Name: p.columns[0].Name, Kind: kindOf(p.columns), Columns: names})
	}
	out = coordinates(all, out)
	if len(out) == 0 && len(tables) == 1 {
		return nil, problem.New("Give a table with columns that tell its records from one another", "there is nothing to compare: every column is an id, blank, or has one value (%s)", namesOf(tables))
	}
	if len(out) == 0 {
		return nil, problem.New("Say which columns are the same with --spec, or look whether the right files were given", "the tables have no column in common: %s", namesOf(tables))
	}
	return out[:min(len(out), maxAttributes)], nil
}

// useless says whether a column tells nothing of which records of one table are one thing: it has one value.
func useless(c *column) bool { return c.distinct < 2 }

func namesOf(tables []*table.Table) string {
	var out []string
	for _, t := range tables {
		var names []string
		for _, c := range t.Columns() {
			names = append(names, c.Name)
		}
		out = append(out, strings.Join(names, ", "))
	}
	return strings.Join(out, " against ")
}

// kindOf is the kind under which columns are compared.
func kindOf(columns []*column) Kind {
	kinds := map[Kind]int{}
	for _, c := range columns {
		kinds[c.kind]++
	}
	if len(kinds) == 1 {
		return columns[0].kind
	}
	of := map[class]Kind{texts: Text, words: Word, codes: Code}
	for _, way := range []class{texts, words, codes} { // one with words makes all text
		for k := range kinds {
			if k.class() == way {
				for _, c := range columns { // the one that says more than its way to compare, if they agree so far
					if c.kind.class() == way && c.kind != of[way] && kinds[c.kind]+kinds[of[way]] == len(columns) {
						return c.kind
					}
				}
				return of[way]
			}
		}
	}
	return columns[0].kind
}

// affinity says how likely two columns hold the same of things, from 0: by their names, and by the values and words they share.
func affinity(a, b *column) float64 {
	if !comparable(a.kind, b.kind) {
		return 0
	}
	name := 0.0
	for _, x := range a.name {
		for _, y := range b.name {
			s := 0.0
			switch {
			case x == y:
				s = 1
			case len(x) > 2 && len(y) > 2 && (strings.HasPrefix(x, y) || strings.HasPrefix(y, x)):
				s = 0.9
			case text.JaroWinkler(x, y) > 0.9:
				s = 0.7
			}
			name = max(name, s/math.Sqrt(float64(max(len(a.name), len(b.name)))))
		}
	}
	content := 0.0
	switch {
	case a.kind.class() == numbers && b.kind.class() == numbers:
		if low, hi := max(a.low, b.low), min(a.hi, b.hi); hi > low {
			content = 0.3 * (hi - low) / (max(a.hi, b.hi) - min(a.low, b.low))
		}
		content += 0.3 * shared(a.values, b.values)
	case a.kind == Country && b.kind == Country:
		content = 0.6
	default:
		content = max(shared(a.values, b.values), 0.8*shared(a.words, b.words))
	}
	if name < 0.5 && content < 0.25 {
		return 0
	}
	return name + 1.2*content
}

func comparable(a, b Kind) bool {
	if a == "" || b == "" {
		return false
	}
	worded := func(k Kind) bool { return k.class() == texts || k.class() == words || k == Category }
	coded := func(k Kind) bool { return k.class() == codes || k.class() == numbers || k.class() == years }
	return a == b || worded(a) && worded(b) || coded(a) && coded(b) || a.class() == codes && b.class() == texts || a.class() == texts && b.class() == codes
}

// shared is the share of the smaller set that is in the larger.
func shared(a, b map[string]int) float64 {
	if len(a) > len(b) {
		a, b = b, a
	}
	if len(a) == 0 {
		return 0
	}
	n := 0
	for v := range a {
		if _, ok := b[v]; ok {
			n++
		}
	}
	return float64(n) / float64(len(a))
}

// coordinates joins a latitude and a longitude into one attribute.
func coordinates(all [][]*column, out []Attribute) []Attribute {
	var names [][]string
	for _, columns := range all {
		lat, lon := "", ""
		for _, c := range columns {
			switch {
			case c.kind != Number:
			case c.named("lat", "latitude") && c.low >= -90 && c.hi <= 90:
				lat = c.Name
			case c.named("lon", "lng", "long", "longitude") && c.low >= -180 && c.hi <= 360:
				lon = c.Name
			}
		}
		if lat == "" || lon == "" {
			return out
		}
		names = append(names, []string{lat, lon})
	}
	out = slices.DeleteFunc(out, func(a Attribute) bool {
		for i, c := range a.Columns {
			if slices.Contains(names[i], c[0]) {
				return true
			}
		}
		return false
	})
	return append([]Attribute{{Name: "coordinates", Kind: Coordinates, Columns: names}}, out...)
}

// check refuses attributes that the tables cannot have.
func check(tables []*table.Table, attributes []Attribute) error {
	if len(attributes) == 0 || len(attributes) > maxAttributes {
		return problem.New(fmt.Sprintf("Give 1 to %d", maxAttributes), "there is nothing to compare, or more than %d attributes", maxAttributes)
	}
	for _, a := range attributes {
		if _, ok := classes[a.Kind]; !ok {
			var names []string
			for _, k := range Kinds() {
				names = append(names, string(k))
			}
			return problem.New("Use "+strings.Join(names, ", "), "%s: there is no kind %q", a.Name, a.Kind)
		}
		if len(a.Within) > 0 && (a.Kind != Number || len(a.Within) != 3 || a.Within[0] <= 0 || !slices.IsSorted(a.Within)) {
			return problem.New("Give three that rise, or leave them out", "%s: numbers agree within three distances", a.Name)
		}
		if len(a.Columns) != len(tables) {
			return problem.New("Give a list of columns for each table", "%s: columns of %d tables, there are %d", a.Name, len(a.Columns), len(tables))
		}
		for i, names := range a.Columns {
			if want := map[bool]int{true: 2, false: 1}[a.Kind == Coordinates]; len(names) != want {
				return problem.New("Coordinates need two columns, all else one", "%s: %d columns", a.Name, len(names))
			}
			for _, name := range names {
				if _, _, err := tables[i].Column(name); err != nil {
					return problem.New("Look at the names of its columns", "%s: table %d has no column %q", a.Name, i+1, name)
				}
			}
		}
	}
	return nil
}

// KindOf proposes the kind under which columns are compared, one of each table. Cost: O(distinct).
func KindOf(names [][]string, tables ...*table.Table) Kind {
	var columns []*column
	for i, t := range tables {
		c, _, err := t.Column(names[i][0])
		if err != nil {
			return Text
		}
		columns = append(columns, looked(t, c))
	}
	columns = slices.DeleteFunc(columns, func(c *column) bool { return c.filled == 0 })
	if len(columns) == 0 {
		return Text
	}
	return kindOf(columns)
}

// Alike finds the column of another table that holds what a column does, by its name, its values and their words; "" where none does. Cost: O(distinct) for each column.
func Alike(t *table.Table, name string, other *table.Table, but string) string {
	c, _, err := t.Column(name)
	if err != nil {
		return ""
	}
	one := looked(t, c)
	best, score := "", 0.0
	for _, o := range other.Columns() {
		if o.Name == but {
			continue
		}
		two := looked(other, o)
		s := affinity(one, two)
		if s == 0 && (two.kind.class() == texts || two.kind.class() == words) && slices.Contains(two.name, "name") {
			s = 0.01
		}
		if s > score {
			best, score = o.Name, s
		}
	}
	return best
}
