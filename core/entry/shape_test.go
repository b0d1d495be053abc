package entry_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/entry"
	"grandledger/core/table"
)

// shown writes a table with its names, cells between bars.
func shown(t *table.Table) string {
	var names []string
	for _, c := range t.Columns() {
		names = append(names, c.Name)
	}
	lines := []string{strings.Join(names, "|")}
	for _, row := range coretest.Rows(t) {
		lines = append(lines, strings.Join(row, "|"))
	}
	return strings.Join(lines, "\n")
}

// Examples of each way to shape a table, with what is said of it.
func TestShaping(t *testing.T) {
	tab := coretest.Build([]string{"no", "crew", "gear"}, []string{"PK-09", "Ana & Bo, Cy", ""}, []string{"PK-10", "Dan", "net"}, []string{"", "Sandy and Eve", "∅"}, []string{"∅", "", "net"})
	for _, c := range []struct {
		e           entry.Entry
		words, want string
	}{
		{&entry.Split{Column: "crew", By: entry.ByMarks, Marks: []string{",", "&", "and"}}, "Split crew by “,”, “&”, “and”",
			"no|crew|crew 1|crew 2|crew 3|gear\nPK-09|Ana & Bo, Cy|Ana|Bo|Cy|\nPK-10|Dan|Dan|||net\n|Sandy and Eve|Sandy|Eve||∅\n∅|||||net"},
		{&entry.Split{Column: "crew", By: entry.ByMarks, Marks: []string{" "}, Take: entry.First, Names: []string{"first", "no"}, Drop: true}, "Split crew by the first of “ ”",
			"no|first|no (2)|gear\nPK-09|Ana|& Bo, Cy|\nPK-10|Dan||net\n|Sandy|and Eve|∅\n∅|||net"},
		{&entry.Split{Column: "no", By: entry.ByChange}, "Split no where letters, digits or scripts meet",
			"no|no 1|no 2|crew|gear\nPK-09|PK-|09|Ana & Bo, Cy|\nPK-10|PK-|10|Dan|net\n|||Sandy and Eve|∅\n∅|∅|∅||net"},
		{&entry.Split{Column: "no", By: entry.ByWidth, Widths: []int{2, 1}}, "Split no by widths of 2 1 characters",
			"no|no 1|no 2|no 3|crew|gear\nPK-09|PK|-|09|Ana & Bo, Cy|\nPK-10|PK|-|10|Dan|net\n||||Sandy and Eve|∅\n∅|∅|∅|∅||net"},
		{&entry.Split{Column: "no", By: entry.ByPattern, Pattern: `\W`, Take: entry.Last, Drop: true}, "Split no by the last of what matches \\W",
			"no 1|no 2|crew|gear\nPK|09|Ana & Bo, Cy|\nPK|10|Dan|net\n||Sandy and Eve|∅\n∅|∅||net"},
		{&entry.Combine{Columns: []string{"gear", "no"}, Separator: " / ", Name: "both"}, "Combine gear and no into both",
			"no|crew|gear|both\nPK-09|Ana & Bo, Cy||PK-09\nPK-10|Dan|net|net / PK-10\n|Sandy and Eve|∅|\n∅||net|net"},
		{&entry.Combine{Columns: []string{"no", "gear"}, Separator: "", Name: "x", Drop: true}, "Combine no and gear into x",
			"crew|x\nAna & Bo, Cy|PK-09\nDan|PK-10net\nSandy and Eve|\n|net"},
		{&entry.Columns{Columns: []entry.ColumnAs{{From: "gear"}, {From: "no", As: "note"}}}, "Rename no to note",
			"gear|note\n|PK-09\nnet|PK-10\n∅|\nnet|∅"},
		{&entry.Columns{Columns: []entry.ColumnAs{{From: "no"}, {From: "crew"}, {From: "gear"}, {From: "gear", As: "gear as it came"}}}, "Copy columns: 1 more",
			"no|crew|gear|gear as it came\nPK-09|Ana & Bo, Cy||\nPK-10|Dan|net|net\n|Sandy and Eve|∅|∅\n∅||net|net"},
		{&entry.Fill{Columns: []string{"gear"}, With: entry.Above}, "Fill blank cells of gear from above",
			"no|crew|gear\nPK-09|Ana & Bo, Cy|\nPK-10|Dan|net\n|Sandy and Eve|net\n∅||net"},
		{&entry.Fill{Columns: []string{"gear", "crew"}, With: entry.Constant, Value: "?"}, "Fill blank cells of gear and crew with “?”",
			"no|crew|gear\nPK-09|Ana & Bo, Cy|?\nPK-10|Dan|net\n|Sandy and Eve|?\n∅|?|net"},
		{&entry.Fill{Columns: []string{"gear"}, With: entry.Constant, Value: "pots"}, "Fill blank cells of gear with “pots”",
			"no|crew|gear\nPK-09|Ana & Bo, Cy|pots\nPK-10|Dan|net\n|Sandy and Eve|pots\n∅||net"},
		{&entry.Fill{Columns: []string{"no"}, With: entry.Other, From: "gear"}, "Fill blank cells of no from gear",
			"no|crew|gear\nPK-09|Ana & Bo, Cy|\nPK-10|Dan|net\n|Sandy and Eve|∅\nnet||net"},
		{&entry.Fill{Columns: []string{"no"}, With: entry.Next}, "Give new ids in no after the highest one",
			"no|crew|gear\nPK-09|Ana & Bo, Cy|\nPK-10|Dan|net\nPK-11|Sandy and Eve|∅\nPK-12||net"},
		{&entry.Gather{Key: []string{"gear"}, Columns: []string{"crew"}}, "Gather crew of the rows with the same gear into lists",
			"no|crew|gear\nPK-09|[\"Ana \u0026 Bo, Cy\"]|\nPK-10|[\"Dan\"]|net\n|[\"Sandy and Eve\"]|∅"},
		{&entry.Add{Rows: []map[string]string{{"no": "PK-11"}, {"crew": "Zed", "gear": "pots"}}}, "Add 2 rows by hand",
			"no|crew|gear\nPK-09|Ana & Bo, Cy|\nPK-10|Dan|net\n|Sandy and Eve|∅\n∅||net\nPK-11||\n|Zed|pots"},
		{&entry.Number{Name: "row", Start: 7, Prefix: "R", Width: 3}, "Number the rows in row from R007 on",
			"row|no|crew|gear\nR007|PK-09|Ana & Bo, Cy|\nR008|PK-10|Dan|net\nR009||Sandy and Eve|∅\nR010|∅||net"},
	} {
		res, err := entry.Apply(context.Background(), c.e, tab, entry.Inputs{})
		if err != nil {
			t.Errorf("%s: %v", c.words, err)
			continue
		}
		if got := shown(res.Table); got != c.want || c.e.Words() != c.words {
			t.Errorf("%s\n%s\nwant\n%s", c.e.Words(), got, c.want)
		}
	}
	above := coretest.Build([]string{"port", "n"}, []string{"PK", "1"}, []string{"PK", "2"}, []string{"GP", "3"}, []string{"GP", "4"}, []string{"PK", "5"})
	res, err := entry.Apply(context.Background(), &entry.Fill{Columns: []string{"port"}, With: entry.Repeats}, above, entry.Inputs{})
	if err != nil || shown(res.Table) != "port|n\nPK|1\n|2\nGP|3\n|4\nPK|5" || res.Effect.Columns[0].Cells != 2 {
		t.Errorf("%s %+v (%v)", shown(res.Table), res.Effect, err)
	}
	// Filling from above takes the nearest row above that stands, and leaves rows set aside alone.
	back, err := entry.Apply(context.Background(), &entry.Fill{Columns: []string{"port"}, With: entry.Above}, res.Table, entry.Inputs{})
	if err != nil || shown(back.Table) != shown(above) {
		t.Errorf("%s (%v)", shown(back.Table), err)
	}
	want := []entry.Pair{{Column: "port", From: "", To: "GP", Rows: 1, Collides: true}, {Column: "port", From: "", To: "PK", Rows: 1, Collides: true}}
	if !slices.Equal(back.Effect.Pairs, want) || back.Effect.Changed != 2 {
		t.Errorf("%+v", back.Effect)
	}
}

// Parts of a cell become rows, the other cells stay attached, the balance counts them, and
// rows set aside before come back where they stood.
func TestSplitIntoRows(t *testing.T) {
	tab := coretest.Build([]string{"no", "crew"}, []string{"1", "Ana & Bo"}, []string{"1", "Zed, Yan"}, []string{"2", ""}, []string{"3", "∅"}, []string{"4", "Cy, , Dan,Eve"})
	aside, err := entry.Apply(context.Background(), &entry.Duplicates{Key: []string{"no"}, Choice: entry.Choice{Keep: "first"}}, tab, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	res, err := entry.Apply(context.Background(), &entry.Split{Column: "crew", By: entry.ByMarks, Marks: []string{",", "&"}, Rows: true}, aside.Table, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	if got := shown(res.Table); got != "no|crew\n1|Ana\n1|Bo\n2|\n3|∅\n4|Cy\n4|Dan\n4|Eve" {
		t.Errorf("%s", got)
	}
	if b := res.Effect.Balance; b.Before != 4 || b.Added != 3 || b.After != 7 || res.Effect.Columns[0].Cells != 2 {
		t.Errorf("%+v", res.Effect)
	}
	back, err := entry.Apply(context.Background(), &entry.Return{Entry: 1}, res.Table, entry.Inputs{Aside: func(int) (*table.Selection, error) { return aside.Aside, nil }})
	if err != nil || shown(back.Table) != "no|crew\n1|Ana\n1|Bo\n1|Zed, Yan\n2|\n3|∅\n4|Cy\n4|Dan\n4|Eve" {
		t.Errorf("%s (%v)", shown(back.Table), err)
	}
	var from []uint32
	for row := range res.Table.Rows() {
		from = append(from, res.Table.Origins()[0].Row(res.Table.BaseRow(row)))
	}
	if !slices.Equal(from, []uint32{1, 1, 3, 4, 5, 5, 5}) {
		t.Errorf("rows of the source: %v", from)
	}
	lists := coretest.Build([]string{"catch"}, []string{`["Cod","Ling"]`}, []string{`[]`}, []string{`["Cod, large"]`})
	res, err = entry.Apply(context.Background(), &entry.Split{Column: "catch", By: entry.ByList, Rows: true}, lists, entry.Inputs{})
	if err != nil || shown(res.Table) != "catch\nCod\nLing\n[]\nCod, large" {
		t.Errorf("%s (%v)", shown(res.Table), err)
	}
}

// A column of values that each would become too many columns is refused with the value.
func TestTooManyParts(t *testing.T) {
	long := strings.Repeat("x,", 60)
	tab := coretest.Build([]string{"a"}, []string{"1,2"}, []string{long})
	_, err := entry.Apply(context.Background(), &entry.Split{Column: "a", By: entry.ByMarks, Marks: []string{","}}, tab, entry.Inputs{})
	if err == nil || !strings.Contains(err.Error(), "would become 61 columns, at most 50") {
		t.Error(fmt.Sprint(err))
	}
}

// A formula over all rows: what it gives, where it fails and why, as a new column and in the
// place of one, in which cells stay where it fails.
func TestFormula(t *testing.T) {
	tab := coretest.Build([]string{"kg", "price"}, []string{"10", "1.5"}, []string{"10", "1.5"}, []string{"20", "n/a"}, []string{"", "2"}, []string{"∅", "3"}, []string{"40", "0.25"}, []string{"1", "1"},
		[]string{"2", "1"}, []string{"3", "1"}, []string{"4", "1"}, []string{"5", "1"}, []string{"6", "1"}, []string{"7", "1"}, []string{"8", "1"}, []string{"9", "1"})
	res, err := entry.Apply(context.Background(), &entry.Formula{Formula: "kg * price", Name: "value"}, tab, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, row := range coretest.Rows(res.Table)[:6] {
		got = append(got, row[2])
	}
	if strings.Join(got, "|") != "15|15||||10" {
		t.Errorf("%q", got)
	}
	ev := res.Effect.Evaluation
	if ev.Failed != 3 || !slices.Equal(ev.Names, []string{"kg", "price"}) || ev.Worked[0].Why != "a cell is blank, or not read as its column is" || ev.Worked[0].Rows != 1 || ev.Worked[3].To != "15" || ev.Worked[3].Rows != 2 {
		t.Errorf("%+v", ev)
	}
	res, err = entry.Apply(context.Background(), &entry.Formula{Formula: "kg * 2", Name: "kg", Replace: true}, tab, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	got = nil
	for _, row := range coretest.Rows(res.Table)[:6] {
		got = append(got, row[0])
	}
	if strings.Join(got, "|") != "20|20|40||∅|80" || res.Effect.Evaluation.Failed != 2 || res.Effect.Columns[0].Cells != 13 {
		t.Errorf("%q %+v", got, res.Effect)
	}
}

// One cell is changed, and no other that holds the same.
func TestCell(t *testing.T) {
	tab := coretest.Build([]string{"gear"}, []string{"net"}, []string{"net"}, []string{"∅"})
	res, err := entry.Apply(context.Background(), &entry.Cell{Column: "gear", Row: 2, From: "net", To: "pots"}, tab, entry.Inputs{})
	if err != nil || shown(res.Table) != "gear\nnet\npots\n∅" || res.Effect.Columns[0].Cells != 1 || res.Effect.Changed != 1 {
		t.Errorf("%s %+v (%v)", shown(res.Table), res.Effect, err)
	}
	res, err = entry.Apply(context.Background(), &entry.Cell{Column: "gear", Row: 3, From: "", To: "line"}, tab, entry.Inputs{})
	if err != nil || shown(res.Table) != "gear\nnet\nnet\nline" {
		t.Errorf("%v", err)
	}
}

// Rows with the same key become one: items in order, of lists their items, once where asked;
// what other columns give up is counted.
func TestGather(t *testing.T) {
	tab := coretest.Build([]string{"no", "crew", "port"}, []string{"1", "Ana", "PK"}, []string{"2", "Bo", "GP"}, []string{"1", "Cy", "PK"}, []string{"1", "Ana", "SB"}, []string{"1", "", ""}, []string{"", "Dan", "SB"})
	for distinct, want := range map[bool]string{false: `["Ana","Cy","Ana"]`, true: `["Ana","Cy"]`} {
		res, err := entry.Apply(context.Background(), &entry.Gather{Key: []string{"no"}, Columns: []string{"crew"}, Distinct: distinct}, tab, entry.Inputs{})
		if err != nil {
			t.Fatal(err)
		}
		if got := shown(res.Table); got != "no|crew|port\n1|"+want+"|PK\n2|[\"Bo\"]|GP\n|[\"Dan\"]|SB" {
			t.Error(got)
		}
		if b := res.Effect.Balance; b != (entry.Balance{Before: 6, Merged: 3, After: 3}) || res.Effect.Columns[1].Column != "port" || res.Effect.Columns[1].Dropped != 1 {
			t.Errorf("%+v", res.Effect)
		}
		apart, err := entry.Apply(context.Background(), &entry.Split{Column: "crew", By: entry.ByList, Rows: true}, res.Table, entry.Inputs{})
		if err != nil || apart.Table.Rows() != map[bool]int{false: 5, true: 4}[distinct] {
			t.Errorf("%v (%v)", apart, err)
		}
	}
}

// What does not read goes to a list of its own, and back by a formula.
func TestReview(t *testing.T) {
	rows := [][]string{{"kg"}}
	for i := range 30 {
		rows = append(rows, []string{fmt.Sprint(i)})
	}
	tab := coretest.Build(append(rows, []string{"n/a"}, []string{""}, []string{"∅"}, []string{"two"})...)
	res, err := entry.Apply(context.Background(), &entry.Review{Column: "kg", Name: "kg to review"}, tab, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	got := coretest.Rows(res.Table)
	if fmt.Sprint(got[29:]) != "[[29 ] [ n/a] [ ] [∅ ∅] [ two]]" || res.Effect.Columns[0].Cells != 2 || res.Effect.Changed != 2 {
		t.Errorf("%v %+v", got[29:], res.Effect)
	}
	back, err := entry.Apply(context.Background(), &entry.Formula{Formula: `(kg_to_review ?? "") != "" ? kg_to_review : kg`, Name: "kg", Replace: true}, res.Table, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	if coretest.Rows(back.Table)[30][0] != "n/a" {
		t.Errorf("%v (%v)", coretest.Rows(back.Table)[30:], err)
	}
}

// Each way to mark repeats, and new ids for what shares one by mistake.
func TestMarkAndRenumber(t *testing.T) {
	tab := coretest.Build([]string{"id", "who"}, []string{"L-08", "Ana"}, []string{"L-09", "Bo"}, []string{"L-08", "Cy"}, []string{"L-08", "Ana"}, []string{"", "Dan"}, []string{"L-09", "Eve"}, []string{"L-07", "Flo"}, []string{"L-08", "Cy"})
	for shows, want := range map[entry.Shows]string{
		entry.WhetherRepeats: "yes yes yes yes no yes no yes", entry.GroupNumber: "1 2 1 1  2  1", entry.PlaceInGroup: "1 1 2 3  2 1 4", entry.GroupSize: "4 2 4 4  2 1 4",
	} {
		res, err := entry.Apply(context.Background(), &entry.Mark{Key: []string{"id"}, Name: "m", Shows: shows}, tab, entry.Inputs{})
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, row := range coretest.Rows(res.Table) {
			got = append(got, row[2])
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%s: %q, want %q", shows, strings.Join(got, " "), want)
		}
	}
	for _, c := range []struct {
		same []string
		want string
	}{
		{nil, "L-08 L-09 L-10 L-11  L-12 L-07 L-13"},
		{[]string{"who"}, "L-08 L-09 L-10 L-08  L-11 L-07 L-10"},
	} {
		e := &entry.Renumber{Column: "id", Same: c.same}
		res, err := entry.Apply(context.Background(), e, tab, entry.Inputs{})
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, row := range coretest.Rows(res.Table) {
			got = append(got, row[0])
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%s: %q, want %q", e.Words(), strings.Join(got, " "), c.want)
		}
	}
}
