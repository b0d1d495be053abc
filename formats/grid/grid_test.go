package grid

import (
	"context"
	"errors"
	"io"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// over goes through rows, ending with an error if one is given.
func over(rows [][]string, end error) Next {
	at := 0
	return func() ([]string, error) {
		if at == len(rows) {
			if end != nil {
				return nil, end
			}
			return nil, io.EOF
		}
		at++
		return slices.Clone(rows[at-1]), nil
	}
}

func show(t *table.Table) string {
	var names []string
	for _, c := range t.Columns() {
		names = append(names, c.Name)
	}
	lines := []string{strings.Join(names, "|")}
	for _, r := range coretest.Rows(t) {
		lines = append(lines, strings.Join(r, "|"))
	}
	return strings.Join(lines, "\n")
}

var sheet = [][]string{
	{"Landings"},
	nil,
	{"", "no", "kg", "", ""},
	{"x", "1", "3", "late", ""},
	{"", "", " "},
	{"y", "2"},
	{"z", "3", "4", "", "", "far"},
}

func TestRanges(t *testing.T) {
	for _, c := range []struct {
		r    Range
		want string
	}{
		{Range{Above: 2, Names: 1}, "column 1|no|kg|column 4|column 5|column 6\nx|1|3|late|∅|∅\ny|2|||∅|∅\nz|3|4|||far"},
		{Range{Area: "B3:C6", Names: 1}, "no|kg\n1|3\n2|"},
		{Range{Area: "$B$4:$C$7"}, "column 1|column 2\n1|3\n2|\n3|4"},
		{Range{Area: "b:b", Above: 2, Names: 1}, "no\n1\n2\n3"},
		{Range{Area: "C4"}, "column 1|column 2|column 3|column 4\n3|late|∅|∅\n4|||far"},
		{Range{Area: "3:4", Names: 1}, "column 1|no|kg|column 4\nx|1|3|late"},
		{Range{Area: "A3:D3", Names: 1}, "column 1|no|kg"},
	} {
		report := &intake.Report{}
		tab, err := Read(context.Background(), over(sheet, nil), c.r, intake.Options{}, report)
		if err != nil {
			t.Errorf("%+v: %v", c.r, err)
			continue
		}
		if got := show(tab); got != c.want {
			t.Errorf("%+v reads\n%s\nwant\n%s", c.r, got, c.want)
		}
	}
}

func TestRefusals(t *testing.T) {
	wide := make([]string, 20_000)
	wide[19_999] = "x"
	for _, c := range []struct {
		rows [][]string
		r    Range
		end  error
		what string
	}{
		{sheet, Range{Area: "B3:A1"}, nil, "runs backwards"},
		{sheet, Range{Area: "3B"}, nil, "no range of cells"},
		{sheet, Range{Area: ":"}, nil, "no range of cells"},
		{sheet, Range{Area: "ABCD1"}, nil, "no range of cells"},
		{sheet, Range{Names: 9}, nil, "9 rows of names"},
		{sheet, Range{Above: -1}, nil, "-1 rows cannot"},
		{sheet, Range{Area: "X:Z"}, nil, "no row with a value"},
		{nil, Range{Names: 1}, nil, "no row with a value"},
		{[][]string{wide}, Range{}, nil, "20000 columns"},
		{sheet, Range{}, problem.New("Mend it", "broken"), "broken"},
	} {
		_, err := Read(context.Background(), over(c.rows, c.end), c.r, intake.Options{}, &intake.Report{})
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.What, c.what) || p.Remedy == "" {
			t.Errorf("%+v: %v, want %q", c.r, err, c.what)
		}
	}
}

func TestEnoughRowsAndProgress(t *testing.T) {
	var rows [][]string
	for range 10_000 {
		rows = append(rows, []string{"a"})
	}
	seen := 0
	o := intake.Options{Progress: func(_ int64, n int) {
		if n < seen {
			t.Error("progress ran backwards")
		}
		seen = n
	}}
	tab, err := Read(context.Background(), over(rows, nil), Range{}, o, &intake.Report{})
	if err != nil || tab.Rows() != 10_000 || seen == 0 {
		t.Errorf("%v rows, told %d (%v)", tab.Rows(), seen, err)
	}
	tab, err = Read(context.Background(), over(rows, errors.New("read too far")), Range{}, intake.Options{Rows: 7}, &intake.Report{})
	if err != nil || tab.Rows() != 7 {
		t.Errorf("asked for 7 rows: %v", err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	for range 8 {
		rows = append(rows, rows...)[:min(len(rows)*2, 80_000)]
	}
	if _, err := Read(ctx, over(rows, nil), Range{}, intake.Options{}, &intake.Report{}); !errors.Is(err, context.Canceled) {
		t.Errorf("cancelled: %v", err)
	}
}

func TestSniff(t *testing.T) {
	for _, c := range []struct {
		rows         [][]string
		above, names int
	}{
		{[][]string{{"Landings"}, {}, {"no", "kg", "port"}, {"1", "2", "PK"}, {"2", "3", "GP"}}, 2, 1},
		{[][]string{{"no", "kg"}, {"1", "2"}}, 0, 1},
		{[][]string{{"1", "2"}, {"3", "4"}}, 0, 0},
		{[][]string{{}, {"2031-10-04", "x"}}, 0, 0},
		{nil, 0, 1},
	} {
		if above, names := Sniff(c.rows); above != c.above || names != c.names {
			t.Errorf("%q: %d above, %d names, want %d and %d", c.rows, above, names, c.above, c.names)
		}
	}
}
