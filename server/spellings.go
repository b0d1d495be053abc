package server

import (
	"cmp"
	"context"
	"crypto/sha256"
	"fmt"
	"slices"

	"grandledger/api"
	"grandledger/core/spelling"
	"grandledger/core/table"
)

// GetSpellings groups the values of a column. Where no crosswalk is named, the one that is asked bears the
// column's name, so that tables with such a column share what was decided.
func (s *Server) GetSpellings(ctx context.Context, r api.GetSpellingsRequestObject) (api.GetSpellingsResponseObject, error) {
	t, err := s.store.Table(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	c, err := column(l.Table, r.Params.Column)
	if err != nil {
		return nil, err
	}
	crosswalk := cmp.Or(r.Params.Crosswalk, c.Name)
	known, err := s.store.Decisions(ctx, t.BookID, crosswalk)
	if err != nil {
		return nil, err
	}
	accept := spelling.Order
	for i, name := range spelling.Rungs {
		if name == string(r.Params.Accept) {
			accept = spelling.Rung(i)
		}
	}
	out := api.GetSpellings200JSONResponse{Revision: l.Revision, Crosswalk: crosswalk, Groups: []api.Group{}, Rungs: []api.RungTotal{}}
	for _, n := range l.Table.Counts(c)[1:] {
		if n > 0 {
			out.Values++
		}
	}
	o := spelling.Options{Kind: spelling.Kind(r.Params.Kind), Most: maxCompared}
	if o.Forms, err = s.store.ShortForms(ctx, t.BookID); err != nil {
		return nil, err
	}
	if standards, closed, err := s.store.Standards(ctx, t.BookID, crosswalk); err != nil {
		return nil, err
	} else if closed {
		for _, v := range standards {
			o.Standards = append(o.Standards, v.Value)
		}
	}
	out.Passed = o.Passed(l.Table, c)
	found, err := view(s, l.Revision, fmt.Sprintf("spellings %q %s %x", c.Name, o.Kind, fingerprint(known, o)), func() ([][]spelling.Group, error) {
		return spelling.Ladder(l.Table, c, known, o), nil
	})
	if err != nil {
		return nil, err
	}
	for rung, groups := range found {
		total := api.RungTotal{Rung: api.Rung(spelling.Rungs[rung]), Groups: len(groups)}
		for _, g := range groups {
			for _, m := range g.Members {
				if m.Value != g.Standard {
					total.Spellings++
					total.Rows += m.Rows
				}
			}
		}
		out.Rungs = append(out.Rungs, total)
	}
	groups, err := view(s, l.Revision, fmt.Sprintf("testimony %q %s %d %x", c.Name, o.Kind, accept, fingerprint(known, o)), func() ([]api.Group, error) {
		return testified(l.Table, c, found[accept]), nil
	})
	out.Groups = groups
	return out, err
}

// testified gives the groups that one answer holds, with what other columns say of their members.
func testified(t *table.Table, c *table.Column, groups []spelling.Group) []api.Group {
	groups = slices.Clone(groups[:min(len(groups), maxGroups)])
	for i := range groups {
		groups[i].Members = slices.Clone(groups[i].Members)
	}
	spelling.Testify(t, c, groups)
	out := []api.Group{}
	for _, g := range groups {
		out = append(out, groupOf(g))
	}
	return out
}

// fingerprint tells one state of what is known from another. Maps are printed in order.
func fingerprint(known spelling.Decisions, o spelling.Options) [sha256.Size]byte {
	return sha256.Sum256(fmt.Appendf(nil, "%q %q %q", known, o.Forms, o.Standards))
}

// maxCompared is how many distinct values are compared on weaker evidence while a page waits.
const maxCompared = 500_000

// maxGroups is how many groups one answer holds; those with most rows come first.
const maxGroups = 5000

func groupOf(g spelling.Group) api.Group {
	out := api.Group{Standard: g.Standard, Rows: g.Rows, Weakest: api.Rung(spelling.Rungs[g.Weakest]), Doubt: spelling.Doubts(g), Members: []api.Member{}, Held: g.Held}
	for _, m := range g.Members {
		out.Members = append(out.Members, api.Member{Value: m.Value, Rows: m.Rows, Rung: api.Rung(spelling.Rungs[m.Rung]), Why: m.Why, For: m.For, Against: m.Against})
	}
	return out
}
