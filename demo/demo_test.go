package demo

import (
	"bytes"
	"context"
	"fmt"
	"maps"
	"net/http/httptest"
	"net/url"
	"slices"
	"strings"
	"testing"

	"grandledger/core/duplicate"
	"grandledger/core/reading"
	"grandledger/core/reconcile"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/standin"
)

func open(t *testing.T, f File) *table.Table {
	t.Helper()
	tab, _, err := f.Read(context.Background())
	if err != nil {
		t.Fatalf("%s: %v", f.Name, err)
	}
	return tab
}

func TestSameOnEveryRun(t *testing.T) {
	a, _ := Files()
	b, _ := Files()
	for i := range a {
		if !bytes.Equal(a[i].Bytes, b[i].Bytes) {
			t.Errorf("%s differs from run to run", a[i].Name)
		}
	}
}

// The demo's truth is found: the repeats by landing number, and every spelling of gear
// that is no short form, with nothing beside.
func TestTruthIsFound(t *testing.T) {
	files, truth := Files()
	landings := open(t, files[0])
	no, _, _ := landings.Column("landing_no")
	if s := duplicate.Find(landings, duplicate.Exactly([]*table.Column{no}), false).Summary(); s.Repeats != truth.Repeats || landings.Rows() != truth.Landings {
		t.Errorf("%d rows, %+v; want %+v", landings.Rows(), s, truth)
	}
	gear, _, _ := landings.Column("gear")
	found := map[string]string{}
	for _, g := range spelling.Find(landings, gear, spelling.Decisions{}, spelling.Order) {
		for _, m := range g.Members {
			if m.Value != g.Standard {
				found[m.Value] = g.Standard
			}
		}
	}
	if !maps.Equal(found, truth.Gear) {
		t.Errorf("found %d spellings of gear, there are %d: %v", len(found), len(truth.Gear), slices.Sorted(maps.Keys(found)))
	}
	gull := open(t, files[3])
	first, _ := gull.Columns()[0].Value(0)
	landed, _, err := gull.Column("Landed")
	if err != nil || gull.Rows() != truth.Gull || first != "Spring 2031" {
		t.Fatalf("Gull Point: %d rows of %s (%v)", gull.Rows(), first, err)
	}
	if p := tally.Of(gull, landed); p.Reading != reading.Date || p.NotRead > 0 {
		t.Errorf("Gull Point's dates read as %s, %d do not", p.Reading, p.NotRead)
	}
	skerry := open(t, files[4])
	if _, _, err := skerry.Column("vessel.name"); err != nil || skerry.Rows() != truth.Skerry {
		t.Errorf("Skerry Bay: %d rows (%v)", skerry.Rows(), err)
	}
	if v := open(t, files[1]); v.Rows() != truth.Vessels {
		t.Errorf("%d vessels, want %d", v.Rows(), truth.Vessels)
	}
}

// The lots of October are settled with the auction house's statement by the truth, and the rest is what is really on one side alone or posted twice.
func TestSalesSettle(t *testing.T) {
	files, truth := Files()
	ours, theirs := open(t, files[5]), open(t, files[6])
	r, err := reconcile.Settle(context.Background(), ours, theirs, reconcile.Spec{})
	if err != nil {
		t.Fatal(err)
	}
	s, err := r.Statement()
	if err != nil || s.Unexplained != "0.00" {
		t.Fatalf("%+v %v", s, err)
	}
	known := map[Pair]bool{}
	for _, p := range truth.Sales {
		known[p] = true
	}
	found, right := 0, 0
	for _, set := range r.Sets {
		for _, x := range set.Ours {
			for _, y := range set.Theirs {
				if set.Settled {
					found++
					if known[Pair{int(x) + 1, int(y) + 1}] {
						right++
					}
				}
			}
		}
	}
	if right < found || right < len(known)*98/100 {
		t.Errorf("%d of %d settled are right, there are %d", right, found, len(known))
	}
}

// The vessel register answers with every vessel of the list, and lists some twice.
func TestRegister(t *testing.T) {
	a, err := Register(context.Background(), standin.Trouble{})
	if err != nil {
		t.Fatal(err)
	}
	files, _ := Files()
	list := open(t, files[1])
	name, _ := list.Columns()[0].Value(list.BaseRow(0))
	w := httptest.NewRecorder()
	a.ServeHTTP(w, httptest.NewRequest("GET", "/?queries="+url.QueryEscape(fmt.Sprintf(`{"q0":{"query":%q,"limit":3}}`, name)), nil))
	if got := strings.Count(w.Body.String(), fmt.Sprintf("%q", name)); got < 2 {
		t.Errorf("%s is offered %d times: %s", name, got, w.Body)
	}
}
