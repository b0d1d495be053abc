package main

import (
	"bytes"
	"context"
	stdcsv "encoding/csv"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"grandledger/formats/csv"
	"grandledger/formats/intake"
)

// The generated file is the same on every run, and what we read of it is what the
// standard library reads.
func TestGeneratedFile(t *testing.T) {
	dir := t.TempDir()
	var texts [2][]byte
	for i, name := range []string{"a.csv", "b.csv"} {
		file := filepath.Join(dir, name)
		if err := generate(file, 3000); err != nil {
			t.Fatal(err)
		}
		var err error
		if texts[i], err = os.ReadFile(file); err != nil {
			t.Fatal(err)
		}
	}
	if !bytes.Equal(texts[0], texts[1]) {
		t.Fatal("two runs made two files")
	}
	tab, report, err := csv.Read(context.Background(), bytes.NewReader(texts[0]), nil, intake.Options{})
	if err != nil || len(report.Notes) > 0 || tab.Rows() != 3000 {
		t.Fatalf("%+v (%v)", report, err)
	}
	rows, err := stdcsv.NewReader(bytes.NewReader(texts[0])).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	for i, row := range rows[1:] {
		var ours []string
		for _, c := range tab.Columns() {
			v, _ := c.Value(uint32(i))
			ours = append(ours, v)
		}
		if !slices.Equal(ours, row) {
			t.Fatalf("row %d reads as %q, the standard library reads %q", i+1, ours, row)
		}
	}
}

func TestMedian(t *testing.T) {
	m := []Measured{{Seconds: map[string]float64{"read": 3}}, {Seconds: map[string]float64{"read": 1}}, {Seconds: map[string]float64{"read": 2}}}
	if got := median(m, "read"); got != 2 {
		t.Errorf("the median is %v", got)
	}
}
