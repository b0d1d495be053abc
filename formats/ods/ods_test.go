package ods

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/grid"
	"grandledger/formats/intake"
)

func sample() *table.Table {
	return coretest.Build(
		[]string{"no", "price", "day", "code", "text", "yes"},
		[]string{"1", "12.50", "2031-10-04", "0017", "a\"b  <c>&", "true"},
		[]string{"-20", "3.00", "1850-12-31", "17", " edge\tand\nline ", "false"},
		[]string{"", "", "", "", "Möwe", ""},
	)
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func read(data []byte, r grid.Range) (*table.Table, *intake.Report, error) {
	return Read(context.Background(), bytes.NewReader(data), int64(len(data)), r, intake.Options{File: "terns.ods"})
}

// pack makes a workbook of a content.
func pack(t *testing.T, content, manifest string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range map[string]string{"content.xml": content, "META-INF/manifest.xml": manifest} {
		w, err := z.Create(name)
		must(t, err)
		_, err = w.Write([]byte(text))
		must(t, err)
	}
	must(t, z.Close())
	return out.Bytes()
}

// Outside reference: Debian's python3-odf reads the types and values of what we write, and
// we read a workbook that it writes.
func TestAgainstAnotherLibrary(t *testing.T) {
	var out bytes.Buffer
	must(t, Write(context.Background(), &out, sample()))
	tab, _, err := read(out.Bytes(), grid.Range{Names: 1})
	must(t, err)
	if got, want := coretest.Rows(tab), coretest.Rows(sample()); !slices.EqualFunc(got, want, slices.Equal) {
		t.Errorf("read back %q, want %q", got, want)
	}
	ours, theirs := filepath.Join(t.TempDir(), "ours.ods"), filepath.Join(t.TempDir(), "theirs.ods")
	must(t, os.WriteFile(ours, out.Bytes(), 0o600))
	script := `
import sys
from odf import opendocument, table, text, teletype
for row in opendocument.load(sys.argv[1]).getElementsByType(table.TableRow)[1:2]:
    for c in row.getElementsByType(table.TableCell):
        print(c.getAttribute("valuetype"), c.getAttribute("value") or c.getAttribute("datevalue") or c.getAttribute("booleanvalue") or teletype.extractText(c))
d = opendocument.OpenDocumentSpreadsheet()
s = table.Table(name="Landings")
for cells in [["no", "kg"], ["1", 3.5], ["2", 4]]:
    r = table.TableRow()
    for v in cells:
        c = table.TableCell(valuetype="string") if isinstance(v, str) else table.TableCell(valuetype="float", value=v)
        c.addElement(text.P(text=str(v)))
        r.addElement(c)
    s.addElement(r)
s.addElement(table.TableRow(numberrowsrepeated=1048573))
d.spreadsheet.addElement(s)
d.save(sys.argv[2])`
	said, err := exec.Command("/usr/bin/python3", "-c", script, ours, theirs).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, said)
	}
	if want := "float 1\nfloat 12.50\ndate 2031-10-04\nstring 0017\nstring a\"b  <c>&\nboolean true\n"; string(said) != want {
		t.Errorf("python3-odf reads %q, want %q", said, want)
	}
	data, err := os.ReadFile(theirs)
	must(t, err)
	tab, _, err = read(data, grid.Range{Sheet: "Landings", Names: 1})
	must(t, err)
	if got := coretest.Rows(tab); !slices.EqualFunc(got, [][]string{{"1", "3.5"}, {"2", "4"}}, slices.Equal) {
		t.Errorf("read %q", got)
	}
}

func TestRepeatsSpansAndRefusals(t *testing.T) {
	content := `<x><spreadsheet><table name="A"><table-row><table-cell number-columns-repeated="2"><p>a</p></table-cell></table-row>
		<table-row number-rows-repeated="3"/><table-row number-rows-repeated="2"><table-cell number-columns-spanned="2"><p>x<s c="2"/>y</p><p>z</p><annotation><p>no</p></annotation></table-cell>
		<covered-table-cell/></table-row><table-row number-rows-repeated="1000000000"><table-cell number-columns-repeated="16000"/></table-row></table><table name="B"/></spreadsheet></x>`
	data := pack(t, content, "")
	tab, report, err := read(data, grid.Range{Names: 1})
	must(t, err)
	if got := coretest.Rows(tab); !slices.EqualFunc(got, [][]string{{"x  y\nz", ""}, {"x  y\nz", ""}}, slices.Equal) || tab.Columns()[1].Name != "a (2)" {
		t.Errorf("read %q", got)
	}
	if !slices.ContainsFunc(report.Notes, func(n intake.Note) bool { return strings.HasPrefix(n.What, "merged cells") }) {
		t.Errorf("notes %v", report.Notes)
	}
	if names, err := Sheets(bytes.NewReader(data), int64(len(data))); err != nil || !slices.Equal(names, []string{"A", "B"}) {
		t.Errorf("sheets %v (%v)", names, err)
	}
	for name, c := range map[string]struct {
		data []byte
		r    grid.Range
		what string
	}{
		"no such sheet":  {data, grid.Range{Sheet: "C"}, `no sheet "C"`},
		"empty sheet":    {data, grid.Range{Sheet: "B"}, "no row with a value"},
		"a password":     {pack(t, content, "<encryption-data/>"), grid.Range{}, "password"},
		"cut off":        {pack(t, content[:300], ""), grid.Range{}, "cannot be opened"},
		"a billion rows": {pack(t, `<table><table-row number-rows-repeated="1000000000"><table-cell><p>a</p></table-cell></table-row></table>`, ""), grid.Range{}, "equal rows"},
		"a wide bomb":    {pack(t, `<table><table-row><table-cell number-columns-repeated="1000000000"><p>a</p></table-cell></table-row></table>`, ""), grid.Range{}, "columns"},
		"no archive":     {[]byte("PK"), grid.Range{}, "cannot be opened"},
		"no area":        {data, grid.Range{Area: "5:6:7"}, "no range of cells"},
	} {
		_, _, err := read(c.data, c.r)
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.What, c.what) || p.File != "terns.ods" || p.Remedy == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(`<table name="A"><table-row><table-cell number-columns-repeated="2"><p>a</p></table-cell></table-row></table>`, "A1:B2")
	f.Fuzz(func(t *testing.T, content, area string) {
		_, _, err := read(pack(t, content, ""), grid.Range{Area: area, Names: 1})
		var p *problem.Problem
		if err != nil && !errors.As(err, &p) {
			t.Fatalf("%v is no problem", err)
		}
	})
}
