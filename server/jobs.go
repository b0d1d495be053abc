package server

import (
	"context"

	"grandledger/api"
	"grandledger/jobs"
)

func jobOf(j jobs.Job) api.Job {
	out := api.Job{Id: j.ID, Kind: j.Kind, Title: j.Title, State: api.JobState(j.State), Done: j.Done, Total: j.Total, Unit: j.Unit,
		Rows: j.Rows, SecondsLeft: j.SecondsLeft, StartedAt: j.StartedAt, Table: j.Table}
	if j.Problem != nil {
		p := described(j.Problem)
		out.Problem = &p
	}
	return out
}

// ListJobs lists a book's jobs.
func (s *Server) ListJobs(ctx context.Context, r api.ListJobsRequestObject) (api.ListJobsResponseObject, error) {
	all, err := s.queue.List(ctx, r.Book)
	if err != nil {
		return nil, err
	}
	out := api.ListJobs200JSONResponse{}
	for _, j := range all {
		out = append(out, jobOf(j))
	}
	return out, nil
}

// GetJob gives one job.
func (s *Server) GetJob(ctx context.Context, r api.GetJobRequestObject) (api.GetJobResponseObject, error) {
	j, err := s.queue.Get(ctx, r.Job)
	return api.GetJob200JSONResponse(jobOf(j)), err
}

// CancelJob asks a job to stop.
func (s *Server) CancelJob(ctx context.Context, r api.CancelJobRequestObject) (api.CancelJobResponseObject, error) {
	j, err := s.queue.Cancel(ctx, r.Job)
	return api.CancelJob202JSONResponse(jobOf(j)), err
}
