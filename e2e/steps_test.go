package e2e

import (
	"encoding/csv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"grandledger/demo"
)

// The nine steps of a steward's first day, on the demo book and on a file of their own.
func TestNineSteps(t *testing.T) {
	_, truth := demo.Files()
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]

	// 1. The demo book is open.
	w.see("h1", demo.BookName)
	w.see("td", "Vessel list")

	// 2. A file dropped on the page: how it was read, corrected, named.
	w.drop("ice_sales.csv", []byte("date;buyer;crates\n2031-05-01;Halloran & Finch;3\n2031-05-02; Möwe  Handel ;4\n2031-05-02;Möwe Handel\n"))
	w.see("h1", "ice_sales.csv")
	w.see("th", "crates")
	w.see("p", "row had fewer cells than the header; blanks were added: row 3")
	w.press("^by none$")
	w.see("th", "column 3")
	w.press("^by a line$")
	w.see("th", "crates")
	w.into(w.element("input[maxlength='200']"), "Ice sales")
	w.press("^Bring in the table$")

	// 3. The column register; the journal and the rows are a tab away.
	w.see("h1", "Ice sales")
	w.see("tr", "buyer.*Text.*2 look alike")
	w.press("^Rows$")
	w.see("[role=gridcell]", "␣Möwe␣␣Handel␣")
	w.press("^Journal$")
	w.see("td", "Brought in ice_sales.csv")
	w.see("p", "blanks were added")

	// The rest is done on the landings.
	w.press("^Landings, Port Kestrel")
	w.see("tr", "landing_no.*37 repeated")
	w.press("^Rows$")
	w.fill("Row to jump to", "6,000")
	w.press("^Jump$")
	w.see("[role=row][aria-selected=true] [role=gridcell]", "^6,000$")

	if n := len(w.page.MustElements("[role=row]")); n > 200 {
		t.Errorf("the page holds %d rows", n)
	}

	// 4. A tally: searched, one value changed, then tidied with a preview.
	w.press("^Columns$")
	w.click("[aria-label='Column register'] td", "^species$")
	w.press("^Open its tally$")
	w.fill("Search the values", "tusk*")
	w.see("[role=status]", "^1 value found")
	w.see("h2", `Tusk\*`)
	w.into(w.element("section[aria-label=Entry] input"), "Tusk")
	w.see("td", "joins others")
	w.press("^Post entry 1$")
	w.see("[role=status]", "Entry 1 is posted")
	w.press("^Tidy$")
	w.see("h2", "Trim spaces and collapse doubled spaces in species")
	w.press("^First word$")
	w.press("^Post entry 2$")
	w.see("[role=status]", "Entry 2 is posted")

	// 5. Variant spellings: one kept apart, one group left, the rest posted.
	w.press("^Landings, Port Kestrel")
	w.click("[aria-label='Column register'] td", "^gear$")
	w.see("h2", "^gear$")
	w.key('v')
	w.see("h1", "Variant spellings of gear")
	w.see("[role=row]", "Gill net.*6 spellings.*Word order")
	w.press("^Case and spacing$")
	w.see("[role=row]", "Gill net.*5 spellings.*Case and spacing")
	w.press("^Word order$")
	w.click("[role=row] [role=gridcell]", "^Jig$")
	w.key(input.Space)
	w.see("p", "this group is not taken")
	w.click("[role=row] [role=gridcell]", "^Gill net$")
	w.see("section[aria-label=Entry] tr", "Net, gill.*same words, other order")
	w.click("section[aria-label=Entry] td", "^Gillnet$")
	w.press("^Keep apart$")
	w.see("[role=status]", "kept apart, here and in every later table")
	w.see("[role=row]", "Gill net.*5 spellings")
	w.click("[role=row] [role=gridcell]", "^Pots, traps$")
	w.see("section[aria-label=Entry] h2", "^Pots, traps$")
	w.into(w.element("section[aria-label=Entry] input"), "Pots and traps")
	w.see("[role=row]", "^Pots and traps.*5 spellings")
	w.press("^Post entry 3$")
	w.see("[role=status]", "Entry 3 is posted")
	w.see("[role=row]", "^Jig.*3 spellings")
	w.gone("[role=row]", "Gill net")
	w.press("^gear")
	w.see("h1", "Crosswalk of gear")
	w.see("[role=row]", "^Pots and traps.*Pots/traps")
	w.click("[role=row] [role=gridcell]", "^Gill net$")
	w.see("[aria-label=Variants] li", "Net, gill.*same words, other order; entry 3 of Landings, Port Kestrel")
	w.see("li", "Gill net ≠ Gillnet")

	// 6. Duplicates by landing number.
	w.press("^Landings, Port Kestrel")
	w.press("^Duplicates$")
	w.press("^landing_no$")
	w.see("h2", "37 repeats in 36 groups")
	w.see("tr", "^kept")
	w.balance("Rows after", "6,177")
	w.press("^Post entry 4$")
	w.press("^Open the rows set aside$")
	w.see("h1", "Set aside by entry 4")
	w.press("^Return 37 rows$")
	w.see("td", "Return the rows that entry 4 set aside")

	// 9a. The last entry reversed and posted again.
	w.press("^Reverse entry 5$")
	w.see("[role=status]", "it can be posted again")
	w.press("^Post entry 5 again$")
	w.press("^Reverse entry 5$")
	w.see("td", "6,177")

	// 7. A join with the vessel list: coverage first, then the consolidated table.
	w.press("^Join$")
	w.see("h1", "Join two tables")
	w.click("[aria-label='Right table']", "^")
	w.click("[role=option]", "Vessel list")
	w.see("p", "find several partners")
	w.see("h3", "without a partner")
	w.click("[aria-label='Bring engine_kw']", "^")
	w.into(w.element("section[aria-label=Entry] input:not([type=checkbox])"), "Landings with vessels")
	w.press("^Post the table$")
	w.see("h1", "Landings with vessels")
	w.see("tr", "port_letters")
	w.gone("td", "engine_kw")

	// 8. Published, it holds exactly the cells.
	var contents struct {
		Tables, Consolidated []struct {
			ID, Rows int
			Name     string
		}
	}
	r.call("GET", "/books/1", nil, &contents)
	w.press("^Publish$")
	address, err := w.see("a", "^Publish as CSV$").Attribute("href")
	if err != nil {
		t.Fatal(err)
	}
	var text string
	r.call("GET", strings.TrimPrefix(*address, "/api"), nil, &text)
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil || len(rows) != contents.Consolidated[0].Rows+1 {
		t.Fatalf("published %d lines for %d rows (%v)", len(rows), contents.Consolidated[0].Rows, err)
	}
	if contents.Consolidated[0].Rows <= truth.Landings-truth.Repeats {
		t.Errorf("the boats of one name did not multiply: %d rows", contents.Consolidated[0].Rows)
	}
	w.press("^Not now$")

	// The palette finds a column of another table.
	w.key(input.Escape)
	if err := w.page.KeyActions().Press(input.ControlLeft).Type('k').Do(); err != nil {
		t.Fatal(err)
	}
	if err := w.element("[cmdk-input]").Input("terms"); err != nil {
		t.Fatal(err)
	}
	w.click("[cmdk-item]", "terms_days")
	w.see("h1", "Tally of terms_days")
}

// 9b. Two windows on one table. One that hears of the other's post says so; one that
// does not has its post refused, and is told what changed.
func TestTwoWindows(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	ws := open(t, r, 3)
	deaf := `window.EventSource = class { addEventListener() {} close() {} }`
	if _, err := ws[2].page.EvalOnNewDocument(deaf); err != nil {
		t.Fatal(err)
	}
	for _, w := range ws {
		if err := w.page.Navigate(r.base + "/books/1/tables/3/tidy?column=buyer"); err != nil {
			t.Fatal(err)
		}
		w.press("^UPPER$")
		w.see("button:not(:disabled)", "^Post entry 1$")
	}
	ws[0].press("^Post entry 1$")
	ws[0].see("[role=status]", "Entry 1 is posted")

	ws[1].see("[role=status]", "has changed since you opened the page")
	ws[1].press("^Look at it as it stands now$")
	ws[1].see("p", "tidy in this already")

	ws[2].press("^Post entry 1$")
	ws[2].see("[role=alert]", "has changed since.*Entry 1, posted: .*upper case in buyer")
	ws[2].press("^Draft it anew on the table as it stands$")
	ws[2].see("p", "tidy in this already")
}

// The content of a cell, of a header, of a file name is only ever text.
func TestContentNeverRuns(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.see("h1", demo.BookName)
	bait := `<img src=x onerror="window.ran=1"><script>window.ran=1</script>`
	cell := strings.ReplaceAll(bait, `"`, `""`)
	w.drop("x<img src=x onerror=window.ran=1>.csv", []byte("\""+cell+"\",javascript:window.ran=1\n\""+cell+"\",\"{{7*7}}\"\n\""+cell+" \",b\n"))
	w.see("td", "onerror")
	w.into(w.element("input[maxlength='200']"), bait)
	w.press("^Bring in the table$")
	w.see("h1", "onerror")
	w.press("^Rows$")
	w.see("[role=gridcell]", "onerror")
	w.press("^Columns$")
	w.see("td", "onerror")
	w.key('v')
	w.see("h1", "Variant spellings of <img")
	w.see("section[aria-label=Entry] td", "onerror")
	ran, err := w.page.Eval(`() => window.ran === undefined && document.querySelectorAll("main img").length === 0`)
	if err != nil || !ran.Value.Bool() {
		t.Errorf("content became markup (%v)", err)
	}
}
