package server

import (
	"cmp"
	"context"
	"io"
	"mime"
	"net/http"

	"grandledger/api"
	"grandledger/core/crosswalk"
	"grandledger/core/problem"
	"grandledger/core/spelling"
	"grandledger/store"
	"grandledger/vocabulary"
)

// Limits of what a crosswalk's page shows of each column.
const (
	shownUnknown    = 200 // values
	shownDeliveries = 6   // the latest ones
)

// GetCrosswalk lists a crosswalk's decisions as they stand, and how far it knows the columns it is for. Cost: O(distinct) for each
// column and delivery shown.
func (s *Server) GetCrosswalk(ctx context.Context, r api.GetCrosswalkRequestObject) (api.GetCrosswalkResponseObject, error) {
	same, apart, err := s.store.Crosswalk(ctx, r.Book, r.Name)
	if err != nil {
		return nil, err
	}
	whole, closed, standing, err := s.whole(ctx, r.Book, r.Name)
	if err != nil {
		return nil, err
	}
	out := api.GetCrosswalk200JSONResponse{Name: r.Name, Closed: closed, Lines: []api.Decision{}, Apart: []api.Apart{}, Standards: []crosswalk.Standard{}, Uses: []api.CrosswalkUse{}}
	for _, d := range same {
		if to, ok := standing[d.Variant]; ok {
			out.Lines = append(out.Lines, api.Decision{Variant: d.Variant, Standard: to, Why: d.Why, Table: d.Table, Entry: d.Entry, DecidedAt: d.DecidedAt})
		}
	}
	for _, p := range apart {
		out.Apart = append(out.Apart, api.Apart{Value: p[0], Other: p[1]})
	}
	out.Standards = append(out.Standards, whole.Standards...)
	uses, err := s.store.Uses(ctx, r.Book, r.Name)
	if err != nil {
		return nil, err
	}
	right := map[string]bool{}
	for _, v := range whole.Standards {
		right[v.Value] = true
	}
	for _, u := range uses {
		use, err := s.use(ctx, u, standing, right)
		if err != nil {
			return nil, err
		}
		out.Uses = append(out.Uses, use)
	}
	return out, nil
}

// whole gives a crosswalk with all its standard values, and its standing lines.
func (s *Server) whole(ctx context.Context, book int64, name string) (crosswalk.Crosswalk, bool, map[string]string, error) {
	same, _, err := s.store.Crosswalk(ctx, book, name)
	if err != nil {
		return crosswalk.Crosswalk{}, false, nil, err
	}
	standards, closed, err := s.store.Standards(ctx, book, name)
	if err != nil {
		return crosswalk.Crosswalk{}, false, nil, err
	}
	made := make([]spelling.Decision, len(same))
	for i, d := range same {
		made[i] = spelling.Decision{Variant: d.Variant, Standard: d.Standard}
	}
	standing := spelling.Standing(made)
	c := crosswalk.Crosswalk{Name: name, Standards: standards}
	for _, d := range same {
		if to, ok := standing[d.Variant]; ok {
			c.Lines = append(c.Lines, crosswalk.Line{Variant: d.Variant, Standard: to, Why: d.Why})
		}
	}
	return c.Whole(), closed, standing, nil
}

// use compares a column, as it stands and as each delivery came, with a crosswalk.
func (s *Server) use(ctx context.Context, u store.Use, standing map[string]string, right map[string]bool) (api.CrosswalkUse, error) {
	out := api.CrosswalkUse{Table: u.Table, Name: u.Name, Column: u.Column, Unknown: []crosswalk.Unknown{}, Deliveries: []crosswalk.Coverage{}}
	l, err := s.store.Load(ctx, u.Head)
	if err != nil {
		return out, err
	}
	c, err := column(l.Table, u.Column)
	if err != nil {
		return out, err
	}
	out.Coverage, out.Unknown = crosswalk.Cover(l.Table, c, standing, right, shownUnknown)
	deliveries, err := s.store.Deliveries(ctx, u.Table)
	if err != nil {
		return out, err
	}
	for _, revision := range deliveries[max(0, len(deliveries)-shownDeliveries):] {
		l, err := s.store.Load(ctx, revision)
		if err != nil {
			return out, err
		}
		if c, _, err := l.Table.Column(u.Column); err == nil {
			covered, _ := crosswalk.Cover(l.Table, c, standing, right, 0)
			out.Deliveries = append(out.Deliveries, covered)
		}
	}
	return out, nil
}

// DecideSpellings adds lines by hand.
func (s *Server) DecideSpellings(ctx context.Context, r api.DecideSpellingsRequestObject) (api.DecideSpellingsResponseObject, error) {
	added, conflicts, err := s.store.Decide(ctx, r.Book, r.Name, crosswalk.Crosswalk{Lines: r.Body.Lines, Standards: r.Body.Standards}, r.Body.Overrule)
	return api.DecideSpellings200JSONResponse{Added: added, Conflicts: conflicts}, err
}

// ForgetSpelling withdraws what was decided on a variant.
func (s *Server) ForgetSpelling(ctx context.Context, r api.ForgetSpellingRequestObject) (api.ForgetSpellingResponseObject, error) {
	return api.ForgetSpelling204Response{}, s.store.Forget(ctx, r.Book, r.Name, r.Body.Value)
}

// SetStandard says what a standard value is.
func (s *Server) SetStandard(ctx context.Context, r api.SetStandardRequestObject) (api.SetStandardResponseObject, error) {
	return api.SetStandard204Response{}, s.store.SetStandard(ctx, r.Book, r.Name, *r.Body)
}

// RenameStandard makes one standard value another.
func (s *Server) RenameStandard(ctx context.Context, r api.RenameStandardRequestObject) (api.RenameStandardResponseObject, error) {
	return api.RenameStandard204Response{}, s.store.RenameStandard(ctx, r.Book, r.Name, r.Body.From, r.Body.To)
}

// SetClosed says whether the standard values are all there are.
func (s *Server) SetClosed(ctx context.Context, r api.SetClosedRequestObject) (api.SetClosedResponseObject, error) {
	return api.SetClosed204Response{}, s.store.SetClosed(ctx, r.Book, r.Name, r.Body.Closed)
}

// ReadCrosswalk adds what a file says.
func (s *Server) ReadCrosswalk(ctx context.Context, r api.ReadCrosswalkRequestObject) (api.ReadCrosswalkResponseObject, error) {
	content, err := io.ReadAll(io.LimitReader(r.Body, vocabulary.MaxBytes+1))
	if err != nil {
		return nil, err
	}
	c, err := vocabulary.Read(ctx, shownName(r.Params.Name), content)
	if err != nil {
		return nil, err
	}
	added, conflicts, err := s.store.Decide(ctx, r.Book, r.Name, c, r.Params.Overrule)
	if err == nil && len(c.Lines) == 0 { // a list of right values
		err = s.store.SetClosed(ctx, r.Book, r.Name, true)
	}
	return api.ReadCrosswalk200JSONResponse{Added: added, Standards: len(c.Standards), Conflicts: conflicts}, err
}

// CrosswalkFile gives the crosswalk as a file.
func (s *Server) CrosswalkFile(ctx context.Context, r api.CrosswalkFileRequestObject) (api.CrosswalkFileResponseObject, error) {
	c, _, _, err := s.whole(ctx, r.Book, r.Name)
	if err != nil {
		return nil, err
	}
	if len(c.Standards) == 0 {
		return nil, problem.New("Decide on some spellings first", "the crosswalk %s knows nothing yet", r.Name)
	}
	return crosswalkFile{ctx, c, r.Name + "." + cmp.Or(string(r.Params.Format), "csv")}, nil
}

type crosswalkFile struct {
	ctx  context.Context
	c    crosswalk.Crosswalk
	name string
}

// VisitCrosswalkFileResponse writes the file.
func (f crosswalkFile) VisitCrosswalkFileResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": f.name}))
	return vocabulary.Write(f.ctx, w, f.name, f.c)
}

// GetForms gives the short forms of a book.
func (s *Server) GetForms(ctx context.Context, r api.GetFormsRequestObject) (api.GetFormsResponseObject, error) {
	forms, err := s.store.ShortForms(ctx, r.Book)
	return api.GetForms200JSONResponse{Forms: forms}, err
}

// SetForms replaces them.
func (s *Server) SetForms(ctx context.Context, r api.SetFormsRequestObject) (api.SetFormsResponseObject, error) {
	return api.SetForms204Response{}, s.store.SetShortForms(ctx, r.Book, r.Body.Forms)
}

// KeepApart remembers that two values are two things.
func (s *Server) KeepApart(ctx context.Context, r api.KeepApartRequestObject) (api.KeepApartResponseObject, error) {
	return api.KeepApart204Response{}, s.store.KeepApart(ctx, r.Book, r.Name, r.Body.Value, r.Body.Other)
}

// WithdrawApart takes that back.
func (s *Server) WithdrawApart(ctx context.Context, r api.WithdrawApartRequestObject) (api.WithdrawApartResponseObject, error) {
	return api.WithdrawApart204Response{}, s.store.WithdrawApart(ctx, r.Book, r.Name, r.Body.Value, r.Body.Other)
}
