// Package standin holds small simulated outside services, which ship with the product so that everything is shown and tested against something that answers over HTTP: here an authority that speaks
// the reconciliation service API, version 0.2.
package standin

import (
	"cmp"
	"encoding/json"
	"fmt"
	"html"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"grandledger/core/table"
	"grandledger/core/text"
)

// Trouble is what is wrong with an authority, to see what becomes of those who ask it.
type Trouble struct {
	Latency time.Duration // before each answer
	Errors  int           // one answer in so many is an error; 0 for none
	Rate    int           // requests a second that are answered; 0 for all
}

// Authority is a table served as one.
type Authority struct {
	Name    string // of the authority
	Kind    string // of its entries
	t       *table.Table
	id, of  *table.Column
	trouble Trouble

	byID  map[string]int
	grams map[string][]int32 // entries by three letters of their names
	size  []int              // of each name, in such parts

	mu    sync.Mutex
	asked int
	times []time.Time
}

// New serves a table: a column of identifiers, one of names, all others are properties.
func New(name, kind string, t *table.Table, id, of string, trouble Trouble) (*Authority, error) {
	a := &Authority{Name: name, Kind: kind, t: t, trouble: trouble, byID: map[string]int{}, grams: map[string][]int32{}}
	var err error
	if a.id, _, err = t.Column(id); err != nil {
		return nil, err
	}
	if a.of, _, err = t.Column(of); err != nil {
		return nil, err
	}
	for row := range t.Rows() {
		a.byID[a.cell(a.id, row)] = row
		parts := grams(a.cell(a.of, row))
		for _, g := range parts {
			a.grams[g] = append(a.grams[g], int32(row))
		}
		a.size = append(a.size, len(parts))
	}
	return a, nil
}

func (a *Authority) cell(c *table.Column, row int) string {
	v, _ := c.Value(a.t.BaseRow(row))
	return v
}

// grams are the different stretches of three letters of a folded text.
func grams(v string) []string {
	letters := []rune("  " + text.Fold(v) + " ")
	var out []string
	for i := range max(0, len(letters)-2) {
		if g := string(letters[i : i+3]); !slices.Contains(out, g) {
			out = append(out, g)
		}
	}
	return out
}

// Asked is how many requests were answered or refused.
func (a *Authority) Asked() int {
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.asked
}

// held says whether a request is refused, as the trouble goes, and counts it.
func (a *Authority) held(w http.ResponseWriter) bool {
	time.Sleep(a.trouble.Latency)
	a.mu.Lock()
	defer a.mu.Unlock()
	a.asked++
	now := time.Now()
	if a.trouble.Rate > 0 {
		a.times = slices.DeleteFunc(a.times, func(t time.Time) bool { return now.Sub(t) > time.Second })
		if len(a.times) >= a.trouble.Rate {
			w.Header().Set("Retry-After", "1")
			http.Error(w, "slow down", http.StatusTooManyRequests)
			return true
		}
		a.times = append(a.times, now)
	}
	if a.trouble.Errors > 0 && a.asked%a.trouble.Errors == 0 {
		http.Error(w, "out of order", http.StatusInternalServerError)
		return true
	}
	return false
}

type named struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// ServeHTTP answers the manifest, queries, extension, properties and pages of entries.
func (a *Authority) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if strings.HasSuffix(r.URL.Path, "/page") {
		a.page(w, r.URL.Query().Get("id"))
		return
	}
	if a.held(w) {
		return
	}
	r.Body = http.MaxBytesReader(w, r.Body, 1<<20)
	if err := r.ParseForm(); err != nil {
		http.Error(w, "that is no form", http.StatusBadRequest)
		return
	}
	base := "http://" + r.Host + strings.TrimSuffix(r.URL.Path, "/properties")
	switch {
	case strings.HasSuffix(r.URL.Path, "/properties"):
		write(w, map[string]any{"type": a.Kind, "properties": a.properties()})
	case r.Form.Has("queries"):
		a.queries(w, r.Form.Get("queries"))
	case r.Form.Has("extend"):
		a.extend(w, r.Form.Get("extend"))
	default:
		write(w, map[string]any{
			"versions": []string{"0.2"}, "name": a.Name, "identifierSpace": base + "/id/", "schemaSpace": base + "/property/",
			"defaultTypes": []named{{a.Kind, a.Kind}}, "view": map[string]string{"url": base + "/page?id={{id}}"},
			"extend": map[string]any{"propose_properties": map[string]string{"service_url": "http://" + r.Host, "service_path": strings.TrimPrefix(base, "http://"+r.Host) + "/properties"}},
		})
	}
}

func write(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(v)
}

func (a *Authority) properties() []named {
	var out []named
	for _, c := range a.t.Columns() {
		if c != a.id && c != a.of {
			out = append(out, named{c.Name, c.Name})
		}
	}
	return out
}

type offered struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Type  []named `json:"type"`
	Score float64 `json:"score"`
	Match bool    `json:"match"`
}

func (a *Authority) queries(w http.ResponseWriter, raw string) {
	var queries map[string]struct {
		Query string `json:"query"`
		Limit int    `json:"limit"`
	}
	if err := json.Unmarshal([]byte(raw), &queries); err != nil {
		http.Error(w, "the queries are no JSON object", http.StatusBadRequest)
		return
	}
	out := map[string]any{}
	for key, q := range queries {
		out[key] = map[string]any{"result": a.find(q.Query, cmp.Or(q.Limit, 10))}
	}
	write(w, out)
}

// find gives the entries whose names have most parts in common with what is asked (the coefficient of L. Dice 1945), of 100.
func (a *Authority) find(query string, limit int) []offered {
	shared := map[int32]int{}
	asked := grams(query)
	for _, g := range asked {
		for _, row := range a.grams[g] {
			shared[row]++
		}
	}
	out := []offered{}
	for row, n := range shared {
		score := 200 * float64(n) / float64(len(asked)+a.size[row])
		if score < 30 {
			continue
		}
		name := a.cell(a.of, int(row))
		out = append(out, offered{a.cell(a.id, int(row)), name, []named{{a.Kind, a.Kind}}, float64(int(score)), text.Fold(name) == text.Fold(query)})
	}
	slices.SortFunc(out, func(x, y offered) int { return cmp.Or(cmp.Compare(y.Score, x.Score), cmp.Compare(x.ID, y.ID)) })
	return out[:min(len(out), max(limit, 1))]
}

func (a *Authority) extend(w http.ResponseWriter, raw string) {
	var asked struct {
		IDs        []string `json:"ids"`
		Properties []named  `json:"properties"`
	}
	if err := json.Unmarshal([]byte(raw), &asked); err != nil {
		http.Error(w, "the extension is no JSON object", http.StatusBadRequest)
		return
	}
	rows := map[string]any{}
	var meta []named
	for _, p := range asked.Properties {
		meta = append(meta, named{p.ID, p.ID})
	}
	for _, id := range asked.IDs {
		row, ok := a.byID[id]
		if !ok {
			continue
		}
		facts := map[string]any{}
		for _, p := range asked.Properties {
			values := []map[string]any{}
			if c, _, err := a.t.Column(p.ID); err == nil {
				if v := a.cell(c, row); v != "" {
					if n, err := strconv.Atoi(v); err == nil && strconv.Itoa(n) == v {
						values = append(values, map[string]any{"int": n})
					} else {
						values = append(values, map[string]any{"str": v})
					}
				}
			}
			facts[p.ID] = values
		}
		rows[id] = facts
	}
	write(w, map[string]any{"meta": meta, "rows": rows})
}

// page is an entry for people.
func (a *Authority) page(w http.ResponseWriter, id string) {
	row, ok := a.byID[id]
	if !ok {
		http.Error(w, "there is no such entry", http.StatusNotFound)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", "default-src 'none'")
	fmt.Fprintf(w, "<!doctype html><title>%s</title><h1>%s</h1><dl>", html.EscapeString(a.Name), html.EscapeString(a.cell(a.of, row)))
	for _, c := range a.t.Columns() {
		fmt.Fprintf(w, "<dt>%s</dt><dd>%s</dd>", html.EscapeString(c.Name), html.EscapeString(a.cell(c, row)))
	}
	fmt.Fprint(w, "</dl>")
}
