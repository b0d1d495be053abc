package fixed

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/formats/intake"
)

const text = "\ufeffLandings\n" +
	"no   vessel       kg\n" +
	"0017 Möwe       12.5\n" +
	"\n" +
	"0018 Tern II     3\n" +
	"19   Petrel\n"

func TestCutLines(t *testing.T) {
	for _, encoding := range []string{"utf-8", "utf-16le"} {
		src := text
		if encoding == "utf-16le" {
			var b strings.Builder
			for _, r := range text {
				b.WriteByte(byte(r))
				b.WriteByte(byte(r >> 8))
			}
			src = b.String()
		}
		tab, report, err := Read(context.Background(), strings.NewReader(src), Layout{Encoding: encoding, Cuts: []int{5, 14}, Names: 1, Above: 1}, intake.Options{})
		if err != nil {
			t.Fatal(err)
		}
		want := [][]string{{"0017", "Möwe", "12.5"}, {"0018", "Tern II", "3"}, {"19", "Petrel", ""}}
		if got := coretest.Rows(tab); !slices.EqualFunc(got, want, slices.Equal) || tab.Columns()[1].Name != "vessel" {
			t.Errorf("%s reads as %q", encoding, got)
		}
		if len(report.Notes) != 1 || report.Notes[0].What != "an empty line was left out" {
			t.Errorf("notes %v", report.Notes)
		}
	}
}

func TestSniff(t *testing.T) {
	lines := Lines([]byte(text), "utf-8", 10)[1:]
	if got := Sniff(lines); !slices.Equal(got, []int{5, 16}) {
		t.Errorf("cuts at %v in %q", got, lines)
	}
	for _, lines := range [][]string{{"one", "two"}, {"  a", "  b"}, nil} {
		if got := Sniff(lines); len(got) > 0 {
			t.Errorf("%q is cut at %v", lines, got)
		}
	}
}

func TestRefusals(t *testing.T) {
	for _, l := range []Layout{{Encoding: "latin-9"}, {Encoding: "utf-8", Cuts: []int{5, 5}}, {Encoding: "utf-8", Cuts: []int{7, 5}}, {Encoding: "utf-8", Cuts: []int{0}},
		{Encoding: "utf-8", Names: 9}, {Encoding: "utf-8", Cuts: make([]int, 20000)}} {
		_, _, err := Read(context.Background(), strings.NewReader(text), l, intake.Options{File: "x"})
		var p *problem.Problem
		if !errors.As(err, &p) || p.Remedy == "" || p.File != "x" {
			t.Errorf("%+v: %v", l.Cuts, err)
		}
	}
	_, _, err := Read(context.Background(), strings.NewReader(strings.Repeat("x", maxLine+1)), Layout{Encoding: "utf-8"}, intake.Options{})
	if err == nil || !strings.Contains(err.Error(), "longer than") {
		t.Errorf("a long line: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	f.Add(text, 5, 14)
	f.Fuzz(func(t *testing.T, text string, a, b int) {
		tab, _, err := Read(context.Background(), strings.NewReader(text), Layout{Encoding: "utf-8", Cuts: []int{a, b}}, intake.Options{})
		var p *problem.Problem
		if err != nil && !errors.As(err, &p) {
			t.Fatalf("%v is no problem", err)
		}
		if err == nil && len(tab.Columns()) != 3 {
			t.Fatalf("%d columns", len(tab.Columns()))
		}
		Sniff(Lines([]byte(text), "utf-8", 50))
	})
}
