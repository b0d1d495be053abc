package csv

import (
	"bytes"
	"context"
	stdcsv "encoding/csv"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// readBlocks reads with blocks of a size; 0 is that of real files.
func readBlocks(text string, d *Dialect, block int) (*table.Table, *intake.Report, error) {
	return read(context.Background(), strings.NewReader(text), d, intake.Options{}, block)
}

func mustRead(t *testing.T, text string, d *Dialect, block int) (*table.Table, *intake.Report) {
	t.Helper()
	tab, report, err := readBlocks(text, d, block)
	if err != nil {
		t.Fatalf("%.80q: %v", text, err)
	}
	return tab, report
}

// cells gives the header and the rows of a table.
func cells(t *table.Table) [][]string {
	out := [][]string{{}}
	for _, c := range t.Columns() {
		out[0] = append(out[0], c.Name)
	}
	for row := range t.Rows() {
		var r []string
		for _, c := range t.Columns() {
			v, _ := c.Value(t.BaseRow(row))
			r = append(r, v)
		}
		out = append(out, r)
	}
	return out
}

// The examples of RFC 4180, section 2.
func TestRFC4180(t *testing.T) {
	plain := Dialect{Encoding: "utf-8", Delimiter: ",", Quote: `"`}
	for _, c := range []struct {
		text string
		want [][]string
	}{
		{"aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n", [][]string{{"aaa", "bbb", "ccc"}, {"zzz", "yyy", "xxx"}}},
		{"aaa,bbb,ccc\r\nzzz,yyy,xxx", [][]string{{"aaa", "bbb", "ccc"}, {"zzz", "yyy", "xxx"}}},
		{"\"aaa\",\"bbb\",\"ccc\"\r\nzzz,yyy,xxx", [][]string{{"aaa", "bbb", "ccc"}, {"zzz", "yyy", "xxx"}}},
		{"\"aaa\",\"b\r\nbb\",\"ccc\"\r\nzzz,yyy,xxx", [][]string{{"aaa", "b\r\nbb", "ccc"}, {"zzz", "yyy", "xxx"}}},
		{"\"aaa\",\"b\"\"bb\",\"ccc\"", [][]string{{"aaa", `b"bb`, "ccc"}}},
	} {
		tab, _ := mustRead(t, c.text, &plain, 0)
		if got := cells(tab)[1:]; !slices.EqualFunc(got, c.want, slices.Equal) {
			t.Errorf("%q reads as %q, want %q", c.text, got, c.want)
		}
	}
}

// randomText writes a table with everything a cell may hold through encoding/csv.
func randomText(r *rand.Rand, rows, columns int) (string, [][]string) {
	pieces := []string{"a", "tern", " ", "\"", "\"\"", ",", "\n", "\r\n", "é", ";", "12", "'"}
	var b bytes.Buffer
	w := stdcsv.NewWriter(&b)
	w.UseCRLF = r.IntN(2) == 0
	var want [][]string
	for row := range rows + 1 {
		var record []string
		for c := range columns {
			cell := fmt.Sprintf("h%d", c)
			if row > 0 {
				cell = ""
				for range r.IntN(4) {
					cell += pieces[r.IntN(len(pieces))]
				}
				if w.UseCRLF { // encoding/csv writes every line feed as CR LF then
					cell = strings.NewReplacer("\r", "", "\n", "").Replace(cell)
				}
			}
			record = append(record, cell)
		}
		want = append(want, record)
		if err := w.Write(record); err != nil {
			panic(err)
		}
	}
	w.Flush()
	return b.String(), want
}

// Outside reference: what encoding/csv wrote reads back to the letter, whatever the
// block size and so wherever the guessed cuts fall; and what Write writes is read by
// encoding/csv to the same cells.
func TestAgainstEncodingCSV(t *testing.T) {
	r := rand.New(rand.NewPCG(4180, 1))
	d := Dialect{Encoding: "utf-8", Delimiter: ",", Quote: `"`, Names: 1}
	for round := range 300 {
		text, want := randomText(r, 1+r.IntN(40), 2+r.IntN(4))
		tab, report := mustRead(t, text, &d, 1+r.IntN(200))
		if got := cells(tab); !slices.EqualFunc(got, want, slices.Equal) {
			t.Fatalf("round %d: %q\n reads as %q\n     want %q", round, text, got, want)
		}
		if len(report.Notes) > 0 {
			t.Fatalf("round %d: clean text was repaired: %v", round, report.Notes)
		}
		var out bytes.Buffer
		if _, err := Write(context.Background(), &out, tab, WriteOptions{}); err != nil {
			t.Fatal(err)
		}
		back, err := stdcsv.NewReader(bytes.NewReader(out.Bytes())).ReadAll()
		for _, row := range want { // encoding/csv reads CR LF inside quotes as LF
			for i := range row {
				row[i] = strings.ReplaceAll(row[i], "\r\n", "\n")
			}
		}
		if err != nil || !slices.EqualFunc(back, want, slices.Equal) {
			t.Fatalf("round %d: encoding/csv reads %q (%v), want %q", round, back, err, want)
		}
	}
}

func TestRepairsAreStated(t *testing.T) {
	for _, c := range []struct {
		name, text, note string
		rows             [][]string
	}{
		{"short", "a,b,c\n1,2,3\n4,5\n6\n", "2 rows had fewer cells than the header; blanks were added: rows 2, 3",
			[][]string{{"a", "b", "c"}, {"1", "2", "3"}, {"4", "5", ""}, {"6", "", ""}}},
		{"long", "a,b\n1,2\n3,4,five,six\n", "a row had more cells than the header; they are in a column of their own: row 2",
			[][]string{{"a", "b", "beyond the header 1", "beyond the header 2"}, {"1", "2", "", ""}, {"3", "4", "five", "six"}}},
		{"trailing delimiters", "a,b\n1,2,\n", "", [][]string{{"a", "b"}, {"1", "2"}}},
		{"loose quote", "a,b\n\"Sea \"Queen\" II\",x\n", "a row had a quotation mark that was not doubled; it was taken as it stands: row 1",
			[][]string{{"a", "b"}, {`Sea "Queen" II`, "x"}}},
		{"quote inside", "a,b\n5\" pipe,x\n", "", [][]string{{"a", "b"}, {`5" pipe`, "x"}}},
		{"NUL", "a,b\nx\x00y,z\n", "a row had NUL bytes, which were removed: row 1", [][]string{{"a", "b"}, {"xy", "z"}}},
		{"not UTF-8", "a,b\né,z\nM\xf6we,z\n", "a row had bytes that are not utf-8; they are shown as \uFFFD: row 2",
			[][]string{{"a", "b"}, {"é", "z"}, {"M\uFFFDwe", "z"}}},
		{"names", "a, b ,,a,a\n1,2,3,4,5\n", "3 column names were empty or used twice; they are now column 3, a (2), a (3)",
			[][]string{{"a", "b", "column 3", "a (2)", "a (3)"}, {"1", "2", "3", "4", "5"}}},
		{"empty lines", "\n\na,b\n\n1,2\n\n", "4 empty lines were left out", [][]string{{"a", "b"}, {"1", "2"}}},
		{"header only", "a,b\n", "there are names of columns and no rows", [][]string{{"a", "b"}}},
		{"one column", "a\nx\n\ny\n", "", [][]string{{"a"}, {"x"}, {""}, {"y"}}},
		{"old line ends", "a,b\r1,2\r3,4\r", "", [][]string{{"a", "b"}, {"1", "2"}, {"3", "4"}}},
		{"BOM", "\xef\xbb\xbf\"a\",b\n1,2\n", "", [][]string{{"a", "b"}, {"1", "2"}}},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := Dialect{Encoding: "utf-8", Delimiter: ",", Quote: `"`, Names: 1}
			tab, report := mustRead(t, c.text, &d, 0)
			if got := cells(tab); !slices.EqualFunc(got, c.rows, slices.Equal) {
				t.Errorf("reads as %q, want %q", got, c.rows)
			}
			if c.note == "" && len(report.Notes) > 0 || c.note != "" && !slices.ContainsFunc(report.Notes, func(n intake.Note) bool { return n.String() == c.note }) {
				t.Errorf("notes %v, want %q", report.Notes, c.note)
			}
		})
	}
}

func TestRefusals(t *testing.T) {
	header := "name,port\n"
	for _, c := range []struct {
		name, text, what string
		row              int
		column           string
	}{
		{"empty", "", "the file is empty", 0, ""},
		{"white space", " \n\n", "the file is empty", 0, ""},
		{"binary", strings.Repeat("\x00\x01\x00\x00", 99), "not text", 0, ""},
		{"unclosed", header + "a,b\nc,\"d\ne,f\n", "never closed", 2, "port"},
		{"far too many cells", header + "a" + strings.Repeat(",b", 500) + "\n", "more than 100 cells", 1, ""},
		{"columns", strings.Repeat("a,", intake.MaxColumns) + "a\n", "columns or more; at most", 0, ""},
		{"huge cell", header + "a,\"" + strings.Repeat("x", intake.MaxCell+intake.BlockSize+10) + "\"\n", "longer than 16 MiB", 1, "port"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, _, err := Read(context.Background(), strings.NewReader(c.text), nil, intake.Options{File: "terns.csv"})
			var p *problem.Problem
			if !errors.As(err, &p) {
				t.Fatalf("error %v is no problem", err)
			}
			if !strings.Contains(p.What, c.what) || p.Row != c.row || p.Column != c.column || p.File != "terns.csv" || p.Remedy == "" {
				t.Errorf("refused with %+v", p)
			}
		})
	}
}

func TestWideAndLarge(t *testing.T) {
	var b strings.Builder
	for i := range 5000 {
		fmt.Fprintf(&b, "c%d,", i)
	}
	b.WriteString("last\n" + strings.Repeat("1,", 5000) + "2\n")
	if tab, _ := mustRead(t, b.String(), nil, 0); len(tab.Columns()) != 5001 || tab.Rows() != 1 {
		t.Errorf("%d columns, %d rows", len(tab.Columns()), tab.Rows())
	}
	big := strings.Repeat("long, ", 2<<20/6)
	tab, _ := mustRead(t, "a,b\n\""+big+"\",x\n1,2\n", nil, 4096)
	if v, _ := tab.Columns()[0].Value(0); v != big {
		t.Errorf("a cell of %d bytes came back as %d", len(big), len(v))
	}
}

func TestSniff(t *testing.T) {
	latin, _ := charmap.Windows1252.NewEncoder().String("vessel;harbour\nMöwe;Gull Point\n")
	utf16, _ := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String("vessel\tharbour\nMöwe\tGull Point\n")
	for _, c := range []struct {
		text string
		want Dialect
	}{
		{"vessel,harbour\nTern,Gull Point\n", Dialect{Encoding: "utf-8", Delimiter: ",", Quote: `"`, Names: 1}},
		{latin, Dialect{Encoding: "windows-1252", Delimiter: ";", Quote: `"`, Names: 1}},
		{utf16, Dialect{Encoding: "utf-16le", Delimiter: "\t", Quote: `"`, Names: 1}},
		{"Tern,12\nSkua,14\n", Dialect{Encoding: "utf-8", Delimiter: ",", Quote: `"`}},
		{"a|b\n\"x|,,y\"|2\n", Dialect{Encoding: "utf-8", Delimiter: "|", Quote: `"`, Names: 1}},
		{"name\nTern\nSkua\n", Dialect{Encoding: "utf-8", Delimiter: ",", Quote: `"`, Names: 1}},
		{"Landings of March\n\nno;name;kg\n1;Tern;3\n2;Skua;4\n", Dialect{Encoding: "utf-8", Delimiter: ";", Quote: `"`, Names: 1, Above: 2}},
		{"# drawn by hand\nname||kg\nTern||3\n", Dialect{Encoding: "utf-8", Delimiter: "||", Quote: `"`, Names: 1, Comment: "#"}},
		{"v;w\n1,5;2,5\n1,25;3,5\n", Dialect{Encoding: "utf-8", Delimiter: ";", Quote: `"`, Names: 1}},
	} {
		got, err := Sniff([]byte(c.text))
		if err != nil || got != c.want {
			t.Errorf("%q sniffs as %+v (%v), want %+v", c.text, got, err, c.want)
		}
	}
	for _, text := range []string{latin, utf16} {
		tab, _ := mustRead(t, text, nil, 0)
		if got := cells(tab)[1][0]; got != "Möwe" {
			t.Errorf("%q reads as %q", text, got)
		}
	}
}

func TestGuard(t *testing.T) {
	tab, _ := mustRead(t, "a,b\n=1+1,-5\n\"@cmd, x\",+47 12\nplain,-\n", nil, 0)
	var out bytes.Buffer
	guarded, err := Write(context.Background(), &out, tab, WriteOptions{Guard: true})
	want := "a,b\n'=1+1,-5\n\"'@cmd, x\",'+47 12\nplain,'-\n"
	if err != nil || out.String() != want || guarded != 4 {
		t.Errorf("wrote %q, %d guarded (%v), want %q", out.String(), guarded, err, want)
	}
}

// failing stops in the middle, as an upload that is cut off does.
type failing struct{ r io.Reader }

func (f failing) Read(p []byte) (int, error) {
	n, err := f.r.Read(p)
	if err == io.EOF {
		err = errors.New("connection lost")
	}
	return n, err
}

func TestSourceFails(t *testing.T) {
	_, _, err := read(context.Background(), failing{strings.NewReader(strings.Repeat("a,b\n", 100000))}, nil, intake.Options{}, 8192)
	if err == nil || !strings.Contains(err.Error(), "connection lost") {
		t.Errorf("a source that fails gave %v", err)
	}
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"a,b\n1,2\n", "\"a\"\"b\",c\r\n", "\xff\xfea\x00,\x00b\x00", "a;b\n\"x\ny\";2", "a\tb\rc\td\r", "\"open"} {
		f.Add(s, 16)
	}
	f.Fuzz(func(t *testing.T, text string, block int) {
		tab, _, err := readBlocks(text, nil, 1+max(block, -block)%64)
		if err != nil {
			var p *problem.Problem
			if !errors.As(err, &p) {
				t.Fatalf("%q: %v is no problem", text, err)
			}
			return
		}
		again, _, err := readBlocks(text, nil, 0)
		if err != nil || !slices.EqualFunc(cells(tab), cells(again), slices.Equal) {
			t.Fatalf("%q reads differently by block size (%v)", text, err)
		}
	})
}

func TestBadDialects(t *testing.T) {
	for _, d := range []Dialect{{Encoding: "latin-9", Delimiter: ",", Quote: `"`}, {Encoding: "utf-8", Delimiter: "", Quote: `"`}, {Encoding: "utf-8", Delimiter: ",,,,,,,,,", Quote: `"`}, {Encoding: "utf-8", Delimiter: ",", Names: 9}, {Encoding: "utf-8", Delimiter: ",", Above: -1}, {Encoding: "utf-8", Delimiter: ",", Comment: "a\n"}, {Encoding: "utf-8", Delimiter: "\n", Quote: `"`},
		{Encoding: "utf-8", Delimiter: ",", Quote: ","}, {Encoding: "utf-8", Delimiter: ",", Quote: "''"}, {Encoding: "utf-8", Delimiter: "é", Quote: `"`}} {
		_, _, err := readBlocks("a,b\n1,2\n", &d, 0)
		var p *problem.Problem
		if !errors.As(err, &p) || p.Remedy == "" {
			t.Errorf("%+v: %v", d, err)
		}
	}
}

// Every encoding reads the same text to the same cells, whatever the block size, though
// characters then fall across blocks.
func TestEncodingsAgree(t *testing.T) {
	text := "vessel,remark\n" + strings.Repeat("Möwe,\"é, ü\nß\"\nTern,plain\n", 50)
	want, _ := mustRead(t, text, nil, 0)
	le, _ := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String(text)
	be, _ := unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewEncoder().String(text)
	latin, _ := charmap.ISO8859_1.NewEncoder().String(text)
	for encoding, encoded := range map[string]string{"utf-8": text, "utf-16le": le, "utf-16be": be, "iso-8859-1": latin, "windows-1252": latin} {
		for _, block := range []int{3, 17, 1 << 16} {
			tab, report := mustRead(t, encoded, &Dialect{Encoding: encoding, Delimiter: ",", Quote: `"`, Names: 1}, block)
			if !slices.EqualFunc(cells(tab), cells(want), slices.Equal) || len(report.Notes) > 0 {
				t.Errorf("%s in blocks of %d reads otherwise: %v", encoding, block, report.Notes)
			}
		}
	}
}

func TestReadingCanBeCancelled(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	blocks := 0
	_, _, err := read(ctx, strings.NewReader(strings.Repeat("a,b\n", 100_000)), nil, intake.Options{Progress: func(int64, int) {
		if blocks++; blocks == 3 {
			cancel()
		}
	}}, 4096)
	if !errors.Is(err, context.Canceled) || blocks != 3 {
		t.Errorf("after %d blocks: %v", blocks, err)
	}
}

func TestProgressCountsBytesAndRows(t *testing.T) {
	text := "a,b\n" + strings.Repeat("1,2\n", 5000)
	var bytes int64
	rows := 0
	_, report, err := read(context.Background(), strings.NewReader(text), nil, intake.Options{Progress: func(b int64, r int) {
		if b < bytes || r < rows {
			t.Error("progress ran backwards")
		}
		bytes, rows = b, r
	}}, 1000)
	if err != nil || bytes != int64(len(text)) || rows != 5000 || report.Bytes != bytes || report.Rows != rows {
		t.Errorf("ended at %d bytes, %d rows; report %+v", bytes, rows, report)
	}
}

// Lines above the names, comments, names in two lines, delimiters of several characters:
// in blocks of any size.
func TestLayouts(t *testing.T) {
	want := [][]string{{"no", "catch species", "catch kg"}, {"1", "Tern|fish", "3"}, {"2", "#5|", ""}}
	for _, c := range []struct {
		text string
		d    Dialect
	}{
		{"Landings\n\"of March\nno;catch;\n;species;kg\n1;Tern|fish;3\n2;#5|;\n", Dialect{Delimiter: ";", Names: 2, Above: 2}},
		{"# by hand\nno||catch||\n# units below\n||species||kg\n1||Tern|fish||3\n# 9||9||9\n2||\"#5|\"||\n#", Dialect{Delimiter: "||", Names: 2, Comment: "#"}},
		{"no, catch,\n, species,kg\n1,Tern|fish,3\n2,#5|,\n", Dialect{Delimiter: ",", Names: 2}},
	} {
		c.d.Encoding, c.d.Quote = "utf-8", `"`
		for _, block := range []int{1, 2, 3, 7, 20, 0} {
			tab, _ := mustRead(t, c.text, &c.d, block)
			if got := cells(tab); !slices.EqualFunc(got, want, slices.Equal) {
				t.Errorf("%q in blocks of %d reads as %q", c.text, block, got)
			}
		}
	}
}
