package server

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"grandledger/api"
	"grandledger/core/authority"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
)

// GetAuthorityTrouble collects what is to be told to the keepers of an authority: entries that are taken for one another by a value of ours, and facts that contradict those of values identified.
func (s *Server) GetAuthorityTrouble(ctx context.Context, r api.GetAuthorityTroubleRequestObject) (api.GetAuthorityTroubleResponseObject, error) {
	a, err := s.asked(ctx, r.Asking)
	if err != nil {
		return nil, err
	}
	out := api.GetAuthorityTrouble200JSONResponse{}
	if a.answers == nil {
		return out, nil
	}
	register := a.answers.Register
	seen := map[string]bool{}
	for i, of := range a.answers.Of {
		if len(out) == maxTrouble {
			break
		}
		if len(of.Candidates) > 1 && of.Candidates[0].Weight-of.Candidates[1].Weight < 1 && text.Fold(register.Name(of.Candidates[0].Entry)) == text.Fold(register.Name(of.Candidates[1].Entry)) {
			ids := []string{register.Identifier(of.Candidates[0].Entry), register.Identifier(of.Candidates[1].Entry)}
			slices.Sort(ids)
			if k := combination(ids); !seen[k] {
				seen[k] = true
				out = append(out, api.AuthorityTrouble{Kind: api.AuthorityTroubleKindDuplicates, Identifiers: ids, Words: fmt.Sprintf("%s is listed as %s and as %s, and nothing we know tells them apart", register.Name(of.Candidates[0].Entry), ids[0], ids[1])})
			}
		}
		state, c, ok := a.answers.Stands(i, a.decided)
		if state != authority.Identified || !ok || c.Entry < 0 {
			continue
		}
		for n, f := range a.answers.Explain(i, c) {
			if n == 0 || f.Missing || f.Level > 0 || len(out) == maxTrouble {
				continue
			}
			id := register.Identifier(c.Entry)
			out = append(out, api.AuthorityTrouble{Kind: api.AuthorityTroubleKindContradiction, Identifiers: []string{id}, Words: fmt.Sprintf("%s of %s (%s) is %s, we have %s", strings.Join(a.of.Question.With[n-1].Properties, " and "), register.Name(c.Entry), id, strings.Join(f.Right, " "), strings.Join(f.Left, " "))})
		}
	}
	return out, nil
}

// identified gives the parameters of an entry that brings home what an asking knows: identifier and standard name, and the properties that are asked for. What is undecided has no cells, what is not listed a
// local identifier if it was given one.
func (s *Server) identified(ctx context.Context, id int64, properties []string) (json.RawMessage, error) {
	a, err := s.asked(ctx, id)
	if err != nil {
		return nil, err
	}
	if a.answers == nil {
		return nil, problem.New("Ask first", "%s has not been asked yet", a.of.Authority)
	}
	e := entry.Identify{From: a.of.Authority, On: []string{a.of.Question.Column}, Lines: []entry.IdentifyLine{}}
	for _, w := range a.of.Question.With {
		e.On = append(e.On, w.Columns...)
	}
	e.Columns = []string{freeName(a.loaded.Table, a.of.Question.Column+" identifier"), freeName(a.loaded.Table, a.of.Question.Column+" standard")}
	for _, p := range properties {
		if _, _, err := a.answers.Register.Table.Column(p); err != nil {
			return nil, problem.New("Choose one of its properties", "%s has no property %q", a.of.Authority, p)
		}
		e.Columns = append(e.Columns, freeName(a.loaded.Table, p+" of "+a.of.Authority))
	}
	for i, of := range a.answers.Of {
		line := entry.IdentifyLine{Of: of.Values, Cells: make([]string, len(e.Columns))}
		state, c, ok := a.answers.Stands(i, a.decided)
		d := a.said[combination(of.Values)]
		switch {
		case state == authority.Identified && ok && c.Entry >= 0:
			line.Cells[0], line.Cells[1] = a.answers.Register.Identifier(c.Entry), a.answers.Register.Name(c.Entry)
			for n, p := range properties {
				line.Cells[2+n] = a.answers.Register.Cell(p, c.Entry)
			}
		case d.Identifier != "": // an entry that the authority no longer has, or a local one
			line.Cells[0], line.Cells[1] = d.Identifier, d.Standard
		default:
			continue
		}
		e.Lines = append(e.Lines, line)
	}
	return json.Marshal(e)
}

func freeName(t *table.Table, name string) string {
	for i := 2; ; i++ {
		if _, _, err := t.Column(name); err != nil {
			return name
		}
		name = fmt.Sprintf("%s %d", strings.TrimSuffix(name, fmt.Sprintf(" %d", i-1)), i)
	}
}
