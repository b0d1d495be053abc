package server

import (
	"context"
	"fmt"
	"strings"

	"grandledger/api"
	"grandledger/core/tally"
	"grandledger/core/tidy"
)

// GetDetail gives what a column holds beyond its line in the register.
func (s *Server) GetDetail(ctx context.Context, r api.GetDetailRequestObject) (api.GetDetailResponseObject, error) {
	t, c, err := s.columnOf(ctx, r.Table, r.Params.Revision, r.Params.Where, r.Params.Column)
	if err != nil {
		return nil, err
	}
	d, err := view(s, t.revision, t.what(fmt.Sprintf("detail %q", c.Name)), func() (*tally.Detail, error) {
		d := tally.More(t.Table, c)
		d.Shortest, _ = cutCell(d.Shortest)
		d.Longest, _ = cutCell(d.Longest)
		for i := range d.Shapes {
			d.Shapes[i].Shape, _ = cutCell(d.Shapes[i].Shape)
			d.Shapes[i].Example, _ = cutCell(d.Shapes[i].Example)
		}
		return d, nil
	})
	if err != nil {
		return nil, err
	}
	return api.GetDetail200JSONResponse(*d), nil
}

// chartLines is how many values of a category have figures of their own.
const chartLines = 40

// GetMeasures works out figures by a category.
func (s *Server) GetMeasures(ctx context.Context, r api.GetMeasuresRequestObject) (api.GetMeasuresResponseObject, error) {
	t, c, err := s.columnOf(ctx, r.Table, r.Params.Revision, r.Params.Where, r.Params.Category)
	if err != nil {
		return nil, err
	}
	var measures []tally.Measure
	for _, m := range r.Params.Measure {
		of, name, _ := strings.Cut(m, ":")
		if of != string(tally.Rows) {
			if _, err := column(t.Table, name); err != nil {
				return nil, err
			}
		}
		measures = append(measures, tally.Measure{Column: name, Of: tally.Figure(of)})
	}
	found, err := view(s, t.revision, t.what(fmt.Sprintf("measures %q %q", c.Name, r.Params.Measure)), func() (*tally.Measured, error) {
		m, err := tally.MeasuresBy(t.Table, c, measures, chartLines)
		if err == nil {
			for i := range m.Lines {
				m.Lines[i].Value, _ = cutCell(m.Lines[i].Value)
			}
		}
		return m, err
	})
	if err != nil {
		return nil, err
	}
	return api.GetMeasures200JSONResponse(*found), nil
}

// GetSuggestions says what the columns need to be tidied of.
func (s *Server) GetSuggestions(ctx context.Context, r api.GetSuggestionsRequestObject) (api.GetSuggestionsResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	found, err := view(s, t.revision, t.what("suggestions"), func() ([]tidy.Suggestion, error) {
		all := tidy.Suggest(t.Table)
		for i := range all {
			all[i].Example, _ = cutCell(all[i].Example)
			all[i].Becomes, _ = cutCell(all[i].Becomes)
		}
		return all, nil
	})
	return api.GetSuggestions200JSONResponse(found), err
}

// GetKeys says what the columns of a table are to one another.
func (s *Server) GetKeys(ctx context.Context, r api.GetKeysRequestObject) (api.GetKeysResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	found, err := view(s, t.revision, t.what("keys"), func() (*tally.Together, error) { return tally.TogetherOf(ctx, t.Table) })
	if err != nil {
		return nil, err
	}
	return api.GetKeys200JSONResponse(*found), nil
}

// GetTimeline counts the rows of a column of dates by day, month or year.
func (s *Server) GetTimeline(ctx context.Context, r api.GetTimelineRequestObject) (api.GetTimelineResponseObject, error) {
	t, c, err := s.columnOf(ctx, r.Table, r.Params.Revision, r.Params.Where, r.Params.Column)
	if err != nil {
		return nil, err
	}
	line, err := tally.Over(t.Table, c, string(r.Params.By))
	if err != nil {
		return nil, err
	}
	return api.GetTimeline200JSONResponse(*line), nil
}

// The lines and columns of a cross table that are shown by themselves.
const (
	crossLines   = 100
	crossColumns = 20
)

// GetCross counts the rows by the values of two columns.
func (s *Server) GetCross(ctx context.Context, r api.GetCrossRequestObject) (api.GetCrossResponseObject, error) {
	t, a, err := s.columnOf(ctx, r.Table, r.Params.Revision, r.Params.Where, r.Params.Lines)
	if err != nil {
		return nil, err
	}
	b, err := column(t.Table, r.Params.Columns)
	if err != nil {
		return nil, err
	}
	cross, err := view(s, t.revision, t.what(fmt.Sprintf("cross %q %q", a.Name, b.Name)), func() (*tally.Cross, error) {
		x := tally.CrossOf(t.Table, a, b, crossLines, crossColumns)
		for _, lines := range [][]tally.Line{x.Lines, x.Columns} {
			for i := range lines {
				lines[i].Value, _ = cutCell(lines[i].Value)
			}
		}
		return x, nil
	})
	if err != nil {
		return nil, err
	}
	return api.GetCross200JSONResponse(*cross), nil
}
