package e2e

import "testing"

// A table is tidied by what it needs, its columns are shaped, and a formula works one out;
// each is drafted over all rows, posted and reversed.
func TestTidyAndShape(t *testing.T) {
	w := open(t, serve(t, dataDir(t), "--demo"), 1)[0]
	w.press("^Landings, Port Kestrel")
	w.click("[aria-label='Column register'] td", "^species$")
	w.press("^Tidy$")
	w.see("[aria-label='What the columns need'] td", "values end in footnote marks")
	w.press("^Draft all$")
	w.see("h2", "^Strip footnote marks, trim spaces and collapse doubled spaces in ")
	w.press("^Replace text or a pattern$")
	w.fill("Look for", "brown crab")
	w.fill("Replace by", "Edible crab")
	w.see("h2", "replace .brown crab. by .Edible crab.")
	w.press("^Every Word$")
	w.see("td", "^Edible Crab$")
	w.press("^Post entry 1$")
	w.see("p", "Entry 1 is posted")

	w.press("^Landings, Port Kestrel")
	w.press("^Shape$")
	w.into(w.element("[aria-label='Name of weight_kg']"), "weight")
	w.click("[aria-label='Columns to shape'] label", "^remarks$")
	w.see("h2", "^Rename weight_kg to weight$")
	w.balance("Columns", "10 → 9")
	w.press("^Post entry 2$")
	w.see("p", "Entry 2 is posted")
	w.press("^Split$")
	w.click("[role=combobox][aria-label='Column to split']", "landing_no")
	w.click("[role=option]", "^skipper$")
	w.see("[aria-label='Columns afterwards'] tr", "skipper 2.*17$")
	w.press("^Combine$")
	w.click("label", "^species$")
	w.click("label", "^gear$")
	w.see("[aria-label='Columns afterwards'] td", "^species and gear$")
	w.press("^Fill blanks$")
	w.element("[aria-label='Columns to fill: landing_no']").MustClick()
	w.element("[aria-label='Columns to fill: price']").MustClick()
	w.balance("Cells rewritten", "69")

	w.press("^Formula$")
	w.fill("Formula", "weight * prize")
	w.see("[role=alert]", "At character 10: there is no column called .prize.")
	w.fill("Formula", "round(weight * pri")
	w.press("^price$")
	w.see("[role=alert]", "cannot be read")
	w.fill("Formula", "round(weight * price)")
	w.fill("Name of the new column", "value")
	w.see("p", "It fails on 9[0-9] rows; the new cell stays blank there")
	w.see("h2", "^New column value: round")
	w.press("^Post entry 3$")
	w.see("p", "Entry 3 is posted. 1 column added")
	w.press("^Journal$")

	// The first entry is switched off: the others are done again on the species as they came.
	w.press("^Amend the journal$")
	w.element("[aria-label='Entry 1']").MustClick()
	w.see("tr", "Did: 1 column dropped; 6,214 rows stand.*Now: 1 column dropped|Rename weight_kg to weight")
	w.element("[aria-label='Move entry 3 up']").MustClick()
	w.see("p", "Cannot: .*there is no column called .weight.")
	w.element("[aria-label='Move entry 3 down']").MustClick()
	w.gone("p", "Cannot:")
	w.press("^Post entry 4$")
	w.see("p", "Entry 4 is posted")
	w.press("^Landings, Port Kestrel")
	w.see("tr", "^species.*80")
	w.press("^Journal$")
	w.see("tr", "Switched off 1 of entries 1 to 3")
	w.press("^Reverse entry 6$")
	w.see("tr", "6.*New column value.*reversed")

	// One cell is changed, of all that hold the same.
	w.press("^Rows$")
	w.see("[role=gridcell]", "^LK-004811$")
	if _, err := w.page.Eval(`() => [...document.querySelectorAll("[role=gridcell]")].find((c) => c.textContent === "LK-004811")
		.dispatchEvent(new MouseEvent("dblclick", { bubbles: true }))`); err != nil {
		t.Fatal(err)
	}
	w.fill("New value of the cell", "LK-004811a")
	w.balance("Cells rewritten", "1")
	w.press("^Post entry 7$")
	w.see("[role=gridcell]", "^LK-004811a$")
}
