package e2e

import (
	"encoding/csv"
	"fmt"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// The vessel list and the list of another office, which writes names its own way: linked without a word of what is compared, reviewed to the end
// by keyboard, and the golden vessels drawn as a table that balances.
func TestLinkVessels(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	var text string
	r.call("GET", "/tables/2/publish", nil, &text)
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	var office strings.Builder
	fmt.Fprintln(&office, "no,name of vessel,letters,length,owner name")
	for i, row := range rows[1:] {
		name, owner := row[0], row[4]
		switch i % 6 {
		case 0:
			name = strings.ToUpper(name)
		case 1:
			name = name[:3] + name[4:] // a slip
		case 2:
			first, last, _ := strings.Cut(owner, " ")
			owner = last + ", " + first
		case 3:
			continue // not in their list
		}
		fmt.Fprintf(&office, "%d,%s,%s,%s,%q\n", i, name, row[1], row[2], owner)
	}
	w.see("h1", "Tern Islands")
	w.drop("office.csv", []byte(office.String()))
	w.press("^Bring in the table$")
	w.see("h1", "Office")
	w.click("nav a", "^Link records")
	w.see("h1", "^Link records$")
	w.press("^Vessel list$")
	w.press("^Office$")
	w.press("^Link the tables$")
	w.see("h1", "Office and Vessel list|Vessel list and Office")
	w.press("^Weights and cuts$")
	w.see("section[aria-label=Entry] h2", "What each agreement weighs")
	w.press("^Set up$")
	w.see("li", "the same .*pairs")
	w.press("^Links ")
	w.see("section[aria-label=Entry] h2", "^Are these one thing")
	w.see("section[aria-label=Entry] tr", "Weight")
	w.key('d')
	w.see("[role=status]", "Kept apart, in every later run")
	w.key('b')
	w.gone("[role=status]", "Kept apart")
	// What is left to review, to the end.
	w.press("^To review ")
	var about struct{ Review, Links, Golden, Records int }
	for range 60 {
		if r.call("GET", "/linkages/1", nil, &about); about.Review == 0 {
			break
		}
		w.see("section[aria-label=Entry] h2", "^Are these one thing")
		w.key(input.ArrowDown)
		w.key('d')
		w.see("[role=status]", "Kept apart")
	}
	if r.call("GET", "/linkages/1", nil, &about); about.Links < 330 || about.Golden != about.Records-about.Links {
		t.Errorf("%+v", about)
	}
	w.press("^Draw the golden records$")
	w.see("[role=status]", "golden is drawn")
	w.press("^Open it$")
	w.see("h1", "golden")
	w.press("^Journal$")
	w.see("main", "Drew .* golden records from .* records of")
}
