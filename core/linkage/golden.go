package linkage

import (
	"cmp"
	"fmt"
	"strconv"

	"grandledger/core/join"
	"grandledger/core/problem"
	"grandledger/core/survivorship"
	"grandledger/core/table"
)

// Golden makes one record of each cluster, and of each record that is in none: a row with the number of its cluster (those behind the
// clusters are of single records), how many records it was made of, and a value of each attribute by its rule in
// Spec.Survivorship, the most frequent where there is none. conflicts counts for each column the records whose sources do not agree.
//
// Cost: that of stacking the tables, and of survivorship.Make for each column.
func (r *Result) Golden(tables []*table.Table) (golden *table.Table, conflicts map[string]int, err error) {
	var parts []join.Part
	for i, t := range tables {
		named, err := r.renamed(t, i)
		if err != nil {
			return nil, nil, err
		}
		parts = append(parts, join.Part{Name: strconv.Itoa(i + 1), Table: named})
	}
	all := parts[0].Table
	if len(parts) > 1 {
		if all, err = join.Stack(parts, "the tables", "table"); err != nil {
			return nil, nil, err
		}
	}
	groups := r.groups()
	sizes := make([]int, groups.Len())
	for _, g := range groups.Group {
		sizes[g]++
	}
	number, records := table.NewDictBuilder(), table.NewDictBuilder()
	numbers, counts := make([]uint32, groups.Len()), make([]uint32, groups.Len())
	for g := range sizes {
		numbers[g], counts[g] = number.Add(strconv.Itoa(g+1)), records.Add(strconv.Itoa(sizes[g]))
	}
	columns := []*table.Column{{Name: "cluster", Codes: &table.Codes{At: numbers}, Dict: number.Dict()}, {Name: "records", Codes: &table.Codes{At: counts}, Dict: records.Dict()}}
	conflicts = map[string]int{}
	for _, a := range r.Spec.Attributes {
		rule := cmp.Or(r.Spec.Survivorship[a.Name], survivorship.Frequent)
		for _, name := range a.Columns[0] {
			c, _, err := all.Column(name)
			if err != nil {
				return nil, nil, err
			}
			made, err := survivorship.Make(all, c, groups, rule, "; ")
			if err != nil {
				return nil, nil, err
			}
			conflicts[name] = made.Differ
			for n := range columns {
				if columns[n].Name == name {
					name += " of the records"
				}
			}
			columns = append(columns, &table.Column{Name: name, Codes: &table.Codes{At: made.Codes}, Dict: made.Dict})
		}
	}
	golden, err = table.New(columns, groups.Len())
	return golden, conflicts, err
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
