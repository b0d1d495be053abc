package asking

import (
	"context"
	"fmt"
	"slices"

	"grandledger/core/authority"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Columns of a register that is made of what a service offered.
const (
	idColumn   = "identifier"
	nameColumn = "name"
)

// Asked is what a service offered for the distinct names of a column.
type Asked struct {
	Names   []string // each once
	Offered map[string][]Candidate
	Facts   map[string]map[string][]string // by id, by property

	// Keep and KeepFacts, where they are set, are told of each answer as it comes.
	Keep      func(name string, found []Candidate) error
	KeepFacts func(id string, facts map[string][]string) error
}

// Distinct lists the names of a column that say something, each once, in the order of their first rows. Cost: O(rows).
func Distinct(t *table.Table, column string) ([]string, error) {
	c, _, err := t.Column(column)
	if err != nil {
		p := problem.New("Choose a column the table has", "the table has no column %q", column)
		p.Column = column
		return nil, p
	}
	blank := map[uint32]bool{0: true}
	for _, code := range c.Dict.Blank() {
		blank[code] = true
	}
	var out []string
	for row := range t.Rows() {
		if code := c.Code(t.BaseRow(row)); !blank[code] {
			blank[code] = true
			out = append(out, c.Dict.Value(code))
		}
	}
	return out, nil
}

// All asks for all names that are not answered yet, and for the properties of all that is offered. What was answered before an error is in a.
func (s *Service) All(ctx context.Context, a *Asked, kind string, properties []string, told func(done int)) error {
	if a.Offered == nil {
		a.Offered, a.Facts = map[string][]Candidate{}, map[string]map[string][]string{}
	}
	var queries []Query
	var names []string
	for _, n := range a.Names {
		if _, ok := a.Offered[n]; !ok {
			queries, names = append(queries, Query{Query: n, Type: kind}), append(names, n)
		}
	}
	if err := s.Ask(ctx, queries, func(i int, found []Candidate) error {
		if a.Keep != nil {
			if err := a.Keep(names[i], found); err != nil {
				return err
			}
		}
		a.Offered[names[i]] = found
		told(len(a.Offered))
		return nil
	}); err != nil {
		return err
	}
	if len(properties) == 0 {
		return nil
	}
	var ids []string
	wanted := map[string]bool{}
	for _, n := range a.Names {
		for _, c := range a.Offered[n] {
			if _, ok := a.Facts[c.ID]; !ok && !wanted[c.ID] {
				wanted[c.ID] = true
				ids = append(ids, c.ID)
			}
		}
	}
	return s.Facts(ctx, ids, properties, func(id string, facts map[string][]string) error {
		if a.KeepFacts != nil {
			if err := a.KeepFacts(id, facts); err != nil {
				return err
			}
		}
		a.Facts[id] = facts
		return nil
	})
}

// Register makes a register of what was offered, and says which of its entries were offered for a name.
func (a *Asked) Register(properties []string) (*authority.Register, func(name string, entry int) bool, error) {
	rows := map[string]int{}
	builders := make([]*table.DictBuilder, 2+len(properties))
	codes := make([][]uint32, len(builders))
	for i := range builders {
		builders[i] = table.NewDictBuilder()
	}
	offered := map[string]map[int]bool{}
	for _, n := range a.Names {
		offered[n] = map[int]bool{}
		for _, c := range a.Offered[n] {
			row, ok := rows[c.ID]
			if !ok {
				row = len(rows)
				rows[c.ID] = row
				codes[0], codes[1] = append(codes[0], builders[0].Add(c.ID)), append(codes[1], builders[1].Add(c.Name))
				for i, p := range properties {
					code := uint32(0)
					if f := a.Facts[c.ID][p]; len(f) > 0 {
						code = builders[2+i].Add(f[0])
					}
					codes[2+i] = append(codes[2+i], code)
				}
			}
			offered[n][row] = true
		}
	}
	if len(rows) == 0 {
		return nil, nil, problem.New("Look at what was asked, or ask another authority", "nothing was offered for any of the values")
	}
	var columns []*table.Column
	for i, b := range builders {
		name := []string{idColumn, nameColumn}
		if i > 1 {
			name = append(name, properties[i-2])
		}
		for slices.ContainsFunc(columns, func(c *table.Column) bool { return c.Name == name[min(i, 2)] }) {
			return nil, nil, problem.New("Ask for it once", "the property %q is there twice", name[min(i, 2)])
		}
		columns = append(columns, &table.Column{Name: name[min(i, 2)], Codes: &table.Codes{At: codes[i]}, Dict: b.Dict()})
	}
	t, err := table.New(columns, len(rows))
	if err != nil {
		return nil, nil, fmt.Errorf("the entries offered: %w", err)
	}
	return &authority.Register{Table: t, ID: idColumn, Names: []string{nameColumn}}, func(name string, entry int) bool { return offered[name][entry] }, nil
}
