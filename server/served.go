package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"grandledger/api"
	"grandledger/core/authority"
	"grandledger/core/table"
	"grandledger/store"
)

// Limits of those who ask a table.
const (
	maxQueries = 50  // of one request
	maxOffers  = 20  // for one query
	maxIDs     = 200 // of one extension
)

// GetServed says whether a table answers as an authority.
func (s *Server) GetServed(ctx context.Context, r api.GetServedRequestObject) (api.GetServedResponseObject, error) {
	served, err := s.store.Served(ctx, r.Table)
	return api.GetServed200JSONResponse{Served: served, Path: fmt.Sprintf("/authority/%d", r.Table)}, err
}

// SetServed opens a table to those who ask, or closes it.
func (s *Server) SetServed(ctx context.Context, r api.SetServedRequestObject) (api.SetServedResponseObject, error) {
	if r.Body.Served { // only what can answer is opened
		if _, err := s.answerer(ctx, r.Table); err != nil {
			return nil, err
		}
	}
	return api.SetServed204Response{}, s.store.SetServed(ctx, r.Table, r.Body.Served)
}

// answerer makes a table ready to answer, once for each revision.
func (s *Server) answerer(ctx context.Context, id int64) (*authority.Answerer, error) {
	t, err := s.store.Table(ctx, id)
	if err != nil {
		return nil, err
	}
	return view(s, t.Head, "answerer", func() (*authority.Answerer, error) {
		l, err := s.store.Load(ctx, t.Head)
		if err != nil {
			return nil, err
		}
		r, err := authority.Open(l.Table, "", nil)
		if err != nil {
			return nil, err
		}
		return authority.Answering(ctx, r)
	})
}

type namedThing struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

type offerOf struct {
	namedThing
	Type  []namedThing `json:"type"`
	Score float64      `json:"score"`
	Match bool         `json:"match"`
}

// authority answers the reconciliation service API, version 0.2, for a table that is served: its manifest, queries, extension, properties and pages of entries.
func (s *Server) authority(c *gin.Context) {
	id, err := strconv.ParseInt(c.Param("table"), 10, 64)
	served := false
	if err == nil {
		served, err = s.store.Served(c, id)
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) && !errors.Is(err, strconv.ErrSyntax) || !served {
		send(c, api.Problem{Title: "Not found", Status: http.StatusNotFound, Detail: "no authority answers at this address"})
		return
	}
	about, err := s.store.Table(c, id)
	if err != nil {
		send(c, problemOf(c.Request.URL.Path, err))
		return
	}
	a, err := s.answerer(c, id)
	if err != nil {
		send(c, problemOf(c.Request.URL.Path, err))
		return
	}
	kind := []namedThing{{about.Name, about.Name}}
	base := fmt.Sprintf("http://%s/authority/%d", c.Request.Host, id)
	switch what := strings.Trim(c.Param("what"), "/"); {
	case what == "page":
		s.entryPage(c, a, about.Name)
	case what == "properties":
		c.JSON(http.StatusOK, gin.H{"type": about.Name, "properties": propertiesOf(a)})
	case what != "":
		send(c, api.Problem{Title: "Not found", Status: http.StatusNotFound, Detail: "there is nothing at this address"})
	case c.Request.FormValue("queries") != "":
		s.queries(c, a, c.Request.FormValue("queries"), kind)
	case c.Request.FormValue("extend") != "":
		s.extend(c, a, c.Request.FormValue("extend"))
	default:
		c.JSON(http.StatusOK, gin.H{"versions": []string{"0.2"}, "name": about.Name, "identifierSpace": base + "/id/", "schemaSpace": base + "/property/", "defaultTypes": kind,
			"view": gin.H{"url": base + "/page?id={{id}}"}, "extend": gin.H{"propose_properties": gin.H{"service_url": "http://" + c.Request.Host, "service_path": fmt.Sprintf("/authority/%d/properties", id)}, "property_settings": []string{}}})
	}
}

func propertiesOf(a *authority.Answerer) []namedThing {
	out := []namedThing{}
	for _, c := range a.Register.Table.Columns() {
		if c.Name != a.Register.ID {
			out = append(out, namedThing{c.Name, c.Name})
		}
	}
	return out
}

func refuse(c *gin.Context, what string) {
	send(c, api.Problem{Title: "This cannot be answered", Status: http.StatusBadRequest, Detail: what})
}

func (s *Server) queries(c *gin.Context, a *authority.Answerer, raw string, kind []namedThing) {
	var queries map[string]struct {
		Query      string
		Limit      int
		Properties []struct {
			PID string
			V   json.RawMessage
		}
	}
	if err := json.Unmarshal([]byte(raw), &queries); err != nil {
		refuse(c, "the queries are no JSON object of the protocol")
		return
	}
	if len(queries) > maxQueries {
		refuse(c, fmt.Sprintf("%d queries in one request, up to %d are answered", len(queries), maxQueries))
		return
	}
	out := gin.H{}
	for key, q := range queries {
		var wanted []authority.Wanted
		for _, p := range q.Properties {
			if _, _, err := a.Register.Table.Column(p.PID); err == nil {
				wanted = append(wanted, authority.Wanted{Property: p.PID, Value: valueOf(p.V)})
			}
		}
		limit := q.Limit
		if limit <= 0 || limit > maxOffers {
			limit = maxOffers
		}
		found, err := a.Find(q.Query, wanted, limit)
		if err != nil {
			send(c, problemOf(c.Request.URL.Path, err))
			return
		}
		offers := []offerOf{}
		for _, o := range found {
			offers = append(offers, offerOf{namedThing{a.Register.Identifier(o.Entry), a.Register.Name(o.Entry)}, kind, o.Score, o.Match})
		}
		out[key] = gin.H{"result": offers}
	}
	c.JSON(http.StatusOK, out)
}

// valueOf is a value of a property as text: a text, a number, or an entry by its name or id.
func valueOf(raw json.RawMessage) string {
	var v any
	if json.Unmarshal(raw, &v) != nil {
		return ""
	}
	switch x := v.(type) {
	case string:
		return x
	case float64:
		return strconv.FormatFloat(x, 'f', -1, 64)
	case map[string]any:
		if name, ok := x["name"].(string); ok {
			return name
		}
		id, _ := x["id"].(string)
		return id
	}
	return ""
}

func (s *Server) extend(c *gin.Context, a *authority.Answerer, raw string) {
	var asked struct {
		IDs        []string
		Properties []struct{ ID string }
	}
	if err := json.Unmarshal([]byte(raw), &asked); err != nil || len(asked.IDs) > maxIDs || len(asked.Properties) > 100 {
		refuse(c, fmt.Sprintf("the extension is no JSON object of the protocol, or asks for more than %d entries", maxIDs))
		return
	}
	rows, meta := gin.H{}, []namedThing{}
	for _, p := range asked.Properties {
		meta = append(meta, namedThing{p.ID, p.ID})
	}
	for _, id := range asked.IDs {
		row, ok := a.Entry(id)
		if !ok {
			continue
		}
		facts := gin.H{}
		for _, p := range asked.Properties {
			values := []gin.H{}
			if v := a.Register.Cell(p.ID, row); v != "" {
				values = append(values, gin.H{"str": v})
			}
			facts[p.ID] = values
		}
		rows[id] = facts
	}
	c.JSON(http.StatusOK, gin.H{"meta": meta, "rows": rows})
}

var entryPage = template.Must(template.New("entry").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>{{.Name}}</title><h1>{{.Name}}</h1><p>{{.Of}}</p><dl>{{range .Facts}}<dt>{{.Property}}<dd>{{.Value}}{{end}}</dl></html>`))

// entryPage is an entry for people.
func (s *Server) entryPage(c *gin.Context, a *authority.Answerer, of string) {
	row, ok := a.Entry(c.Query("id"))
	if !ok {
		send(c, api.Problem{Title: "Not found", Status: http.StatusNotFound, Detail: "there is no such entry"})
		return
	}
	page := struct {
		Name, Of string
		Facts    []api.EntryFact
	}{a.Register.Name(row), of, factsOf(a.Register.Table, a.Register, row)}
	c.Header("Content-Type", "text/html; charset=utf-8")
	_ = entryPage.Execute(c.Writer, page)
}

func factsOf(t *table.Table, r *authority.Register, row int) []api.EntryFact {
	out := []api.EntryFact{}
	for _, c := range t.Columns() {
		if v := r.Cell(c.Name, row); v != "" {
			out = append(out, api.EntryFact{Property: c.Name, Value: v})
		}
	}
	return out
}
