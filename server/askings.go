package server

import (
	"cmp"
	"context"
	"crypto/sha256"
	"fmt"
	"slices"
	"strings"

	"grandledger/api"
	"grandledger/asking"
	"grandledger/core/authority"
	"grandledger/core/problem"
	"grandledger/core/text"
	"grandledger/store"
)

// asked is a column with its answers, as the table and the authority stand.
type asked struct {
	of      store.Asking
	table   store.Table
	loaded  *store.Loaded
	answers *authority.Answers // nil where a service offered nothing yet
	unasked int
	decided map[int]authority.Decided
	said    map[string]store.Identification
	entries map[string]int // of the register, by identifier
}

func combination(of []string) string { return strings.Join(of, "\x00") }

// asked works the answers of a column out, once for the revisions of the table and the register, or for what a service has answered. Cost: that of authority.Ask.
func (s *Server) asked(ctx context.Context, id int64) (*asked, error) {
	of, err := s.store.Asking(ctx, id)
	if err != nil {
		return nil, err
	}
	out := &asked{of: of, decided: map[int]authority.Decided{}, said: map[string]store.Identification{}, entries: map[string]int{}}
	if out.table, err = s.store.Table(ctx, of.Table); err != nil {
		return nil, err
	}
	if out.loaded, err = s.store.Load(ctx, out.table.Head); err != nil {
		return nil, err
	}
	if of.Register != nil {
		known, err := s.store.Table(ctx, *of.Register)
		if err != nil {
			return nil, err
		}
		out.answers, err = view(s, out.table.Head, fmt.Sprintf("asking %d %d", id, known.Head), func() (*authority.Answers, error) {
			l, err := s.store.Load(ctx, known.Head)
			if err != nil {
				return nil, err
			}
			r, err := authority.Open(l.Table, "", nil)
			if err != nil {
				return nil, err
			}
			return authority.Ask(ctx, out.loaded.Table, of.Question, r, authority.Usual, nil)
		})
		if err != nil {
			return nil, err
		}
	} else if err := s.offered(ctx, out); err != nil {
		return nil, err
	}
	list, err := s.store.Identifications(ctx, id)
	if err != nil {
		return nil, err
	}
	for _, d := range list {
		out.said[combination(d.Of)] = d
	}
	if out.answers == nil {
		return out, nil
	}
	r := out.answers.Register
	for row := range r.Table.Rows() {
		out.entries[r.Identifier(row)] = row
	}
	for i, a := range out.answers.Of {
		if d, ok := out.said[combination(a.Values)]; ok {
			entry, known := out.entries[d.Identifier]
			if !known {
				entry = -1
			}
			out.decided[i] = authority.Decided{State: d.State, Entry: entry}
		}
	}
	return out, nil
}

// offered makes a register of what a service has offered, and weighs that.
func (s *Server) offered(ctx context.Context, out *asked) error {
	names, err := asking.Distinct(out.loaded.Table, out.of.Question.Column)
	if err != nil {
		return err
	}
	of, err := s.queue.Asked(ctx, out.of)
	if err != nil {
		return err
	}
	for _, n := range names {
		if _, ok := of.Offered[n]; ok {
			of.Names = append(of.Names, n)
		} else {
			out.unasked++
		}
	}
	var properties []string
	for _, w := range out.of.Question.With {
		properties = append(properties, w.Properties...)
	}
	r, only, err := of.Register(properties)
	if err != nil {
		return nil // nothing was offered yet: there are no answers
	}
	what := sha256.Sum256(fmt.Appendf(nil, "%v %v", of.Offered, of.Facts))
	out.answers, err = view(s, out.table.Head, fmt.Sprintf("asking %d %x", out.of.ID, what), func() (*authority.Answers, error) {
		return authority.Ask(ctx, out.loaded.Table, out.of.Question, r, authority.Usual, only)
	})
	return err
}

func nameOf(a store.Asking) string { return a.Question.Column + ", by " + a.Authority }

// CreateAsking opens the asking of an authority about a column.
func (s *Server) CreateAsking(ctx context.Context, r api.CreateAskingRequestObject) (api.CreateAskingResponseObject, error) {
	t, err := s.store.Table(ctx, r.Body.Table)
	if err != nil {
		return nil, err
	}
	l, err := s.store.Load(ctx, t.Head)
	if err != nil {
		return nil, err
	}
	if _, err := column(l.Table, r.Body.Column); err != nil {
		return nil, err
	}
	a := store.Asking{Book: r.Book, Table: r.Body.Table, Address: strings.TrimSpace(r.Body.Address), Question: authority.Question{Column: r.Body.Column, With: r.Body.With}}
	switch {
	case r.Body.Register != 0 && a.Address == "":
		a.Register = &r.Body.Register
		known, err := s.store.Table(ctx, r.Body.Register)
		if err != nil {
			return nil, err
		}
		a.Authority = known.Name
		k, err := s.store.Load(ctx, known.Head)
		if err != nil {
			return nil, err
		}
		register, err := authority.Open(k.Table, "", nil)
		if err != nil {
			return nil, err
		}
		if len(a.Question.With) == 0 && !r.Body.Alone {
			a.Question.With = authority.Propose(l.Table, r.Body.Column, register)
		}
	case a.Address != "":
		service, err := asking.Open(a.Address, asking.Options{Allow: s.services})
		if err != nil {
			return nil, err
		}
		m, err := service.Manifest(ctx)
		if err != nil {
			return nil, err
		}
		a.Authority, _ = cutCell(m.Name)
	}
	if a.Question.With == nil {
		a.Question.With = []authority.Testimony{}
	}
	id, err := s.store.AddAsking(ctx, a)
	return api.CreateAsking201JSONResponse{Id: id, Name: nameOf(a)}, err
}

// GetAsking says where the values of a column stand.
func (s *Server) GetAsking(ctx context.Context, r api.GetAskingRequestObject) (api.GetAskingResponseObject, error) {
	a, err := s.asked(ctx, r.Asking)
	if err != nil {
		return nil, err
	}
	out := api.GetAsking200JSONResponse{Id: a.of.ID, Name: nameOf(a.of), Table: a.of.Table, TableName: a.table.Name, Revision: a.table.Head, Rows: a.table.Rows, Column: a.of.Question.Column,
		Authority: a.of.Authority, Register: orZero(a.of.Register), Address: a.of.Address, With: append([]authority.Testimony{}, a.of.Question.With...), Unasked: a.unasked, Properties: []string{}, Counts: []api.AskedCount{}, Blank: a.table.Rows}
	counts := map[authority.State]*api.AskedCount{}
	for _, state := range []authority.State{authority.Identified, authority.Undecided, authority.NotListed} {
		counts[state] = &api.AskedCount{State: string(state)}
	}
	if a.answers != nil {
		for i, of := range a.answers.Of {
			state, _, _ := a.answers.Stands(i, a.decided)
			counts[state].Values++
			counts[state].Rows += of.Rows
			out.Blank -= of.Rows
		}
		for _, c := range a.answers.Register.Table.Columns() {
			if c.Name != a.answers.Register.ID && !slices.Contains(a.answers.Register.Names[:1], c.Name) {
				out.Properties = append(out.Properties, c.Name)
			}
		}
	}
	for _, state := range []authority.State{authority.Identified, authority.Undecided, authority.NotListed} {
		out.Counts = append(out.Counts, *counts[state])
	}
	if job, err := s.queue.AskingNow(ctx, r.Asking); err == nil {
		out.Job = job.ID
	}
	return out, nil
}

// AskService asks a service in the background.
func (s *Server) AskService(ctx context.Context, r api.AskServiceRequestObject) (api.AskServiceResponseObject, error) {
	a, err := s.store.Asking(ctx, r.Asking)
	if err != nil {
		return nil, err
	}
	if a.Address == "" {
		return nil, problem.New("Its answers are there already", "%s is a table of the book, which needs no asking", a.Authority)
	}
	job, err := s.queue.Ask(ctx, a)
	return api.AskService202JSONResponse(jobOf(job)), err
}

// entry is an entry of the register as a page shows it.
func (a *asked) entry(row int) api.AuthorityEntry {
	r := a.answers.Register
	out := api.AuthorityEntry{Identifier: r.Identifier(row), Name: r.Name(row), Facts: []api.EntryFact{}}
	for _, c := range r.Table.Columns() {
		if v := r.Cell(c.Name, row); c.Name != r.ID && c.Name != r.Names[0] && v != "" && len(out.Facts) < 12 {
			v, _ = cutCell(v)
			out.Facts = append(out.Facts, api.EntryFact{Property: c.Name, Value: v})
		}
	}
	return out
}

// GetAskedValues gives a page of values with their candidates.
func (s *Server) GetAskedValues(ctx context.Context, r api.GetAskedValuesRequestObject) (api.GetAskedValuesResponseObject, error) {
	a, err := s.asked(ctx, r.Asking)
	if err != nil {
		return nil, err
	}
	out := api.GetAskedValues200JSONResponse{Values: []api.AskedValue{}}
	if a.answers == nil {
		return out, nil
	}
	wanted := authority.State(cmp.Or(string(r.Params.State), string(authority.Undecided)))
	search := text.Fold(r.Params.Search)
	var list []int
	for i, of := range a.answers.Of {
		if state, _, _ := a.answers.Stands(i, a.decided); state == wanted && (search == "" || strings.Contains(text.Fold(of.Values[0]), search)) {
			list = append(list, i)
		}
	}
	slices.SortStableFunc(list, func(x, y int) int { return cmp.Compare(a.answers.Of[y].Rows, a.answers.Of[x].Rows) })
	out.Total = len(list)
	from := min(max(r.Params.From, 0), len(list))
	for _, i := range list[from:min(from+page(r.Params.Count, 50), len(list))] {
		out.Values = append(out.Values, a.value(i))
	}
	return out, nil
}

func (a *asked) value(i int) api.AskedValue {
	of := a.answers.Of[i]
	state, c, ok := a.answers.Stands(i, a.decided)
	d, somebody := a.said[combination(of.Values)]
	v := api.AskedValue{Of: cutAll(of.Values), Rows: of.Rows, State: string(state), Decided: somebody, Note: d.Note, By: d.By, Candidates: []api.AskedCandidate{}}
	switch {
	case somebody:
		v.Identifier, v.Standard = d.Identifier, d.Standard
	case ok:
		v.Identifier, v.Standard = a.answers.Register.Identifier(c.Entry), a.answers.Register.Name(c.Entry)
	}
	for _, c := range of.Candidates[:min(len(of.Candidates), 6)] {
		shown := api.AskedCandidate{Entry: a.entry(c.Entry), Weight: c.Weight, Probability: c.Probability, Findings: []api.Finding{}}
		for n, f := range a.answers.Explain(i, c) {
			name := a.of.Question.Column
			if n > 0 {
				name = strings.Join(a.of.Question.With[n-1].Columns, " and ")
			}
			shown.Findings = append(shown.Findings, api.Finding{Attribute: name, Left: cutAll(f.Left), Right: cutAll(f.Right), Missing: f.Missing, Bits: f.Bits, Words: a.answers.Words(n, f)})
		}
		v.Candidates = append(v.Candidates, shown)
	}
	return v
}

// FindEntries gives the entries that another text names: of a table of the book those that have it in their name.
func (s *Server) FindEntries(ctx context.Context, r api.FindEntriesRequestObject) (api.FindEntriesResponseObject, error) {
	a, err := s.asked(ctx, r.Asking)
	if err != nil {
		return nil, err
	}
	out := api.FindEntries200JSONResponse{}
	wanted := text.Fold(r.Params.Text)
	if a.answers == nil || wanted == "" {
		return out, nil
	}
	register := a.answers.Register
	for row := range register.Table.Rows() {
		for _, name := range append([]string{register.ID}, register.Names...) {
			if strings.Contains(text.Fold(register.Cell(name, row)), wanted) {
				out = append(out, a.entry(row))
				break
			}
		}
		if len(out) == 20 {
			break
		}
	}
	return out, nil
}

// DecideAsked remembers what is said of values.
func (s *Server) DecideAsked(ctx context.Context, r api.DecideAskedRequestObject) (api.DecideAskedResponseObject, error) {
	var all []store.Identification
	for _, d := range r.Body.Values {
		if len(d.Note) > maxNote || len(d.By) > maxReviewer {
			return nil, problem.New("Say it in fewer words", "a note has up to 2,000 bytes, the name of a reviewer up to 100")
		}
		all = append(all, store.Identification{Of: d.Of, State: authority.State(d.State), Identifier: d.Identifier, Standard: d.Standard, Note: d.Note, By: d.By})
	}
	return api.DecideAsked204Response{}, s.store.Identify(ctx, r.Asking, all, r.Body.Withdraw)
}

// maxTrouble is how much trouble is told.
const maxTrouble = 500
