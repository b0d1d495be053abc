package linkage

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"grandledger/core/join"
	"grandledger/core/problem"
	"grandledger/core/survivorship"
	"grandledger/core/table"
)

// Keeping is what golden records keep from earlier ones. Without it they are numbered.
type Keeping struct {
	IDs   []int64 // the lasting identifier of each group of Groups
	Picks map[Picking]Picked
}

// Picking is what a value is picked for, by hand.
type Picking struct {
	ID        int64
	Attribute string
}

// Picked is a value that was picked of others, as Of said them.
type Picked struct{ Value, Of string }

// Golden are golden records: one for each group of Groups.
type Golden struct {
	Table  *table.Table
	Differ map[string]int // by column, the records whose sources do not agree
	Asks   int            // values that were picked by hand of others than there are now, which is why they do not hold
}

// Groups gives the records of each golden one by their keys: the clusters, and behind them each record that is in none. Cost: that of Key for each record.
func (r *Result) Groups(tables []*table.Table) [][]string {
	g := r.groups()
	out := make([][]string, g.Len())
	keys := make([][]string, len(tables))
	side(len(tables), func(t int) {
		keys[t] = make([]string, tables[t].Rows())
		for row := range keys[t] {
			keys[t][row] = Key(tables[t], row)
		}
	})
	for i, group := range g.Group {
		row := r.records.row(uint32(i))
		out[group] = append(out[group], keys[row.Table][row.Row])
	}
	return out
}

// Golden makes one record of each cluster, and of each record that is in none: a row with its identifier, how many records it was made of, and a value of each
// attribute by its rule in Spec.Survivorship, the most frequent where there is none. A value that was picked by hand holds as long as what it was picked of is the same.
//
// Cost: that of stacking the tables, and of survivorship.Make for each column.
func (r *Result) Golden(tables []*table.Table, keeping Keeping) (*Golden, error) {
	all, err := r.stacked(tables)
	if err != nil {
		return nil, err
	}
	groups := r.groups()
	sizes := make([]int, groups.Len())
	for _, g := range groups.Group {
		sizes[g]++
	}
	name, ids := "golden", keeping.IDs
	if ids == nil {
		name = "cluster"
		for g := range sizes {
			ids = append(ids, int64(g+1))
		}
	}
	number, records := table.NewDictBuilder(), table.NewDictBuilder()
	numbers, counts := make([]uint32, groups.Len()), make([]uint32, groups.Len())
	for g := range sizes {
		numbers[g], counts[g] = number.Add(strconv.FormatInt(ids[g], 10)), records.Add(strconv.Itoa(sizes[g]))
	}
	columns := []*table.Column{{Name: name, Codes: &table.Codes{At: numbers}, Dict: number.Dict()}, {Name: "records", Codes: &table.Codes{At: counts}, Dict: records.Dict()}}
	out := &Golden{Differ: map[string]int{}}
	picked := map[string][]int{} // groups by attribute
	if len(keeping.Picks) > 0 {
		for g, id := range ids {
			for _, a := range r.Spec.Attributes {
				if _, ok := keeping.Picks[Picking{id, a.Name}]; ok {
					picked[a.Name] = append(picked[a.Name], g)
				}
			}
		}
	}
	for _, a := range r.Spec.Attributes {
		rule := cmp.Or(r.Spec.Survivorship[a.Name], survivorship.Frequent)
		for _, name := range a.Columns[0] {
			c, _, err := all.Column(name)
			if err != nil {
				return nil, err
			}
			ranks, err := r.ranks(all, rule)
			if err != nil {
				return nil, err
			}
			var codes []uint32
			var dict *table.Dict
			if ranks != nil {
				codes, dict, out.Differ[name] = foremost(all, c, groups, ranks)
			} else {
				made, err := survivorship.Make(all, c, groups, rule, "; ")
				if err != nil {
					return nil, err
				}
				codes, dict, out.Differ[name] = made.Codes, made.Dict, made.Differ
			}
			if list := picked[a.Name]; len(list) > 0 {
				by := map[int]string{}
				for _, g := range list {
					p := keeping.Picks[Picking{ids[g], a.Name}]
					if valuesOf(all, c, r.rowsOf(groups, g)).of() == p.Of {
						by[g] = p.Value
					} else {
						out.Asks++
					}
				}
				codes, dict = replaced(codes, dict, by)
			}
			for n := range columns {
				if columns[n].Name == name {
					name += " of the records"
				}
			}
			columns = append(columns, &table.Column{Name: name, Codes: &table.Codes{At: codes}, Dict: dict})
		}
	}
	out.Table, err = table.New(columns, groups.Len())
	return out, err
}

// replaced puts other values in the place of some. Cost: O(rows).
func replaced(codes []uint32, dict *table.Dict, by map[int]string) ([]uint32, *table.Dict) {
	b := table.NewDictBuilder()
	now := make([]uint32, dict.Len()+1)
	out := make([]uint32, len(codes))
	for g, code := range codes {
		if v, ok := by[g]; ok {
			out[g] = b.Add(v)
			continue
		}
		if code > 0 && now[code] == 0 {
			now[code] = b.Add(dict.Value(code))
		}
		out[g] = now[code]
	}
	return out, b.Dict()
}

// stacked puts the records of all tables under the names of the first one.
func (r *Result) stacked(tables []*table.Table) (*table.Table, error) {
	var parts []join.Part
	for i, t := range tables {
		named, err := r.renamed(t, i)
		if err != nil {
			return nil, err
		}
		parts = append(parts, join.Part{Name: strconv.Itoa(i + 1), Table: named})
	}
	if len(parts) == 1 {
		return parts[0].Table, nil
	}
	return join.Stack(parts, "the tables", "table")
}

// Conflict is a golden value whose sources do not agree.
type Conflict struct {
	Group  int // as Groups counts them
	Values []Source
	// Of says what the values are; a value picked of them holds while it stays the same.
	Of string
}

// Source is a value with the records that have it.
type Source struct {
	Value string
	Rows  int
}

type sources []Source

// of says in short what values there are, whatever their order.
func (s sources) of() string {
	var values []string
	for _, v := range s {
		values = append(values, v.Value)
	}
	slices.Sort(values)
	h := sha256.Sum256([]byte(strings.Join(values, "\x00")))
	return hex.EncodeToString(h[:12])
}

// rowsOf are the rows of a group, in the order of the tables.
func (r *Result) rowsOf(groups survivorship.Groups, group int) []uint32 {
	if group >= len(r.Clusters) {
		return []uint32{groups.First[group]}
	}
	var out []uint32
	for _, row := range r.Clusters[group] {
		out = append(out, uint32(r.records.starts[row.Table]+row.Row))
	}
	return out
}

// valuesOf gives the values of a group that are not blank, the most frequent first.
func valuesOf(t *table.Table, c *table.Column, rows []uint32) sources {
	var out sources
	for _, row := range rows {
		v, ok := c.Value(t.BaseRow(int(row)))
		if !ok || strings.TrimSpace(v) == "" {
			continue
		}
		at := slices.IndexFunc(out, func(s Source) bool { return s.Value == v })
		if at < 0 {
			at = len(out)
			out = append(out, Source{Value: v})
		}
		out[at].Rows++
	}
	slices.SortStableFunc(out, func(a, b Source) int { return cmp.Compare(b.Rows, a.Rows) })
	return out
}

// Conflicts lists the clusters whose records do not agree on an attribute. Cost: O(records).
func (r *Result) Conflicts(tables []*table.Table, attribute string) ([]Conflict, error) {
	all, err := r.stacked(tables)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(r.Spec.Attributes, func(a Attribute) bool { return a.Name == attribute })
	if at < 0 {
		return nil, problem.New("Choose one of those that are compared", "there is no attribute %q", attribute)
	}
	c, _, err := all.Column(r.Spec.Attributes[at].Columns[0][0])
	if err != nil {
		return nil, err
	}
	groups := r.groups()
	var out []Conflict
	for g := range r.Clusters {
		if values := valuesOf(all, c, r.rowsOf(groups, g)); len(values) > 1 {
			out = append(out, Conflict{g, values, values.of()})
		}
	}
	return out, nil
}

// CrossReference makes a table of which record stands under which golden one: the name of its table, its row counted from 1, the cells of the columns called id or
// those of its first column, and the identifier. Cost: O(records).
func (r *Result) CrossReference(tables []*table.Table, names []string, ids []int64) (*table.Table, error) {
	groups := r.groups()
	n := r.records.len()
	var builders [4]*table.DictBuilder
	var codes [4][]uint32
	for i := range builders {
		builders[i] = table.NewDictBuilder()
		codes[i] = make([]uint32, n)
	}
	keys := make([]*table.Column, len(tables))
	for i, t := range tables {
		keys[i] = t.Columns()[0]
		if c, _, err := t.Column("id"); err == nil {
			keys[i] = c
		}
	}
	for i := range n {
		row := r.records.row(uint32(i))
		key, _ := keys[row.Table].Value(tables[row.Table].BaseRow(row.Row))
		for c, v := range [4]string{names[row.Table], strconv.Itoa(row.Row + 1), key, strconv.FormatInt(ids[groups.Group[i]], 10)} {
			codes[c][i] = builders[c].Add(v)
		}
	}
	var columns []*table.Column
	for c, name := range []string{"table", "row", "key", "golden"} {
		columns = append(columns, &table.Column{Name: name, Codes: &table.Codes{At: codes[c]}, Dict: builders[c].Dict()})
	}
	return table.New(columns, n)
}

// renamed gives the attributes of a table under their names in the first one.
func (r *Result) renamed(t *table.Table, at int) (*table.Table, error) {
	var out []*table.Column
	for _, a := range r.Spec.Attributes {
		for i, name := range a.Columns[at] {
			c, _, err := t.Column(name)
			if err != nil {
				return nil, problem.New("Look at the names of its columns", "table %d has no column %q", at+1, name)
			}
			named := *c
			named.Name = a.Columns[0][i]
			out = append(out, &named)
		}
	}
	made, err := t.WithColumns(out)
	if err != nil {
		return nil, fmt.Errorf("the attributes of table %d: %w", at+1, err)
	}
	return made, nil
}

// groups numbers the clusters, and each record that is in none behind them.
func (r *Result) groups() survivorship.Groups {
	n := r.records.len()
	g := survivorship.Groups{Group: make([]uint32, n)}
	const none = ^uint32(0)
	for i := range g.Group {
		g.Group[i] = none
	}
	sizes := []uint32{}
	for i, c := range r.Clusters {
		for _, row := range c {
			g.Group[r.records.starts[row.Table]+row.Row] = uint32(i)
		}
		sizes = append(sizes, uint32(len(c)))
		g.First = append(g.First, uint32(r.records.starts[c[0].Table]+c[0].Row))
	}
	for i := range g.Group {
		if g.Group[i] == none {
			g.Group[i] = uint32(len(sizes))
			sizes = append(sizes, 1)
			g.First = append(g.First, uint32(i))
		}
	}
	g.Starts = make([]uint32, len(sizes)+1)
	for i, size := range sizes {
		g.Starts[i+1] = g.Starts[i] + size
	}
	return g
}
