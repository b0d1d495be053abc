package server

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"net/http"

	"github.com/gin-gonic/gin"

	"grandledger/api"
	"grandledger/core/problem"
	"grandledger/store"
)

// send answers with a problem document.
func send(c *gin.Context, p api.Problem) {
	if c.Writer.Written() {
		return
	}
	raw, err := json.Marshal(p)
	if err != nil {
		slog.Error("a problem could not be written", "error", err)
	}
	c.Data(p.Status, "application/problem+json", raw)
	c.Abort()
}

func badRequest(err error) api.Problem {
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		return api.Problem{Title: "Too large", Status: http.StatusRequestEntityTooLarge, Detail: "the request is larger than is taken"}
	}
	return api.Problem{Title: "The request cannot be read", Status: http.StatusBadRequest, Detail: err.Error()}
}

// problemOf says an error in the form of the API: what is wrong with the input as 422,
// what has changed meanwhile as 409, what is not there as 404, all else as 500 without
// its inner words.
func problemOf(path string, err error) api.Problem {
	var p *problem.Problem
	var stale *store.Stale
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &p):
		return described(p)
	case errors.As(err, &stale):
		doc := api.Problem{Title: "The table has changed since", Status: http.StatusConflict, Detail: stale.Error(),
			Remedy: "Look at what was posted or reversed meanwhile, then draft it again", Since: []api.Entry{}}
		for _, e := range stale.Since {
			doc.Since = append(doc.Since, entryOf(e))
		}
		return doc
	case errors.Is(err, store.ErrNotFound):
		return api.Problem{Title: "Not found", Status: http.StatusNotFound, Detail: err.Error()}
	case errors.As(err, &tooLarge):
		return badRequest(err)
	case errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, context.Canceled):
		return api.Problem{Title: "The request was cut off", Status: http.StatusBadRequest, Detail: "the connection ended before the request did", Remedy: "Try again"}
	}
	slog.Error("a request failed", "path", path, "error", err)
	return api.Problem{Title: "Something went wrong inside", Status: http.StatusInternalServerError,
		Detail: "the request could not be answered; the log has the reason"}
}

func described(p *problem.Problem) api.Problem {
	return api.Problem{Title: "This cannot be done", Status: http.StatusUnprocessableEntity,
		Detail: p.What, Remedy: p.Remedy, File: p.File, Row: p.Row, Column: p.Column}
}
