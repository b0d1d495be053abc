package e2e

import (
	"fmt"
	"testing"
)

// A whole column, from asking to facts brought home: the boats of the landings tied to the vessel list, undecided ones decided by keyboard, identifiers and a property posted as an entry.
func TestIdentifyVessels(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.see("h1", "Tern Islands")
	w.click("nav a", "^Ask an authority")
	w.see("h1", "^Ask an authority$")
	w.click("[role=combobox][aria-label='Table']", "choose")
	w.click("[role=option]", "^Landings, Port Kestrel")
	w.click("[role=combobox][aria-label='Column of names']", "choose")
	w.click("[role=option]", "^vessel$")
	w.click("[role=combobox][aria-label='Register']", "choose")
	w.click("[role=option]", "^Vessel list")
	w.press("^By the names alone")
	w.press("^Look up the names$")
	w.see("h1", "^vessel, by Vessel list$")
	w.see("dl", "identified")
	w.see("section[aria-label=Entry] li", "bits")
	var stood struct {
		Counts []struct {
			State  string
			Values int
		}
	}
	r.call("GET", "/askings/1", nil, &stood)
	undecided := func(n int) string { return fmt.Sprintf(`^Undecided \(%d\)`, n) }
	w.key('1')
	w.see("[role=status]", "It is ")
	w.see("[role=radio]", undecided(stood.Counts[1].Values-1))
	w.key('b')
	w.gone("[role=status]", "It is ")
	w.see("[role=radio]", undecided(stood.Counts[1].Values))
	w.key('l')
	w.see("[role=status]", "not listed")
	w.press("^Identified ")
	w.see("main", "Sure enough to be taken|decided")
	w.press("^Its trouble$")
	w.see("main", "To tell the keepers of Vessel list")
	w.click("a", "^Bring the identifiers home$")
	w.see("h1", "brought home")
	w.press("^home_harbour$")
	w.see("section[aria-label=Entry] td", "home_harbour of Vessel list")
	w.press("^Post entry 1$")
	w.see("section[aria-label=Entry]", "The columns stand in the table")
	var about struct{ Columns []string }
	if r.call("GET", "/tables/1", nil, &about); len(about.Columns) < 13 {
		t.Errorf("%v", about.Columns)
	}
}
