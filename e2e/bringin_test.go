package e2e

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"

	"grandledger/core/coretest"
	"grandledger/demo"
	"grandledger/formats"
)

// Every format that can be written is dropped, shown as it reads, and becomes the same
// table; then what others only send: nested records, fixed widths, XML, several sheets.
func TestEveryFormatComesIn(t *testing.T) {
	files := t.TempDir()
	r := serve(t, dataDir(t), "--demo", "--files-from", files)
	w := open(t, r, 1)[0]
	w.see("h1", demo.BookName)
	tab := coretest.Build([]string{"no", "vessel", "kg"}, []string{"0017", "Möwe", "12.50"}, []string{"0018", "Tern, grey", ""}, []string{"0019", "Skua", "3.00"})
	for i, ending := range append(formats.Endings, ".csv.gz", ".jsonl.zst") {
		write, err := formats.Writer("x" + ending)
		if err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		if err := write(context.Background(), &b, tab); err != nil {
			t.Fatal(err)
		}
		w.drop("delivery"+ending, b.Bytes())
		w.see("h1", "delivery"+ending)
		w.see("td", "^Tern, grey$")
		w.into(w.element("input[maxlength='200']"), fmt.Sprintf("Delivery %d", i))
		w.press("^Bring in the table$")
		w.see("h1", fmt.Sprintf("^Delivery %d$", i))
		w.see("tr", "vessel.*Text")
		w.press("^Tern Islands Fishery$")
		w.see("h1", demo.BookName)
	}

	// A list inside a record: in one cell, or a row for each of its items.
	w.drop("nested.json", []byte(`{"data":{"notes":[{"no":1,"catch":[{"kg":2},{"kg":3}]},{"no":2,"catch":[]}]}}`))
	w.see("td", `\[\{"kg":2\},\{"kg":3\}\]`)
	w.click("[role=combobox][aria-label=Lists]", "stay in one cell")
	w.click("[role=option]", "a row for each of catch")
	w.see("th", `^catch\.kg$`)
	w.press("^Leave out, rename or order the columns$")
	w.into(w.element("[aria-label='Name of catch.kg']"), "kilograms")
	w.see("th", "^kilograms$")
	w.press("^Bring in the table$")
	w.see("tr", "kilograms.*Number")
	w.press("^Tern Islands Fishery$")

	// Fixed widths: a cut is moved by the keyboard.
	w.drop("quotas.txt", []byte("no    species  tonnes\n0001  Cod      120.5\n0002  Haddock  1300\n0017  Ling     8.2\n"))
	w.see("td", "^Haddock$")
	w.element("[aria-label='Cut behind 15 characters']").MustFocus()
	w.key(input.ArrowLeft)
	w.element("[aria-label='Cut behind 14 characters']")
	w.key(input.ArrowRight)
	w.press("^Discard$")
	w.see("h1", demo.BookName)

	w.drop("landings.xml", []byte("<landings><note no='1'><kg>3</kg></note><note no='2'><kg>4</kg></note></landings>"))
	w.see("th", "^@no$")
	w.press("^Discard$")
	w.see("h1", demo.BookName)

	// Two sheets of a workbook become a table each.
	for _, f := range demoFiles() {
		if f.Name != "gull-point.xlsx" {
			continue
		}
		w.drop(f.Name, f.Bytes)
		w.see("td", "^GP 0001$")
		w.click("label", "^Summer 2031$")
		w.press("^a table each$")
		w.press("^Bring in 2 tables$")
		w.see("td", "^Summer 2031$")
		w.see("td", "^Spring 2031$")
	}

	// A file on the server's own disk, by path; one outside is refused and what was typed stays.
	path := filepath.Join(files, "by-path.csv")
	if err := os.WriteFile(path, []byte("a,b\n1,2\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	w.fill("Path of the file", "/etc/passwd")
	w.press("^Read it$")
	w.see("[role=alert]", "may not be read")
	w.fill("Path of the file", path)
	w.press("^Read it$")
	w.see("h1", "by-path.csv")
	w.press("^Bring in the table$")
	w.see("h1", "^By path$")

	// A table pasted from a web page.
	w.press("^Tern Islands Fishery$")
	w.see("h1", demo.BookName)
	w.page.MustEval(`() => {
		const data = new DataTransfer();
		data.setData("text/html", "<table><tr><th>boat<th>kg<tr><td>Tern<td>5</table>");
		document.body.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
	}`)
	w.see("h1", "Pasted table.html")
	w.see("th", "^boat$")
	w.press("^Bring in the table$")
	w.see("h1", "^Pasted table$")
}

func demoFiles() []demo.File {
	files, _ := demo.Files()
	return files
}

// Conditions are put together, each with its own rows; they narrow the views and an entry.
// Rows are sorted by reading, found in, and their columns left out.
func TestConditionsAndRows(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.press("^Vessel list$")
	w.see("h1", "^Vessel list$")
	w.press("^Conditions$")
	w.see("p", "Each condition shows the rows it holds by itself")
	w.click("[role=combobox][aria-label=Column]", "vessel")
	w.click("[role=option]", "^home_harbour$")
	w.fill("Add a value", "Gull Point")
	w.key(input.Enter)
	w.element("[aria-label='Take off Gull Point']")
	w.see("h2", "^[0-9]+ of 412 rows$")
	w.press("^Add a condition$")
	w.click("[role=group][aria-label=Condition]:nth-of-type(3) [role=combobox][aria-label=Condition]", "^is")
	w.click("[role=option]", "^is blank$")
	w.see("p", "Perhaps .any of. is meant")
	w.press("^any of$")
	w.see("h2", "^[0-9]+ of 412 rows$")
	w.fill("Name of the condition", "gulls")
	w.press("^Keep it$")
	w.see("button", "^gulls$")

	w.press("^Rows$")
	w.see("[role=status]", "Only the [0-9]+ rows of 412 where home_harbour is .Gull Point.")
	w.press("^length_m$")
	w.see("[role=columnheader][aria-sort=ascending]", "length_m")
	w.press("^length_m$")
	w.see("[role=columnheader][aria-sort=descending]", "length_m")
	w.fill("Find in any column", "tern")
	w.see("p[role=status]", "rows? with .tern.")
	w.press("^Columns shown$")
	w.click("[role=dialog] label", "^owner$")
	w.press("^Done$")
	w.gone("[role=columnheader]", "^owner$")

	// Tidying now concerns only those rows.
	w.press("^Columns$")
	w.see("tr", "home_harbour.*Text")
	w.press("^Conditions$")
	w.press("^Tidy them$")
	w.click("label", "^vessel$")
	w.press("^UPPER$")
	w.see("h2", "upper case in vessel, where home_harbour is")
	w.press("^Post entry 1$")
	w.see("p", "Entry 1 is posted")
	w.press("^Show all rows$")
	w.gone("[role=status]", "Only the")

	// What a column holds: dates along the calendar, shapes, and numbers that lie apart; a
	// suspicion opens its rows. A cross table counts two columns, and a count opens its rows.
	w.press("^Landings, Port Kestrel")
	w.click("[aria-label='Column register'] td", "^landed_on$")
	w.element("[aria-label='Rows of landed_on by month']")
	w.press("^day$")
	w.element("[aria-label='Rows of landed_on by day']")
	w.click("[aria-label='Column register'] td", "^landing_no$")
	w.see("[aria-label='Shapes of landing_no'] td", "^AA-999999$")
	w.click("[aria-label='Column register'] td", "^weight_kg$")
	w.see("td", "lie about 1,000 times above the rest")
	w.click("tr", "lie about 1,000 times above", "button")
	w.see("[role=status]", "Only the [0-9]+ rows of 6,214 where weight_kg is from")
	w.press("^Show all rows$")
	w.press("^Cross$")
	w.see("th", "^landing_no$")
	if err := w.page.Navigate(r.base + "/books/1/tables/1/cross?lines=gear&columns=species"); err != nil {
		t.Fatal(err)
	}
	w.click("[aria-label='gear by species'] td a", "^[0-9]+$")
	w.see("[role=status]", "where gear is .* and species is")
}
