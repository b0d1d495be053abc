package server

import (
	"bytes"
	"context"
	"encoding/json"
	"strings"

	"grandledger/api"
	"grandledger/core/condition"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/store"
)

// narrowed is a revision, or the part of it that holds a condition, and a name for what was
// worked out from it.
type narrowed struct {
	*table.Table
	revision int64
	where    string
}

// within loads the revision asked for and narrows it by the condition asked for, if any.
// The narrowed table is kept, so that its counts are shared by all views of it.
func (s *Server) within(ctx context.Context, id, revision int64, where string) (narrowed, error) {
	l, err := s.at(ctx, id, revision)
	if err != nil {
		return narrowed{}, err
	}
	return s.narrow(ctx, l, where)
}

// columnOf is within, and a column of it.
func (s *Server) columnOf(ctx context.Context, id, revision int64, where, name string) (narrowed, *table.Column, error) {
	t, err := s.within(ctx, id, revision, where)
	if err != nil {
		return t, nil, err
	}
	c, err := column(t.Table, name)
	return t, c, err
}

func (s *Server) narrow(ctx context.Context, l *store.Loaded, where string) (narrowed, error) {
	if where == "" {
		return narrowed{l.Table, l.Revision, ""}, nil
	}
	c, err := conditionOf(where)
	if err != nil {
		return narrowed{}, err
	}
	t, err := view(s, l.Revision, "where "+where, func() (*table.Table, error) {
		t, _, err := condition.Narrow(ctx, l.Table, c)
		return t, err
	})
	return narrowed{t, l.Revision, where}, err
}

// what names something worked out from the narrowed table.
func (n narrowed) what(name string) string {
	if n.where == "" {
		return name
	}
	return name + " where " + n.where
}

func conditionOf(text string) (*condition.Condition, error) {
	c := &condition.Condition{}
	d := json.NewDecoder(bytes.NewReader([]byte(text)))
	d.DisallowUnknownFields()
	if err := d.Decode(c); err != nil {
		return nil, problem.New("Open the page anew", "the condition cannot be read: %v", err)
	}
	return c, c.Check()
}

// CountCondition counts the rows that hold a condition and its parts.
func (s *Server) CountCondition(ctx context.Context, r api.CountConditionRequestObject) (api.CountConditionResponseObject, error) {
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	_, count, err := condition.Rows(ctx, l.Table, r.Body)
	if err != nil {
		return nil, err
	}
	return api.CountCondition200JSONResponse{Revision: l.Revision, Words: r.Body.Words(), Total: l.Table.Rows(), Count: count}, nil
}

// ListConditions lists the kept conditions of a book.
func (s *Server) ListConditions(ctx context.Context, r api.ListConditionsRequestObject) (api.ListConditionsResponseObject, error) {
	kept, err := s.store.Conditions(ctx, r.Book)
	if err != nil {
		return nil, err
	}
	out := api.ListConditions200JSONResponse{}
	for _, k := range kept {
		out = append(out, api.KeptCondition{Name: k.Name, Condition: k.Condition})
	}
	return out, nil
}

// KeepCondition keeps a condition under a name.
func (s *Server) KeepCondition(ctx context.Context, r api.KeepConditionRequestObject) (api.KeepConditionResponseObject, error) {
	name := strings.TrimSpace(r.Body.Name)
	if name == "" || len(name) > 200 {
		return nil, problem.New("Type a name of at most 200 letters", "the condition has no name, or a very long one")
	}
	if err := r.Body.Condition.Check(); err != nil {
		return nil, err
	}
	if _, err := s.store.Book(ctx, r.Book); err != nil {
		return nil, err
	}
	return api.KeepCondition204Response{}, s.store.KeepCondition(ctx, r.Book, store.KeptCondition{Name: name, Condition: r.Body.Condition})
}

// DropCondition forgets a kept condition.
func (s *Server) DropCondition(ctx context.Context, r api.DropConditionRequestObject) (api.DropConditionResponseObject, error) {
	return api.DropCondition204Response{}, s.store.DropCondition(ctx, r.Book, r.Params.Name)
}
