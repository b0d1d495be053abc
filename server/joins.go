package server

import (
	"context"

	"grandledger/api"
	"grandledger/core/join"
	"grandledger/jobs"
)

func drawArgs(book int64, j api.Join) jobs.DrawArgs {
	return jobs.DrawArgs{Book: book, Name: j.Name, LeftTable: j.Left.Table, LeftRevision: j.Left.Revision, RightTable: j.Right.Table, RightRevision: j.Right.Revision,
		Spec: join.Spec{On: j.On, Rows: join.Rows(j.Rows), Left: j.BringLeft, Right: j.BringRight}}
}

// listedUnmatched is how many keys without a partner a draft lists for each side.
const listedUnmatched = 100

// DraftJoin says what a join would give.
func (s *Server) DraftJoin(ctx context.Context, r api.DraftJoinRequestObject) (api.DraftJoinResponseObject, error) {
	m, _, err := s.queue.Match(ctx, drawArgs(r.Book, *r.Body))
	if err != nil {
		return nil, err
	}
	out := api.DraftJoin200JSONResponse{Coverage: m.Coverage, Balance: m.Balance()}
	out.Left, out.Right = m.Columns()
	out.UnmatchedLeft, out.UnmatchedLeftKeys = m.UnmatchedLeft(listedUnmatched)
	out.UnmatchedRight, out.UnmatchedRightKeys = m.UnmatchedRight(listedUnmatched)
	return out, nil
}

// PostJoin queues the drawing of a consolidated table.
func (s *Server) PostJoin(ctx context.Context, r api.PostJoinRequestObject) (api.PostJoinResponseObject, error) {
	j, err := s.queue.Draw(ctx, r.Params.IdempotencyKey, drawArgs(r.Book, *r.Body))
	return api.PostJoin202JSONResponse(jobOf(j)), err
}
