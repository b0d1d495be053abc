package server

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"sync"
	"time"

	"grandledger/api"
	"grandledger/store"
)

// hub passes the database's notifications on to the open pages.
type hub struct {
	store *store.Store
	mu    sync.Mutex
	pages map[chan []byte]bool
}

func newHub(s *store.Store) *hub { return &hub{store: s, pages: map[chan []byte]bool{}} }

// run listens until the context ends; after a lost connection it listens again and
// tells the pages to look anew.
func (h *hub) run(ctx context.Context) {
	for ctx.Err() == nil {
		if err := h.listen(ctx); err != nil && ctx.Err() == nil {
			slog.Warn("listening to the database", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

func (h *hub) listen(ctx context.Context) error {
	pooled, err := h.store.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	conn := pooled.Hijack() // a listening connection is never lent to others
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "listen "+store.Channel); err != nil {
		return err
	}
	h.tell([]byte(`{"all":true}`))
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		h.tell([]byte(n.Payload))
	}
}

// tell hands a message to every page; a page that does not keep up loses messages, not
// the others theirs.
func (h *hub) tell(message []byte) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for page := range h.pages {
		select {
		case page <- message:
		default:
		}
	}
}

func (h *hub) open() chan []byte {
	page := make(chan []byte, 64)
	h.mu.Lock()
	defer h.mu.Unlock()
	h.pages[page] = true
	return page
}

func (h *hub) close(page chan []byte) {
	h.mu.Lock()
	defer h.mu.Unlock()
	delete(h.pages, page)
}

// Events streams what changes to a page.
func (s *Server) Events(ctx context.Context, _ api.EventsRequestObject) (api.EventsResponseObject, error) {
	return stream{ctx, s}, nil
}

type stream struct {
	ctx context.Context
	s   *Server
}

// VisitEventsResponse writes events until the page goes away.
func (e stream) VisitEventsResponse(w http.ResponseWriter) error {
	page := e.s.events.open()
	defer e.s.events.close(page)
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	out := http.NewResponseController(w)
	beat := time.NewTicker(15 * time.Second)
	defer beat.Stop()
	for {
		if err := out.Flush(); err != nil {
			return err
		}
		select {
		case <-e.ctx.Done():
			return nil
		case <-beat.C:
			if _, err := fmt.Fprint(w, ": here\n\n"); err != nil {
				return err
			}
		case message := <-page:
			if err := e.write(w, message); err != nil {
				return err
			}
		}
	}
}

func (e stream) write(w http.ResponseWriter, message []byte) error {
	var m struct {
		Job, Table int64
		All        bool
	}
	if err := json.Unmarshal(message, &m); err != nil {
		return nil // not ours
	}
	switch {
	case m.Job != 0:
		j, err := e.s.queue.Get(e.ctx, m.Job)
		if err != nil {
			return nil // it is shown when it is next asked for
		}
		var raw bytes.Buffer
		if err := json.NewEncoder(&raw).Encode(jobOf(j)); err != nil {
			return err
		}
		_, err = fmt.Fprintf(w, "event: job\ndata: %s\n\n", bytes.TrimSpace(raw.Bytes()))
		return err
	case m.Table != 0:
		_, err := fmt.Fprintf(w, "event: table\ndata: %d\n\n", m.Table)
		return err
	}
	_, err := fmt.Fprint(w, "event: all\ndata: 0\n\n")
	return err
}
