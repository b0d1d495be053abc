package e2e

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// notes is a delivery with repeats, a weight that does not read, a vessel written in two ways.
func notes() string {
	text := "no,vessel,kg,crew\n"
	for i := range 40 {
		text += fmt.Sprintf("%d,%s,%d,Crew %d\n", i, []string{"Tern", "tern ", "Auk"}[i%3], 10+i, i%4)
	}
	return text + "7,Tern,n/a,Crew 9\n"
}

// A journal is built with every way to shape rows, marked, amended in the form of an early
// entry with another one put before it, compared, followed back from one cell, and handed
// over: the command line does it again on the same file to the same bytes, and the procedure is
// brought in on a table whose columns are called otherwise.
func TestJournalIsAmendedAndHandedOn(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	bring := func(name, text string) {
		w.press("^Tern Islands Fishery$")
		w.drop(name+".csv", []byte(text))
		w.see("h1", name+".csv")
		w.press("^Bring in the table$")
		w.see("h1", "^"+name+"$")
	}
	bring("Ports", "boat,port\nTERN,Port Kestrel\nAUK,Gull Point\n")
	bring("Notes", notes())

	w.press("^Shape$")
	w.press("^Review list$")
	w.click("[role=combobox][aria-label='Column to review']", "no")
	w.click("[role=option]", "^kg$")
	w.see("h2", "^Move what of kg does not read to kg to review$")
	w.balance("Columns", "4 → 5")
	w.press("^Post entry 1$")
	w.see("p", "Entry 1 is posted")
	w.press("^Add rows$")
	w.fill("no of row 1", "40")
	w.fill("vessel of row 1", "Auk")
	w.balance("Added", "+1")
	w.press("^Post entry 2$")
	w.see("p", "Entry 2 is posted")
	w.press("^Formula$")
	w.fill("Formula", `lookup("Ports", "port", "boat", upper(trim(vessel)))`)
	w.fill("Name of the new column", "port")
	w.see("td", "^Gull Point$")
	w.press("^Post entry 3$")
	w.see("p", "Entry 3 is posted")
	w.press("^Gather$")
	w.element("[aria-label='Same in: no']").MustClick()
	w.element("[aria-label='Becomes lists: crew']").MustClick()
	w.see("[aria-label='Values of crew afterwards'] td", `\["Crew [0-3]"\]`)
	w.balance("Merged", "−1")
	w.press("^Post entry 4$")
	w.see("p", "Entry 4 is posted")
	w.press("^Check$")
	w.element("[aria-label='Key: vessel']").MustClick()
	w.see("[role=alert]", "The check does not hold: 3[0-9] rows are against it")
	w.element("[aria-label='Key: vessel']").MustClick()
	w.element("[aria-label='Key: no']").MustClick()
	w.see("p", "It holds on every row")
	w.press("^Post entry 5$")
	w.see("p", "Entry 5 is posted")

	// Marked, gone on from, compared and returned to.
	w.press("^Journal$")
	w.fill("Name of the mark", "all in")
	w.press("^Set the mark$")
	w.see("p", "Marked all in.*stands so now")
	w.press("^Columns$")
	w.press("^Duplicates$")
	w.click("[aria-label='Key columns'] label", "^vessel$")
	w.press("^Post entry 6$")
	w.see("p", "Entry 6 is posted")
	w.press("^Journal$")
	w.click("[role=combobox][aria-label='Compare with']", "choose")
	w.click("[role=option]", "^after entry 5$")
	w.see("p", `From entry 5 to entry 6: 0 rows added, 38 set aside, 0 cells hold something else. 41 \+ 0 − 38 = 3 rows`)
	w.click("[aria-label=Journal] button", "^Check that no two rows have the same no$")
	w.element("[aria-label='Return to all in']").MustClick()
	w.see("p", "Marked all in.*stands so now")
	w.see("tr", "6.*Set aside repeats of vessel.*reversed")

	// The early entry's form opens as it was; another entry is put before it.
	w.press("^Amend the journal$")
	w.element("[aria-label='Change entry 3']").MustClick()
	w.fill("Name of the new column", "harbour")
	w.see("tr", "3.*New column harbour: lookup")
	w.click("[role=combobox][aria-label='Insert before entry 1']", "insert")
	w.click("[role=option]", "^Tidy values$")
	w.press("^Every Word$")
	w.element("[aria-label='Columns to tidy: no']").MustClick()
	w.element("[aria-label='Columns to tidy: vessel']").MustClick()
	w.see("tr", "new.*Give every word a capital in vessel.*Now: 13 cells rewritten")
	w.press("^Post entry 7$")
	w.see("p", "Entry 7 is posted")
	w.press("^Journal$")
	w.see("tr", "Amended entries 1 to 5: 1 changed, 1 inserted")

	// One cell, back to the row of the file.
	w.press("^Rows$")
	w.see("[role=gridcell]", "^Auk$")
	if _, err := w.page.Eval(`() => [...document.querySelectorAll("[role=gridcell]")].find((c) => c.textContent === "Tern")
		.dispatchEvent(new MouseEvent("dblclick", { bubbles: true }))`); err != nil {
		t.Fatal(err)
	}
	w.see("[aria-label='Life of the cell'] li", "As it came, Notes.csv 1")
	w.key(input.Escape)

	// Handed on: the command line comes to the same bytes.
	dir := t.TempDir()
	table := 0
	for _, candidate := range r.tables() {
		if candidate.Name == "Notes" {
			table = candidate.ID
		}
	}
	procedure := filepath.Join(dir, "notes.yaml")
	write(t, procedure, r.get(fmt.Sprintf("/tables/%d/procedure?format=yaml", table)))
	write(t, filepath.Join(dir, "in.csv"), []byte(notes()))
	write(t, filepath.Join(dir, "ports.csv"), []byte("boat,port\nTERN,Port Kestrel\nAUK,Gull Point\n"))
	run := func(source string) (string, int) {
		out, err := exec.Command(binary, "run", procedure, "--source", source, "--source", "Ports="+filepath.Join(dir, "ports.csv"), "--out", dir).CombinedOutput()
		if err != nil {
			return string(out), err.(*exec.ExitError).ExitCode()
		}
		return string(out), 0
	}
	if out, status := run(filepath.Join(dir, "in.csv")); status != 0 {
		t.Fatalf("%d: %s", status, out)
	}
	got, err := os.ReadFile(filepath.Join(dir, "Notes.csv"))
	if want := r.get(fmt.Sprintf("/tables/%d/publish?format=csv", table)); err != nil || string(got) != string(want) {
		t.Errorf("run gives\n%s\nthe application\n%s(%v)", got, want, err)
	}
	write(t, filepath.Join(dir, "other.csv"), []byte("no,vessel,kg,crew\n,Tern,1,a\n,Auk,n/a,b\n1,Auk,2,c\n1,Auk,3,c\n"))
	if out, status := run(filepath.Join(dir, "missing.csv")); status != 1 {
		t.Errorf("a file that is not there: %d %s", status, out)
	}

	// Brought in on a table whose columns are called otherwise.
	bring("Sales", "number,Vessel,weight,people\n1,auk,5,Ana\n1,auk,n/a,Bo\n2,tern,7,Cy\n3,tern,8,Cy\n4,tern,9,Cy\n5,tern,9,Cy\n6,tern,9,Cy\n7,tern,9,Cy\n8,tern,9,Cy\n9,tern,9,Cy\n10,tern,9,Cy\n")
	w.press("^Shape$")
	w.press("^Number rows$")
	w.press("^Post entry 1$")
	w.see("p", "Entry 1 is posted")
	w.press("^Journal$")
	w.press("^Amend the journal$")
	if err := w.element("input[type=file][aria-label=Procedure]").SetFiles([]string{procedure}); err != nil {
		t.Fatal(err)
	}
	for name, column := range map[string]string{"no": "number", "kg": "weight", "crew": "people"} {
		w.click(fmt.Sprintf("[role=combobox][aria-label='Column for %s']", name), "choose")
		w.click("[role=option]", "^"+column+"$")
	}
	w.press("^Put 6 steps behind the entries$")
	w.see("tr", "new.*Gather people of the rows with the same number into lists")
	w.press("^Post entry 2$")
	w.see("p", "Entry 2 is posted")
	w.press("^Sales")
	w.press("^Rows$")
	w.see("[role=gridcell]", `^\["Ana","Bo"\]$`)
}

func write(t *testing.T, name string, content []byte) {
	t.Helper()
	if err := os.WriteFile(name, content, 0o600); err != nil {
		t.Fatal(err)
	}
}

// get is a document of the API.
func (r *running) get(path string) []byte {
	r.t.Helper()
	res, err := http.Get(r.base + "/api" + path)
	if err != nil {
		r.t.Fatal(err)
	}
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	if err != nil || res.StatusCode != http.StatusOK {
		r.t.Fatalf("%s: %d %s (%v)", path, res.StatusCode, body, err)
	}
	return body
}

// tables lists the tables of the first book.
func (r *running) tables() []struct {
	ID   int
	Name string
} {
	r.t.Helper()
	var book struct {
		Tables []struct {
			ID   int
			Name string
		}
	}
	r.call("GET", "/books/1", nil, &book)
	return book.Tables
}
