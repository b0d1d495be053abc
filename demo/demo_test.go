package demo

import (
	"bytes"
	"context"
	"maps"
	"slices"
	"testing"

	"grandledger/core/duplicate"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/formats/csv"
	"grandledger/formats/intake"
)

func open(t *testing.T, f File) *table.Table {
	t.Helper()
	tab, report, err := csv.Read(context.Background(), bytes.NewReader(f.Bytes), nil, intake.Options{File: f.Name})
	if err != nil || len(report.Notes) > 0 {
		t.Fatalf("%s: %v %v", f.Name, report, err)
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
	if s := duplicate.Find(landings, []*table.Column{no}).Summary(); s.Repeats != truth.Repeats || landings.Rows() != truth.Landings {
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
	if v := open(t, files[1]); v.Rows() != truth.Vessels {
		t.Errorf("%d vessels, want %d", v.Rows(), truth.Vessels)
	}
}
