package asking

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"
)

// Named is something with an id and a name: a type, a property.
type Named struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Manifest is what a service says of itself.
type Manifest struct {
	Versions        []string `json:"versions"`
	Name            string   `json:"name"`
	IdentifierSpace string   `json:"identifierSpace"`
	SchemaSpace     string   `json:"schemaSpace"`
	DefaultTypes    []Named  `json:"defaultTypes"`
	View            struct {
		URL string `json:"url"`
	} `json:"view"`
	Extend *struct {
		ProposeProperties *struct {
			URL  string `json:"service_url"`
			Path string `json:"service_path"`
		} `json:"propose_properties"`
	} `json:"extend"`
}

// Page is the address of an entry's page; "" where the service has none.
func (m Manifest) Page(id string) string {
	if m.View.URL == "" {
		return ""
	}
	return strings.ReplaceAll(m.View.URL, "{{id}}", url.PathEscape(id))
}

// Manifest asks a service what it is.
func (s *Service) Manifest(ctx context.Context) (m Manifest, err error) {
	if err = s.get(ctx, s.base, nil, &m); err != nil {
		return m, err
	}
	if m.Name == "" {
		return m, s.failed("Look whether the address is that of a reconciliation service", "says no name of itself")
	}
	return m, nil
}

// Query is what is asked: a name, the kind of thing, and properties.
type Query struct {
	Query      string     `json:"query"`
	Type       string     `json:"type,omitempty"`
	Limit      int        `json:"limit,omitempty"`
	Properties []Property `json:"properties,omitempty"`
}

// Property is a value that a property should have.
type Property struct {
	ID    string `json:"pid"`
	Value string `json:"v"`
}

// Candidate is an entry that is offered.
type Candidate struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Score float64 `json:"score"`
	Match bool    `json:"match"`
	Types []Named `json:"type"`
}

// Ask asks queries in batches, several at once, and tells of each what was offered as soon as it is known, one call at a time; a query that the service left out is not told, and stays unasked.
// The first error ends it; what was told until then holds.
func (s *Service) Ask(ctx context.Context, queries []Query, told func(query int, found []Candidate) error) error {
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(s.o.AtOnce)
	var mu sync.Mutex
	for from := 0; from < len(queries) && ctx.Err() == nil; from += s.o.Batch {
		to := min(from+s.o.Batch, len(queries))
		work.Go(func() error {
			found, err := s.batch(ctx, queries[from:to])
			if err != nil {
				return err
			}
			mu.Lock()
			defer mu.Unlock()
			for i := range to - from {
				if of, ok := found[i]; ok {
					if err := told(from+i, of); err != nil {
						return err
					}
				}
			}
			return nil
		})
	}
	return work.Wait()
}

// batch asks some queries in one request.
func (s *Service) batch(ctx context.Context, queries []Query) (map[int][]Candidate, error) {
	asked := map[string]Query{}
	for i, q := range queries {
		if q.Limit == 0 {
			q.Limit = s.o.Limit
		}
		asked["q"+strconv.Itoa(i)] = q
	}
	body, err := json.Marshal(asked)
	if err != nil {
		return nil, err
	}
	var answer map[string]struct {
		Result []Candidate `json:"result"`
	}
	if err := s.get(ctx, s.base, url.Values{"queries": {string(body)}}, &answer); err != nil {
		return nil, err
	}
	out := map[int][]Candidate{}
	for i := range queries {
		of, ok := answer["q"+strconv.Itoa(i)]
		if !ok {
			continue
		}
		out[i] = []Candidate{}
		seen := map[string]bool{}
		for _, c := range of.Result {
			if c.ID == "" || c.Name == "" || seen[c.ID] || len(out[i]) == maxCandidates {
				continue
			}
			seen[c.ID] = true
			out[i] = append(out[i], c)
		}
	}
	return out, nil
}

// Facts asks for properties of entries: by id, by property, the values as text. Entries that the service leaves out are not there.
func (s *Service) Facts(ctx context.Context, ids, properties []string, told func(id string, facts map[string][]string) error) error {
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(s.o.AtOnce)
	var mu sync.Mutex
	for from := 0; from < len(ids) && ctx.Err() == nil; from += s.o.Batch * 5 {
		some := ids[from:min(from+s.o.Batch*5, len(ids))]
		work.Go(func() error {
			var wanted []map[string]string
			for _, p := range properties {
				wanted = append(wanted, map[string]string{"id": p})
			}
			body, err := json.Marshal(map[string]any{"ids": some, "properties": wanted})
			if err != nil {
				return err
			}
			var answer struct {
				Rows map[string]map[string][]fact `json:"rows"`
			}
			if err := s.get(ctx, s.base, url.Values{"extend": {string(body)}}, &answer); err != nil {
				return err
			}
			mu.Lock()
			defer mu.Unlock()
			for _, id := range some {
				row, ok := answer.Rows[id]
				if !ok {
					continue
				}
				facts := map[string][]string{}
				for _, p := range properties {
					for _, f := range row[p] {
						if v := f.String(); v != "" {
							facts[p] = append(facts[p], v)
						}
					}
				}
				if err := told(id, facts); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return work.Wait()
}

// fact is a value of a property: a text, a number, a date, a truth, or an entry.
type fact struct {
	Str   *string      `json:"str"`
	Float *json.Number `json:"float"`
	Int   *json.Number `json:"int"`
	Date  *string      `json:"date"`
	Bool  *bool        `json:"bool"`
	ID    *string      `json:"id"`
	Name  *string      `json:"name"`
}

func (f fact) String() string {
	switch {
	case f.Str != nil:
		return *f.Str
	case f.Float != nil:
		return f.Float.String()
	case f.Int != nil:
		return f.Int.String()
	case f.Date != nil:
		return *f.Date
	case f.Bool != nil:
		return fmt.Sprint(*f.Bool)
	case f.Name != nil:
		return *f.Name
	case f.ID != nil:
		return *f.ID
	}
	return ""
}

// Properties asks which properties entries of a type have.
func (s *Service) Properties(ctx context.Context, m Manifest, kind string) ([]Named, error) {
	if m.Extend == nil || m.Extend.ProposeProperties == nil {
		return nil, nil
	}
	where, err := url.Parse(m.Extend.ProposeProperties.URL + m.Extend.ProposeProperties.Path)
	if err != nil || where.Host != s.base.Host {
		return nil, s.failed("Name its properties by hand", "keeps its properties at another address")
	}
	q := where.Query()
	q.Set("type", kind)
	where.RawQuery = q.Encode()
	var answer struct {
		Properties []Named `json:"properties"`
	}
	err = s.get(ctx, where, nil, &answer)
	return answer.Properties, err
}
