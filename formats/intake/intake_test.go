package intake

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"testing/iotest"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"grandledger/core/coretest"
	"grandledger/core/problem"
)

func TestNames(t *testing.T) {
	long := strings.Repeat("é", 150)
	for _, c := range []struct {
		cells, want []string
		notes       int
	}{
		{[]string{"no", "kg"}, []string{"no", "kg"}, 0},
		{[]string{" no ", "no", "", "column 3", "no (2)"}, []string{"no", "no (3)", "column 4", "column 3", "no (2)"}, 2},
		{[]string{"a\x00b", "\xff"}, []string{"ab", "\uFFFD"}, 1},
		{[]string{long, long}, []string{long[:200], long[:200] + " (2)"}, 1},
		{[]string{"", "", ""}, []string{"column 1", "column 2", "column 3"}, 1},
	} {
		report := &Report{}
		got := Names(c.cells, true, report)
		if !slices.Equal(got, c.want) || len(report.Notes) != c.notes {
			t.Errorf("%q become %q with %v, want %q", c.cells, got, report.Notes, c.want)
		}
	}
	report := &Report{}
	if Names(make([]string, 3), false, report); len(report.Notes) > 0 {
		t.Errorf("names that did not come with the file are told: %v", report.Notes)
	}
}

// Whatever the cells, every name is there, once, and those that can stay do.
func TestNamesAreUsable(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 8))
	pieces := []string{"a", "a (2)", "a (3)", "", " ", "column 1", "column 2", "b\x00", "\xc3"}
	for range 2000 {
		cells := make([]string, 1+r.IntN(12))
		for i := range cells {
			cells[i] = pieces[r.IntN(len(pieces))]
		}
		seen := map[string]bool{}
		for i, name := range Names(cells, true, &Report{}) {
			if name == "" || seen[name] || strings.ContainsRune(name, 0) {
				t.Fatalf("%q: the name %q of cell %d", cells, name, i)
			}
			seen[name] = true
		}
		for _, cell := range cells {
			if cell != "" && strings.TrimSpace(cell) == cell && Clean(cell) == cell && !seen[cell] {
				t.Fatalf("%q: nothing is called %q any more", cells, cell)
			}
		}
	}
}

func TestJoinNames(t *testing.T) {
	for _, c := range []struct {
		lines [][]string
		want  []string
	}{
		{[][]string{{"a", "b"}}, []string{"a", "b"}},
		{[][]string{{"no", "catch", "", ""}, {"", "species", "kg", "total"}}, []string{"no", "catch species", "catch kg", "catch total"}},
		{[][]string{{"no", "kg"}, {"no", "kg"}}, []string{"no", "kg"}},
		{[][]string{{"a"}, {"x", "y"}}, []string{"a x", "a y"}},
		{[][]string{nil, {"x"}}, []string{"x"}},
	} {
		if got := JoinNames(c.lines); !slices.Equal(got, c.want) {
			t.Errorf("%q become %q, want %q", c.lines, got, c.want)
		}
	}
}

// Rows gathered cell by cell, columns coming up at any time, against the cells set.
func TestRowsAgainstWhatWasSet(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 2))
	for range 100 {
		rows := NewRows([]string{"a"}, 0)
		var set []map[string]string
		for range 1 + r.IntN(300) {
			cells := map[string]string{}
			for range r.IntN(4) {
				name := string(rune('a' + r.IntN(5)))
				at, err := rows.Column(name)
				if err != nil {
					t.Fatal(err)
				}
				cells[name] = fmt.Sprint(r.IntN(20))
				if err := rows.Set(at, cells[name]); err != nil {
					t.Fatal(err)
				}
			}
			if err := rows.End(context.Background()); err != nil {
				t.Fatal(err)
			}
			set = append(set, cells)
			if r.IntN(50) == 0 {
				if err := rows.encode(); err != nil {
					t.Fatal(err)
				}
			}
		}
		tab, err := rows.Table(Options{File: "x"}, &Report{})
		if err != nil || tab.Rows() != len(set) {
			t.Fatalf("%v, %d rows of %d", err, tab.Rows(), len(set))
		}
		for row, cells := range set {
			for _, c := range tab.Columns() {
				v, ok := c.Value(uint32(row))
				want, there := cells[c.Name]
				if v != want || ok != there {
					t.Fatalf("row %d, column %s holds %q, want %q", row, c.Name, v, want)
				}
			}
		}
	}
}

func TestRowsRefuse(t *testing.T) {
	rows := NewRows([]string{"a"}, 2)
	var p *problem.Problem
	if err := rows.Set(0, strings.Repeat("x", MaxCell+1)); !errors.As(err, &p) || p.Row != 1 || p.Column != "a" {
		t.Errorf("a long cell: %v", err)
	}
	for i := range 2 {
		if err := rows.End(context.Background()); (err == ErrEnough) != (i == 1) {
			t.Errorf("row %d of 2: %v", i+1, err)
		}
	}
	for i := range MaxColumns - 1 {
		if _, err := rows.Column(fmt.Sprint(i)); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := rows.Column("one more"); !errors.As(err, &p) {
		t.Errorf("one column too many: %v", err)
	}
	if err := Room(MaxCells/10, 11); !errors.As(err, &p) {
		t.Errorf("too many cells: %v", err)
	}
	if _, err := NewRows(nil, 0).Table(Options{}, &Report{}); !errors.As(err, &p) {
		t.Errorf("no column: %v", err)
	}
}

// A text is read to its last byte whatever the size of the blocks, of what is used of them
// and of what the source gives at once.
func TestBlocks(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 7))
	text := make([]byte, 50_000)
	for i := range text {
		text[i] = byte('a' + r.IntN(26))
	}
	for _, src := range []io.Reader{bytes.NewReader(text), iotest.OneByteReader(bytes.NewReader(text)), iotest.DataErrReader(bytes.NewReader(text))} {
		counter := &Counting{R: src}
		b := NewBlocks(counter, 0, 1+r.IntN(300))
		var got []byte
		if err := b.Begin(); err != nil {
			t.Fatal(err)
		}
		for {
			used := r.IntN(len(b.Buf) + 1)
			if b.Ended {
				used = len(b.Buf)
			}
			got = append(got, b.Buf[:used]...)
			if b.Ended {
				break
			}
			if room, err := b.Next(used); err != nil || !room {
				t.Fatal(room, err)
			}
		}
		if !bytes.Equal(got, text) || counter.Total() != int64(len(text)) {
			t.Fatalf("%d bytes of %d came through, %d counted", len(got), len(text), counter.Total())
		}
		b.Close()
	}
	// Read ahead to the end: the block before stays as it was while the next is worked on.
	long := bytes.Repeat(text, aheadFrom/len(text)+1)
	ahead := NewBlocks(bytes.NewReader(long), int64(len(long)), 0)
	if err := ahead.Begin(); err != nil {
		t.Fatal(err)
	}
	for at := 0; ; {
		used, last := len(ahead.Buf)-r.IntN(100_000), ahead.Buf
		if ahead.Ended {
			used = len(last)
		} else if _, err := ahead.Next(used); err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(last[:used], long[at:at+used]) {
			t.Fatalf("other bytes than those of the source came at %d", at)
		}
		if at += used; at == len(long) {
			break
		}
	}
	ahead.Close()
	// Left in the middle.
	large := strings.NewReader(strings.Repeat("x", aheadFrom+10))
	b := NewBlocks(large, aheadFrom+10, 0)
	err := b.Begin()
	b.Close()
	if err != nil || len(b.Buf) != BlockSize {
		t.Errorf("%d bytes (%v)", len(b.Buf), err)
	}
	failing := NewBlocks(iotest.ErrReader(errors.New("lost")), 0, 10)
	if err := failing.Begin(); err == nil {
		t.Error("a source that fails was read")
	}
}

func TestCutsLieBehindLineEnds(t *testing.T) {
	text := []byte("one\ntwo\nthree\nfour")
	for n := 1; n < 6; n++ {
		b := &Blocks{Buf: text}
		cuts := b.Cuts(0, n, '\n')
		if cuts[0] != 0 || cuts[n] != len(text) || !slices.IsSorted(cuts) {
			t.Fatalf("%d parts are cut at %v", n, cuts)
		}
		for _, at := range cuts[1:n] {
			if at < len(text) && text[at-1] != '\n' {
				t.Errorf("%d parts are cut at %d", n, at)
			}
		}
	}
}

func TestEncodings(t *testing.T) {
	text := "Möwe, façade\n"
	latin, _ := charmap.Windows1252.NewEncoder().String(text)
	le, _ := unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewEncoder().String(text)
	be, _ := unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewEncoder().String(text)
	for want, sample := range map[string]string{"utf-8": string(Mark) + text, "windows-1252": latin, "utf-16le": le, "utf-16be": be} {
		got, err := SniffEncoding([]byte(sample))
		if err != nil || got != want || string(Decode([]byte(sample), got)) != text {
			t.Errorf("%s is taken for %s (%v)", want, got, err)
		}
		whole, err := io.ReadAll(DecodeAll(strings.NewReader(sample), got))
		if err != nil || string(bytes.TrimPrefix(whole, Mark)) != text {
			t.Errorf("%s reads as %q (%v)", want, whole, err)
		}
	}
	if got, err := SniffEncoding([]byte("façade M\xc3")); err != nil || got != "utf-8" {
		t.Errorf("a sample that ends inside a character is %s (%v)", got, err)
	}
}

// Bytes that JSON and PostgreSQL cannot hold are repaired, and told with their rows, also
// where two broken values side by side look whole.
func TestRepairs(t *testing.T) {
	rows := NewRows([]string{"a"}, 0)
	for _, v := range []string{"good", "bad\xff", "nul\x00", "\xc3", "\xa9", "bad\xff"} {
		if err := errors.Join(rows.Set(0, v), rows.End(context.Background())); err != nil {
			t.Fatal(err)
		}
	}
	report := &Report{}
	tab, err := rows.Table(Options{}, report)
	if err != nil {
		t.Fatal(err)
	}
	want := [][]string{{"good"}, {"bad\uFFFD"}, {"nul"}, {"\uFFFD"}, {"\uFFFD"}, {"bad\uFFFD"}}
	if got := coretest.Rows(tab); !slices.EqualFunc(got, want, slices.Equal) {
		t.Errorf("repaired to %q", got)
	}
	var said []string
	for _, n := range report.Notes {
		said = append(said, n.String())
	}
	if got := strings.Join(said, "; "); got != "4 rows had bytes that are not valid UTF-8; they are shown as \uFFFD: rows 2, 4, 5, 6; a row had NUL bytes, which were removed: row 3" {
		t.Error(got)
	}
}

func TestTallied(t *testing.T) {
	var many Tallied
	for row := range 25 {
		many.Add(row)
		many.Add(row)
	}
	report := &Report{}
	report.Note(many, "one", "were odd")
	report.Note(Tallied{}, "none", "none")
	if len(report.Notes) != 1 || report.Notes[0].String() != "25 were odd: rows 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, …" {
		t.Errorf("%v", report.Notes)
	}
}

func TestExpect(t *testing.T) {
	for _, c := range []struct {
		rows       int
		read, size int64
		ended      bool
		want       int
	}{{100, 10, 100, true, 100}, {100, 10, 100, false, 2044}, {100, 0, 0, false, 150}, {100, 200, 100, false, 150}} {
		if got := Expect(c.rows, c.read, c.size, c.ended); got != c.want {
			t.Errorf("%+v: %d rows expected", c, got)
		}
	}
}
