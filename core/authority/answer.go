package authority

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Answerer is a register that answers others: which of its entries a name may mean.
type Answerer struct {
	Register *Register
	matcher  *linkage.Matcher
	named    *table.Table // a line for each name of each entry
	names    *table.Column
	entries  []uint32       // of each line of names
	rows     map[string]int // of entries, by identifier
}

// Offer is an entry that is offered for a name.
type Offer struct {
	Entry int
	Score float64 // to 100, for a name that is the same and properties that agree
	Match bool    // the name is the same, properties agree, and no other offer is as good
}

// Wanted is a property with the value that it should have.
type Wanted struct{ Property, Value string }

// Answering makes a register ready to answer. Its names are found where they are not given. Cost: that of linking its names among themselves.
func Answering(ctx context.Context, r *Register) (*Answerer, error) {
	if len(r.Names) == 0 {
		own := *r
		for _, c := range r.Table.Columns() {
			if called(c.Name, "name", "names", "title", "label", "standard", "vessel") && c.Name != r.ID {
				own.Names = append(own.Names, c.Name)
			}
		}
		if own.Names == nil {
			for _, c := range r.Table.Columns() {
				if c.Name != r.ID {
					own.Names = []string{c.Name}
					break
				}
			}
		}
		r = &own
	}
	if len(r.Names) == 0 {
		return nil, problem.New("Give it a column of names", "the table has no column but its identifier")
	}
	named, entries, err := r.named(nil)
	if err != nil {
		return nil, err
	}
	a := &Answerer{Register: r, entries: entries, rows: map[string]int{}, named: named, names: named.Columns()[0]}
	for row := range r.Table.Rows() {
		a.rows[r.Identifier(row)] = row
	}
	columns := [][]string{{nameColumn}}
	spec := linkage.Spec{Attributes: []linkage.Attribute{{Name: nameColumn, Kind: nameKind(linkage.KindOf(columns, named)), Columns: columns}}}
	res, err := linkage.Link(ctx, []*table.Table{named}, spec)
	if err != nil {
		return nil, err
	}
	a.matcher = res.Matcher()
	return a, nil
}

// Entry gives the row of an identifier.
func (a *Answerer) Entry(id string) (row int, ok bool) {
	row, ok = a.rows[id]
	return row, ok
}

// Find gives the entries that a name may mean, the best first. Cost: that of linkage.Matcher.Match.
func (a *Answerer) Find(name string, wanted []Wanted, limit int) ([]Offer, error) {
	if strings.TrimSpace(name) == "" {
		return nil, nil
	}
	found, err := a.matcher.Match(map[string]string{nameColumn: name}, 4*limit+20)
	if err != nil {
		return nil, err
	}
	folded := text.Fold(name)
	var out []Offer
	for _, m := range found {
		entry := int(a.entries[m.Row.Row])
		if slices.ContainsFunc(out, func(o Offer) bool { return o.Entry == entry }) || m.Weight <= 0 {
			continue
		}
		called, _ := a.names.Value(a.named.BaseRow(m.Row.Row))
		same := text.Fold(called) == folded
		o := Offer{Entry: entry, Score: min(99, 60+m.Weight*2), Match: same}
		if same {
			o.Score = 100
		}
		for _, w := range wanted {
			have := a.Register.Cell(w.Property, entry)
			switch {
			case have == "" || strings.TrimSpace(w.Value) == "":
			case text.Fold(have) != text.Fold(w.Value):
				o.Score, o.Match = o.Score-25, false
			}
		}
		out = append(out, o)
	}
	slices.SortStableFunc(out, func(x, y Offer) int {
		return cmp.Or(cmp.Compare(y.Score, x.Score), cmp.Compare(x.Entry, y.Entry))
	})
	for i := range out {
		if out[i].Match && (i > 0 || len(out) > 1 && out[1].Score >= out[0].Score) {
			out[i].Match = false
		}
	}
	return out[:min(len(out), max(limit, 1))], nil
}
