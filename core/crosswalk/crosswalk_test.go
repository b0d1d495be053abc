package crosswalk_test

import (
	"fmt"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/crosswalk"
)

func TestWhole(t *testing.T) {
	c := crosswalk.Crosswalk{Standards: []crosswalk.Standard{{Value: "Trawl", Code: "T"}, {Value: "Trawl"}, {Value: ""}}, Lines: []crosswalk.Line{
		{"GN", "Gill net", "initials"}, {"Gill net", "Gill net", ""}, {"GN", "Gill net", "again"}, {"", "Gill net", ""}, {"trawl", "Trawl", ""}}}
	want := "{ [{Gill net   } {Trawl T  }] [{GN Gill net initials} {trawl Trawl }]}"
	if got := fmt.Sprint(c.Whole()); got != want {
		t.Errorf("%s\nwant\n%s", got, want)
	}
}

// One variant has one standard value; a second is a conflict that is told, not taken.
func TestConflicts(t *testing.T) {
	lines := []crosswalk.Line{{"GN", "Gill net", ""}, {"BT", "Bottom trawl", ""}, {"BT", "Beam trawl", ""}, {"LL", "Long line", ""}}
	got := crosswalk.Conflicts(map[string]string{"GN": "Grey nurse", "LL": "Long line"}, lines)
	if fmt.Sprint(got) != "[{GN Grey nurse Gill net} {BT Bottom trawl Beam trawl}]" {
		t.Error(got)
	}
	if err := (crosswalk.Crosswalk{Lines: lines}).Check(); err == nil || !strings.Contains(err.Error(), "“BT” is to become both “Bottom trawl” and “Beam trawl”") {
		t.Error(err)
	}
}

func TestBroader(t *testing.T) {
	chain := []crosswalk.Standard{{Value: "Cod", Broader: "Whitefish"}, {Value: "Whitefish", Broader: "Fish"}, {Value: "Fish"}}
	if err := crosswalk.CheckBroader(chain); err != nil {
		t.Error(err)
	}
	chain[2].Broader = "Cod"
	if err := crosswalk.CheckBroader(chain); err == nil || !strings.Contains(err.Error(), "“Cod” would be broader than itself: Cod → Whitefish → Fish → Cod") {
		t.Error(err)
	}
}

func TestCover(t *testing.T) {
	tab := coretest.Build([]string{"gear"}, []string{"GN"}, []string{"GN"}, []string{"Gill net"}, []string{"pots"}, []string{" "}, []string{"Trawl"}, []string{"pots"}, []string{"traps"})
	got, unknown := crosswalk.Cover(tab, tab.Columns()[0], map[string]string{"GN": "Gill net"}, map[string]bool{"Gill net": true, "Trawl": true}, 1)
	if fmt.Sprint(got, unknown) != "{5 3 7 4 1 2} [{pots 2}]" {
		t.Error(got, unknown)
	}
}
