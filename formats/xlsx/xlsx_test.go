package xlsx

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/grid"
	"grandledger/formats/intake"
)

func book(t *testing.T, f *excelize.File) *Book {
	t.Helper()
	var out bytes.Buffer
	if _, err := f.WriteTo(&out); err != nil {
		t.Fatal(err)
	}
	b, err := Open(bytes.NewReader(out.Bytes()), int64(out.Len()))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { b.Close() })
	return b
}

func rows(t *testing.T, tab *table.Table, err error) [][]string {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
	out := [][]string{{}}
	for _, c := range tab.Columns() {
		out[0] = append(out[0], c.Name)
	}
	return append(out, coretest.Rows(tab)...)
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func TestCells(t *testing.T) {
	f := excelize.NewFile()
	set := func(cell string, v any, code string) {
		t.Helper()
		must(t, f.SetCellValue("Sheet1", cell, v))
		if code != "" {
			id, err := f.NewStyle(&excelize.Style{CustomNumFmt: &code})
			must(t, err)
			must(t, f.SetCellStyle("Sheet1", cell, cell, id))
		}
	}
	for i, c := range []struct {
		v    any
		code string
		want string
	}{
		{48123, "dd/mm/yyyy", "2031-10-02"}, {48123.5, "d mmm yy h:mm AM/PM", "2031-10-02 12:00:00"}, {0.25, "hh:mm", "06:00:00"},
		{48123, `[$-409]mmmm\ yyyy;@`, "2031-10-02"}, {12.5, "0.00", "12.50"}, {1234.5, "#,##0.00", "1234.50"}, {2.345, "0.00", "2.345"},
		{0.25, "0%", "0.25"}, {1234.5, `#,##0.0" kg"`, "1234.5"}, {"0017", "", "0017"}, {true, "", "TRUE"}, {1234567, "", "1234567"},
		{0.1 + 0.2, "", "0.3"}, {1e21, "", "1E+21"}, {"=1+1", "", "=1+1"}, {1.5, "[h]:mm", "1.5"}, {-3.5, "0.00;[Red]-0.00", "-3.50"},
	} {
		cell := fmt.Sprintf("A%d", i+2)
		set(cell, c.v, c.code)
		set(fmt.Sprintf("B%d", i+2), c.want, "")
	}
	must(t, f.SetCellValue("Sheet1", "A1", "read"))
	must(t, f.SetCellValue("Sheet1", "B1", "want"))
	must(t, f.SetCellFormula("Sheet1", "A30", "SUM(A1:A2)"))
	b := book(t, f)
	tab, report, err := b.Read(context.Background(), grid.Range{Names: 1}, intake.Options{File: "terns.xlsx"})
	for i, r := range rows(t, tab, err)[1:] {
		if r[0] != r[1] {
			t.Errorf("row %d reads as %q, want %q", i+1, r[0], r[1])
		}
	}
	if !slices.ContainsFunc(report.Notes, func(n intake.Note) bool { return strings.Contains(n.What, "empty rows") }) {
		t.Errorf("notes %v", report.Notes)
	}
}

func TestSheetsRangesAndMergedCells(t *testing.T) {
	f := excelize.NewFile()
	for i, r := range [][]any{{"Landings"}, {}, {"", "Catch", "", ""}, {"no", "species", "kg", ""}, {1, "cod", 3.5}, {}, {2, "hake", 4, "late"}} {
		must(t, f.SetSheetRow("Sheet1", fmt.Sprintf("B%d", i+2), &r))
	}
	must(t, f.MergeCell("Sheet1", "C4", "D4"))
	_, err := f.NewSheet("Second")
	must(t, err)
	must(t, f.SetCellValue("Second", "A1", "only"))
	must(t, f.SetSheetVisible("Second", false))
	b := book(t, f)
	if got := fmt.Sprint(b.Sheets); got != "[{Sheet1 false xl/worksheets/sheet1.xml} {Second true xl/worksheets/sheet2.xml}]" {
		t.Errorf("sheets %v", got)
	}
	tab, report, err := b.Read(context.Background(), grid.Range{Area: "B2:E7", Above: 2, Names: 2}, intake.Options{})
	want := [][]string{{"no", "Catch species", "Catch kg"}, {"1", "cod", "3.5"}}
	if got := rows(t, tab, err); !slices.EqualFunc(got, want, slices.Equal) {
		t.Errorf("read %q", got)
	}
	if len(report.Notes) == 0 || report.Notes[0].What != "merged cells hold their value in the first of them only: C4:D4" {
		t.Errorf("notes %v", report.Notes)
	}
	first, err := b.First("", 10)
	must(t, err)
	for i, r := range first {
		first[i] = r[min(1, len(r)):]
	}
	if above, names := grid.Sniff(first); above != 0 || names != 1 {
		t.Errorf("found %d rows above, %d of names", above, names)
	}
	var p *problem.Problem
	if _, _, err = b.Read(context.Background(), grid.Range{Sheet: "Third"}, intake.Options{}); !errors.As(err, &p) || p.Remedy != `It has "Sheet1", "Second"` {
		t.Errorf("a sheet that is not there: %v", err)
	}
}

func TestRefusals(t *testing.T) {
	encrypted := filepath.Join(t.TempDir(), "secret.xlsx")
	f := excelize.NewFile()
	must(t, f.SaveAs(encrypted, excelize.Options{Password: "tern"}))
	secret, err := os.ReadFile(encrypted)
	must(t, err)
	var plain bytes.Buffer
	_, err = excelize.NewFile().WriteTo(&plain)
	must(t, err)
	// A small archive that unpacks to ten gigabytes: the directory says so.
	var bomb bytes.Buffer
	z := zip.NewWriter(&bomb)
	for i := range 3 {
		w, err := z.CreateRaw(&zip.FileHeader{Name: fmt.Sprintf("xl/worksheets/sheet%d.xml", i+1), Method: zip.Deflate, UncompressedSize64: 4 << 30, CompressedSize64: 4})
		must(t, err)
		_, err = w.Write([]byte("bomb"))
		must(t, err)
	}
	must(t, z.Close())
	for name, c := range map[string]struct {
		bytes []byte
		what  string
	}{
		"a password":   {secret, "protected by a password"},
		"cut off":      {plain.Bytes()[:plain.Len()/2], "cannot be opened"},
		"a bomb":       {bomb.Bytes(), "unpack to more"},
		"an old one":   {append([]byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"), make([]byte, 600)...), "old format"},
		"no workbook":  {[]byte("PK\x03\x04 and so on"), "cannot be opened"},
		"broken sheet": {tamper(t, plain.Bytes()), "cannot be opened"},
	} {
		b, err := Open(bytes.NewReader(c.bytes), int64(len(c.bytes)))
		if err == nil {
			_, _, err = b.Read(context.Background(), grid.Range{}, intake.Options{})
			b.Close()
		}
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.What, c.what) || p.Remedy == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
	if left, _ := filepath.Glob(filepath.Join(os.TempDir(), "excelize-*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
}

// tamper cuts the sheet of a workbook off in the middle.
func tamper(t *testing.T, whole []byte) []byte {
	r, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
	must(t, err)
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range r.File {
		w, err := z.Create(f.Name)
		must(t, err)
		if f.Name == "xl/worksheets/sheet1.xml" {
			fmt.Fprint(w, `<worksheet><sheetData><row r="1"><c r="A1"><v>1</v></c></row><row r="2"><c r=`)
			continue
		}
		from, err := f.Open()
		must(t, err)
		var b bytes.Buffer
		_, err = b.ReadFrom(from)
		must(t, err)
		_, err = w.Write(b.Bytes())
		must(t, err)
	}
	must(t, z.Close())
	return out.Bytes()
}

// sample has every kind of column.
func sample() *table.Table {
	return coretest.Build(
		[]string{"no", "price", "ratio", "day", "code", "text", "list", "yes", "old"},
		[]string{"1", "12.50", "0.5", "2031-10-04", "0017", "a\"b, =1+1", "[1]", "true", "1850-01-01"},
		[]string{"-20", "3.00", "17", "2031-12-31", "17", " edge ", "[]", "false", "2031-01-01"},
		[]string{"", "", "", "", "", "Möwe\nzwei", "", "", ""},
	)
}

// Outside reference: the reader of Debian's python3-openpyxl sees numbers as numbers, dates
// as dates, text as text; and we read back what we wrote to the letter.
func TestWriteAgainstAnotherReader(t *testing.T) {
	var out bytes.Buffer
	must(t, Write(context.Background(), &out, sample()))
	b, err := Open(bytes.NewReader(out.Bytes()), int64(out.Len()))
	must(t, err)
	defer b.Close()
	tab, _, err := b.Read(context.Background(), grid.Range{Names: 1}, intake.Options{})
	if got, want := rows(t, tab, err)[1:], coretest.Rows(sample()); !slices.EqualFunc(got, want, slices.Equal) {
		t.Errorf("read back %q, want %q", got, want)
	}
	file := filepath.Join(t.TempDir(), "terns.xlsx")
	must(t, os.WriteFile(file, out.Bytes(), 0o600))
	script := `
import openpyxl, sys
for row in openpyxl.load_workbook(sys.argv[1]).active.iter_rows():
    print([(c.value.isoformat() if hasattr(c.value, "isoformat") else c.value, c.data_type) for c in row])`
	said, err := exec.Command("/usr/bin/python3", "-c", script, file).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, said)
	}
	lines := strings.Split(string(said), "\n")
	want := `[(1, 'n'), (12.5, 'n'), (0.5, 'n'), ('2031-10-04T00:00:00', 'd'), ('0017', 's'), ('a"b, =1+1', 's'), ('[1]', 's'), ('true', 's'), ('1850-01-01', 's')]`
	if strings.ReplaceAll(lines[1], "'inlineStr'", "'s'") != want {
		t.Errorf("openpyxl reads\n%s\nwant\n%s", lines[1], want)
	}
}

func FuzzOpen(f *testing.F) {
	var out bytes.Buffer
	if err := Write(context.Background(), &out, sample()); err != nil {
		f.Fatal(err)
	}
	f.Add(out.Bytes(), "A1:C2")
	f.Add([]byte("PK\x03\x04"), "B:")
	f.Fuzz(func(t *testing.T, data []byte, area string) {
		b, err := Open(bytes.NewReader(data), int64(len(data)))
		if err == nil {
			_, _, err = b.Read(context.Background(), grid.Range{Area: area, Names: 1}, intake.Options{})
			b.Close()
		}
		var p *problem.Problem
		if err != nil && !errors.As(err, &p) {
			t.Fatalf("%v is no problem", err)
		}
	})
}
