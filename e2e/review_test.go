package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// A review of spellings by keyboard alone: move, leave, edit, keep apart.
func TestReviewByKeyboard(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	if err := w.page.Navigate(r.base + "/books/1/tables/1?column=gear"); err != nil {
		t.Fatal(err)
	}
	w.see("h2", "^gear$")
	w.key('v')
	w.see("h1", "Variant spellings of gear")
	w.see("section[aria-label=Entry] h2", "^Bottom trawl$")
	w.key(input.ArrowDown)
	w.see("section[aria-label=Entry] h2", "^Gill net$")
	w.key(input.Space)
	w.see("p", "this group is not taken")
	w.key(input.Space)
	w.see("p", "5 spellings become this one")
	w.key(input.ArrowRight)
	w.see("section[aria-label=Entry] tr.bg-pencil-bg", "Net, gill")
	w.key('a')
	w.see("[role=status]", "Net, gill.*kept apart")
	w.press("^Take that back$")
	w.see("[role=row]", "Gill net.*6 spellings")
	w.key('e')
	if err := w.page.Keyboard.Type([]input.Key("Net")...); err != nil {
		t.Fatal(err)
	}
	w.see("section[aria-label=Entry] h2", "^Net$")
	w.see("section[aria-label=Entry] p", "6 spellings become this one")

	// Further down the ladder initials stand for what they are the initials of.
	w.press("^Short forms$")
	w.see("section[aria-label=Entry] td", "^initials: .GN. for .Gill net.$")
	w.see("section[aria-label=Entry] p", "7 spellings become this one")
}

// A file that cannot be taken: what is wrong and what to do, and nothing is left of it.
func TestRefusedFiles(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.see("h1", "Tern Islands")
	for name, c := range map[string]struct{ content, says, remedy string }{
		"book.csv":  {"PK\x03\x04", "packed file is damaged", "Ask for the file again"},
		"empty.csv": {"", "the file is empty|The file is empty", "at least a header row"},
		"open.csv":  {"a,b\n1,\"2\n3,4\n", "row 1, column b: A quotation mark is opened and never closed", "without quotation marks"},
	} {
		w.drop(name, []byte(c.content))
		w.see("[role=dialog] h2", name+" was not taken")
		w.see("[role=alert]", c.says)
		w.see("[role=alert]", c.remedy)
		w.press("^Close$")
		w.gone("[role=dialog]", "was not taken")
	}
	if got := len(r.contents().Tables); got != demoTables {
		t.Errorf("%d tables, want the demo's own", got)
	}
}

// A file that turns out bad when it is read whole: the page says where, and what was
// typed is still there.
func TestFailedJobIsTold(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.see("h1", "Tern Islands")
	w.drop("late.csv", []byte("a,b\n"+strings.Repeat("one,two\n", 60_000)+"x,\"open\n"))
	w.into(w.element("input[maxlength='200']"), "My typing")
	w.press("^Bring in the table$")
	w.see("p", "never closed")
	if got, err := w.element("input[maxlength='200']").Property("value"); err != nil || got.Str() != "My typing" {
		t.Errorf("the name is now %q (%v)", got.Str(), err)
	}
	w.see("button:not(:disabled)", "^Bring in the table$")
}

// What was decided on one table is known on the next with a column of that name.
func TestCrosswalkIsShared(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	var table struct{ Revision int64 }
	r.call("GET", "/tables/1", nil, &table)
	changes := []map[string]string{{"from": "GN", "to": "Gill net", "why": "initials"}, {"from": "LL", "to": "Longline", "why": "initials"}}
	if status := r.call("POST", "/tables/1/entries", map[string]any{"revision": table.Revision, "kind": "values",
		"params": map[string]any{"column": "gear", "crosswalk": "gear", "changes": changes}}, nil); status != 201 {
		t.Fatalf("post: status %d", status)
	}
	w.see("nav", "gear")
	w.drop("skerry.csv", []byte("no,gear\n1,GN\n2,gn\n3,Dredge\n4,GN\n"))
	w.press("^Bring in the table$")
	w.see("h1", "Skerry")
	w.click("[aria-label='Column register'] td", "^gear$")
	w.see("h2", "^gear$")
	w.key('v')
	w.see("[role=row]", "^Gill net.*2 spellings.*Case and spacing")
	w.see("section[aria-label=Entry] tr", "GN.*in the crosswalk")
	w.see("section[aria-label=Entry] tr", "gn.*letter case from “GN”")
	w.press("^Crosswalk$")
	w.see("[role=row]", "^Gill net.*1 spelling")
	w.press("^Post entry 1$")
	w.see("[role=status]", "Entry 1 is posted")
	var text string
	r.call("GET", fmt.Sprintf("/tables/%d/publish", demoTables+1), nil, &text)
	if text != "no,gear\n1,Gill net\n2,gn\n3,Dredge\n4,Gill net\n" {
		t.Errorf("published %.200q", text)
	}
}

// Doubtful groups wait, a spelling moves to another standard value, and two groups merge; what is posted is just that.
func TestMoveMergeAndDoubt(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.see("h1", "Tern Islands")
	text := "gear\n" + strings.Repeat("Gill net\n", 9) + strings.Repeat("gill net\n", 3) + strings.Repeat("Pots\n", 6) + strings.Repeat("POTS\n", 2) +
		strings.Repeat("Longline\n", 5) + strings.Repeat("longline\n", 2) + strings.Repeat("Handtrawler\n", 4) + "Handtrawlar\n"
	w.drop("gears.csv", []byte(text))
	w.press("^Bring in the table$")
	w.see("h1", "Gears")
	if err := w.page.Navigate(fmt.Sprintf("%s/books/1/tables/%d/spellings?column=gear&accept=slips", r.base, demoTables+1)); err != nil {
		t.Fatal(err)
	}
	w.see("p", "1 doubtful one waits to be looked at")
	w.key('d')
	w.see("section[aria-label=Entry] p", "Doubtful:.*Handtrawlar.*is not rare beside it")
	w.see("section[aria-label=Entry] p", "this group is not taken")
	w.click("[role=row] [role=gridcell]", "^Gill net$")
	w.key('m')
	w.into(w.element("input[aria-label='Standard value it goes to']"), "Driftnet")
	w.key(input.Enter)
	w.see("section[aria-label=Entry] td", "goes to Driftnet")
	w.click("[role=row] [role=gridcell]", "^Longline$")
	w.see("section[aria-label=Entry] h2", "^Longline$")
	w.key('g')
	if err := w.page.Keyboard.Type([]input.Key("Pots")...); err != nil {
		t.Fatal(err)
	}
	w.see("section[aria-label=Entry] p", "Merged with the other group")
	w.press("^Post entry 1$")
	w.see("[role=status]", "Entry 1 is posted")
	var posted string
	r.call("GET", fmt.Sprintf("/tables/%d/publish", demoTables+1), nil, &posted)
	want := "gear\n" + strings.Repeat("Gill net\n", 9) + strings.Repeat("Driftnet\n", 3) + strings.Repeat("Pots\n", 15) + strings.Repeat("Handtrawler\n", 4) + "Handtrawlar\n"
	if posted != want {
		t.Errorf("%q", posted)
	}
}

// A crosswalk is worked on as a list: a standard value renamed, a spelling moved, a file read whose second opinion is asked
// about; and two tables are brought up to date by it.
func TestCrosswalkBringsTablesUpToDate(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	if err := w.page.Navigate(r.base + "/books/1/tables/1/spellings?column=gear&accept=forms"); err != nil {
		t.Fatal(err)
	}
	w.see("[role=row]", "^Gill net.*7 spellings.*Short forms")
	w.key('r')
	w.see("h3", "Rows with")
	w.press("^Post entry 1$")
	w.see("[role=status]", "Entry 1 is posted")
	w.press("^gear")
	w.see("h1", "Crosswalk of gear")
	w.click("[role=row] [role=gridcell]", "^Gill net$")
	w.see("section[aria-label=Entry] h2", "^Gill net$")
	w.fill("Standard value", "Gillnet, set")
	w.press("^Rename$")
	w.see("section[aria-label=Entry] h2", "^Gillnet, set$")
	w.see("[aria-label=Variants] li", "^Gill net")
	w.fill("Another spelling", "Garn")
	w.press("^Add$")
	w.see("[aria-label=Variants] li", "^Garn")
	file := filepath.Join(t.TempDir(), "gear.csv")
	if err := os.WriteFile(file, []byte("variant,standard\nGN,Grey nurse\nLL,Longline\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := w.element("input[type=file][aria-label='File of a crosswalk']").SetFiles([]string{file}); err != nil {
		t.Fatal(err)
	}
	w.see("[role=status]", "1 spelling added.*1 spelling has another standard value.*GN: Gillnet, set here, Grey nurse in the file")
	w.press("^Tables")
	w.see("[aria-label='Tables it is for'] li", "Port Kestrel.*Bring up to date: 2 spellings")
	w.see("[aria-label='Tables it is for'] li", "Skerry Bay.*Bring up to date: \\d+ spellings")
	for _, table := range []string{"Port Kestrel", "Skerry Bay"} {
		w.click("[aria-label='Tables it is for'] li", table, "a[href*='accept=crosswalk']")
		w.see("[role=row]", "^Gillnet, set.*Crosswalk")
		w.press("^Post entry")
		w.see("[role=status]", "Entry . is posted")
		w.press("^gear")
		w.press("^Tables")
		w.see("[aria-label='Tables it is for'] li", table+".*up to date.*knows 100% of the rows")
	}
	var text string
	r.call("GET", "/tables/1/publish", nil, &text)
	if strings.Contains(text, "Gill net") || strings.Contains(text, ",GN,") || !strings.Contains(text, "Gillnet, set") {
		t.Errorf("published %.300q", text)
	}
}

// A narrow window stacks the pages; nothing runs over the edge, in light or dark.
func TestNarrowWindow(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.page.MustSetViewport(420, 800, 1, false)
	for _, path := range []string{"/books/1", "/books/1/tables/1", "/books/1/tables/1/journal", "/books/1/tables/1/spellings?column=gear"} {
		if err := w.page.Navigate(r.base + path); err != nil {
			t.Fatal(err)
		}
		w.see("h1", "^(Tern Islands|Landings|Variant)")
		over, err := w.page.Eval(`() => document.documentElement.scrollWidth - window.innerWidth`)
		if err != nil || over.Value.Int() > 0 {
			t.Errorf("%s runs %d pixels over the edge (%v)", path, over.Value.Int(), err)
		}
	}
}
