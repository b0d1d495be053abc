// Package server is the HTTP face of Grand Ledger: the interface that api/openapi.yaml
// describes, and the built pages. Handlers translate between the API and the store,
// the jobs and the core; no rule of the work is decided here.
package server

import (
	"context"
	"log/slog"
	"net"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"grandledger/api"
	"grandledger/jobs"
	"grandledger/store"
)

// Limits of requests.
const (
	MaxUpload = 8 << 30 // bytes of a received file
	maxBody   = 8 << 20 // bytes of any other request
	maxPage   = 500     // lines or rows of one answer
	maxCell   = 2000    // characters of a cell in an answer
	keptViews = 64      // what was worked out and is kept: tallies, registers, groups
)

// Server answers requests. Make one with New.
type Server struct {
	store   *store.Store
	queue   *jobs.Queue
	uploads string
	events  *hub
	views   *lru.Cache[viewKey, any]

	services     []string // authorities that are asked though their addresses are private
	linkedAtOnce int      // records that are linked while a page waits
}

// New makes a server that keeps received files in the directory uploads and reads files by
// path from the directories of from; services are authorities, as host:port, that are asked though their addresses are private. Run must be called for events to be told and jobs to be done.
func New(ctx context.Context, s *store.Store, uploads string, from, services []string) (*Server, error) {
	views, err := lru.New[viewKey, any](keptViews)
	if err != nil {
		return nil, err
	}
	srv := &Server{store: s, uploads: uploads, events: newHub(s), views: views, linkedAtOnce: maxLinkedRows, services: services}
	if srv.queue, err = jobs.Open(ctx, s, jobs.Options{Services: services}); err != nil {
		return nil, err
	}
	return srv, srv.queue.Allow(from)
}

// Run does jobs and tells events until the context ends.
func (s *Server) Run(ctx context.Context) error {
	if err := s.sweep(ctx); err != nil {
		return err
	}
	if err := s.queue.Start(ctx); err != nil {
		return err
	}
	s.events.run(ctx)
	return s.queue.Stop(context.WithoutCancel(ctx))
}

// Handler routes the interface and the pages.
func (s *Server) Handler() http.Handler {
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.ContextWithFallback = true // a handler's context ends with its request
	e.UseRawPath, e.UnescapePathValues = true, true
	e.Use(gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, err any) {
		slog.Error("a request panicked", "path", c.Request.URL.Path, "error", err)
		send(c, api.Problem{Title: "Something went wrong inside", Status: 500, Detail: "the request could not be answered; the log has the reason"})
	}), headers, limit)
	h := api.NewStrictHandlerWithOptions(s, nil, api.StrictGinServerOptions{
		RequestErrorHandlerFunc: func(c *gin.Context, err error) { send(c, badRequest(err)) },
		HandlerErrorFunc:        func(c *gin.Context, err error) { send(c, problemOf(c.Request.URL.Path, err)) },
		ResponseErrorHandlerFunc: func(c *gin.Context, err error) {
			slog.Warn("an answer was cut off", "path", c.Request.URL.Path, "error", err)
		},
	})
	api.RegisterHandlersWithOptions(e, h, api.GinServerOptions{BaseURL: "/api",
		ErrorHandler: func(c *gin.Context, err error, _ int) { send(c, badRequest(err)) }})
	e.Any("/authority/:table", s.authority)
	e.Any("/authority/:table/*what", s.authority)
	e.NoRoute(pages())
	// Requests that change something must come from our own pages, not from another
	// site open in the same browser.
	return loopbackOnly(http.NewCrossOriginProtection().Handler(e))
}

// headers keeps the pages to themselves: nothing from outside is loaded, no frame, no
// guessing of types, so the content of a cell can never run as anything.
func headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
}

func limit(c *gin.Context) {
	most := int64(maxBody)
	if strings.HasSuffix(c.Request.URL.Path, "/uploads") {
		most = MaxUpload
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
}

// loopbackOnly refuses requests under a host name that is not this machine's loopback:
// a page of another site may have its name resolve to 127.0.0.1.
func loopbackOnly(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := r.Host
		if h, _, err := net.SplitHostPort(host); err == nil {
			host = h
		}
		ip := net.ParseIP(strings.Trim(host, "[]"))
		if host != "localhost" && (ip == nil || !ip.IsLoopback()) {
			http.Error(w, "Grand Ledger answers on this machine only: open it as 127.0.0.1 or localhost", http.StatusForbidden)
			return
		}
		next.ServeHTTP(w, r)
	})
}
