package formats

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
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
	"grandledger/formats/json"
	"grandledger/formats/xml"
)

func source(name string, data []byte) Source {
	return Source{name, int64(len(data)), bytes.NewReader(data)}
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func readAll(t *testing.T, s Source) *table.Table {
	t.Helper()
	how, err := Sniff(s)
	must(t, err)
	tab, _, err := Read(context.Background(), []Source{s}, how, intake.Options{})
	must(t, err)
	return tab
}

func write(t *testing.T, name string, tab *table.Table) []byte {
	t.Helper()
	w, err := Writer(name)
	must(t, err)
	var out bytes.Buffer
	must(t, w(context.Background(), &out, tab))
	return out.Bytes()
}

// CSV made into every other format and back is the same CSV to the byte.
func TestThereAndBack(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 3))
	values := [][]string{{"1", "-7", "300"}, {"1.50", "20.00"}, {"0.5", "17", ""}, {"2031-10-04", "2031-12-31", ""}, {"0017", "17"}, {"a\"b", "x, y", " edge ", "Möwe", "line\nbreak", "=1+1", ""},
		{"true", "false", ""}, {`["cod","hake"]`, "[]", ""}, {"1850-01-01", "2031-01-01"}, {"12345678901234567890", "1"}, {"-0", "1e5", "+4", ".5"}}
	for round := range 20 {
		rows := [][]string{{"no"}}
		for i := range values {
			rows[0] = append(rows[0], fmt.Sprintf("c %d", i))
		}
		for n := range 1 + r.IntN(40) {
			row := []string{fmt.Sprint(n)}
			for _, v := range values {
				row = append(row, v[r.IntN(len(v))])
			}
			rows = append(rows, row)
		}
		want := write(t, "a.csv", coretest.Build(rows...))
		for _, ending := range append(slices.Clone(Endings), ".csv.gz", ".jsonl.zst", ".parquet.gz", ".xlsx.gz") {
			there := write(t, "a"+ending, readAll(t, source("a.csv", want)))
			if back := write(t, "a.csv", readAll(t, source("a"+ending, there))); !bytes.Equal(back, want) {
				t.Fatalf("round %d, %s: came back as\n%s\nwant\n%s", round, ending, back, want)
			}
		}
	}
}

func zipped(t *testing.T, files map[string]string, order ...string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, name := range order {
		w, err := z.Create(name)
		must(t, err)
		_, err = io.WriteString(w, files[name])
		must(t, err)
	}
	must(t, z.Close())
	return out.Bytes()
}

func TestSniff(t *testing.T) {
	zip := zipped(t, map[string]string{"march.csv": "no;kg\n1;2\n", "april.csv": "no;kg\n3;4\n"}, "__MACOSX/x", ".hidden", "march.csv", "april.csv")
	for _, c := range []struct {
		name, text, format string
		check              func(How) bool
	}{
		{"a.csv", "no,kg\n1,2\n", Delimited, func(h How) bool { return h.Text.Delimiter == "," }},
		{"a.txt", "Landings of March\nno   kg  vessel\n1    2   Tern\n17   3   Skua II\n", Fixed, func(h How) bool { return slices.Equal(h.Fixed.Cuts, []int{5, 9}) && h.Fixed.Above == 1 }},
		{"a.json", `{"data":{"list":[{"a":1}]}}`, JSON, func(h How) bool { return h.JSON.Records == "data.list" }},
		{"a", "[\n{\"a\":1}]", Delimited, nil},
		{"a.jsonl", "{\"a\":[1]}\n{\"a\":2}", JSON, func(h How) bool { return *h.JSON == json.Shape{} }},
		{"a.xml", `<?xml version="1.0"?><r><n><k>1</k></n><n/></r>`, XML, func(h How) bool { return *h.XML == xml.Shape{Records: "r/n"} }},
		{"a.html", "<!DOCTYPE html><table><tr><th>no<tr><td>1</table>", HTML, func(h How) bool { return *h.Grid == grid.Range{Names: 1} }},
		{"a.zip", string(zip), Delimited, func(h How) bool {
			return h.Packed == Zip && slices.Equal(h.Pieces, []string{"march.csv"}) && h.Text.Delimiter == ";"
		}},
		{"terns.pdf", "%PDF-1.7", "PDF", nil}, {"x", "", "empty", nil}, {"x.zip", "PK\x03\x04xx", "damaged", nil},
	} {
		h, err := Sniff(source(c.name, []byte(c.text)))
		var p *problem.Problem
		if c.check == nil && c.format != Delimited {
			if !errors.As(err, &p) || !strings.Contains(p.What, c.format) || p.File != c.name || p.Remedy == "" {
				t.Errorf("%s: %v", c.name, err)
			}
			continue
		}
		if err != nil || h.Format != c.format || c.check != nil && !c.check(h) {
			t.Errorf("%s sniffs as %+v (%v)", c.name, h, err)
		}
	}
}

func TestPiecesAndColumns(t *testing.T) {
	s := source("terns.zip", zipped(t, map[string]string{"march.csv": "no;kg\n1;2\n", "april.csv": "no;kg;x\n3;4;5\n"}, "march.csv", "april.csv"))
	v, err := Look(context.Background(), s, nil)
	must(t, err)
	if !slices.Equal(v.Choices.Files, []string{"march.csv", "april.csv"}) || !slices.Equal(v.Names, []string{"no", "kg"}) || v.Rows[0][1] != "2" {
		t.Errorf("looks like %+v", v)
	}
	how := v.How
	how.Pieces = v.Choices.Files
	how.Columns = []Choice{{"kg", "weight"}, {FileColumn, ""}}
	tab, report, err := Read(context.Background(), []Source{s}, how, intake.Options{})
	must(t, err)
	want := [][]string{{"2", "march.csv"}, {"4", "april.csv"}}
	if got := coretest.Rows(tab); !slices.EqualFunc(got, want, slices.Equal) || tab.Columns()[0].Name != "weight" || report.Rows != 2 || report.Columns != 2 {
		t.Errorf("read %q, %+v", got, report)
	}
	how.Columns = []Choice{{"boat", ""}}
	var p *problem.Problem
	if _, _, err := Read(context.Background(), []Source{s}, how, intake.Options{}); !errors.As(err, &p) || p.Remedy != `It has "file", "no", "kg", "x"` {
		t.Errorf("a column that is not there: %v", err)
	}
	how.Columns, how.Pieces = nil, []string{"may.csv"}
	if _, _, err := Read(context.Background(), []Source{s}, how, intake.Options{}); !errors.As(err, &p) || p.Remedy != `It holds "march.csv", "april.csv"` {
		t.Errorf("a file that is not there: %v", err)
	}
	a, b := source("/x/a.csv", []byte("no,kg\n1,2\n")), source("/y/b.csv", []byte("no,kg\n3,4\n"))
	how, err = Sniff(a)
	must(t, err)
	tab, _, err = Read(context.Background(), []Source{a, b}, how, intake.Options{})
	must(t, err)
	if got := coretest.Rows(tab); !slices.EqualFunc(got, [][]string{{"a.csv", "1", "2"}, {"b.csv", "3", "4"}}, slices.Equal) {
		t.Errorf("two files read %q", got)
	}
}

// A small file that unpacks without end is refused, and nothing is left behind.
func TestBombs(t *testing.T) {
	var once, bomb bytes.Buffer
	z := gzip.NewWriter(&once)
	_, err := z.Write([]byte(strings.Repeat(strings.Repeat("x", 1000)+",2\n", 16<<10)))
	must(t, err)
	must(t, z.Close())
	for range 70 { // what was packed one after another unpacks one after another (RFC 1952, 2.2)
		bomb.Write(once.Bytes())
	}
	how, err := Sniff(source("bomb.csv.gz", bomb.Bytes()))
	must(t, err)
	for _, format := range []string{Delimited, Parquet} {
		how.Format = format
		_, _, err := Read(context.Background(), []Source{source("bomb.csv.gz", bomb.Bytes())}, how, intake.Options{})
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.What, "200 times") {
			t.Errorf("%s: %v", format, err)
		}
	}
	if left, _ := filepath.Glob(filepath.Join(os.TempDir(), "grandledger-unpacked-*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
	cut := once.Bytes()
	how.Format = Delimited
	_, _, err = Read(context.Background(), []Source{source("cut.csv.gz", cut[:len(cut)-2000])}, how, intake.Options{})
	var p *problem.Problem
	if !errors.As(err, &p) || !strings.Contains(p.What, "cut off") {
		t.Errorf("cut off: %v", err)
	}
}

// Outside reference: the gzip and zstd programs unpack what we pack.
func TestPackedAgainstPrograms(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"1"})
	for ending, args := range map[string][]string{".gz": {"gzip", "-dc"}, ".zst": {"zstd", "-dc"}} {
		cmd := exec.Command(args[0], args[1:]...)
		cmd.Stdin = bytes.NewReader(write(t, "a.csv"+ending, tab))
		if out, err := cmd.Output(); err != nil || string(out) != "a\n1\n" {
			t.Errorf("%s: %q (%v)", ending, out, err)
		}
	}
}
