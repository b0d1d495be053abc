package entry_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/condition"
	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/survivorship"
	"grandledger/core/table"
	"grandledger/core/tidy"
)

// draw makes a random entry of a kind.
func draw(r *rand.Rand, kind string, earlier, rows int) entry.Entry {
	columns := [][]string{{"a"}, {"b"}, {"a", "b"}, {"c", "a"}}[r.IntN(4)]
	switch kind {
	case "tidy":
		e := &entry.Tidy{Columns: columns, Steps: []tidy.Step{{Op: tidy.Trim}}}
		for range r.IntN(3) {
			e.Steps = append(e.Steps, []tidy.Step{{Op: tidy.Collapse}, {Op: tidy.Lower}, {Op: tidy.Title}, {Op: tidy.Accents}, {Op: tidy.Replace, Find: "net", With: "seine"},
				{Op: tidy.Cut, Part: tidy.Left, Count: 2}, {Op: tidy.Pad, Width: 5, With: "0"}}[r.IntN(7)])
		}
		return e
	case "values":
		e := &entry.Values{Column: columns[0]}
		for _, i := range r.Perm(len(coretest.Pieces))[:1+r.IntN(5)] {
			e.Changes = append(e.Changes, entry.Change{From: coretest.Pieces[i], To: coretest.Pieces[r.IntN(len(coretest.Pieces))]})
		}
		if r.IntN(4) == 0 {
			e.Into = "mapped"
		}
		return e
	case "duplicates":
		e := &entry.Duplicates{Key: columns, Choice: entry.Choice{Keep: []duplicate.Keep{duplicate.First, duplicate.Last, duplicate.Fullest}[r.IntN(3)]}, Apart: r.IntN(2) == 0,
			As:   map[string]duplicate.As{columns[0]: []duplicate.As{duplicate.Exact, duplicate.Folded, duplicate.Words, duplicate.Read}[r.IntN(4)]},
			Only: []duplicate.Only{duplicate.OneEach, duplicate.OneEach, duplicate.Repeats, duplicate.Firsts, duplicate.Unique}[r.IntN(5)]}
		if r.IntN(2) == 0 {
			e.Ties = []entry.Choice{{Keep: duplicate.Prefer, By: "c", Order: []string{"12", "Trawl"}}, {Keep: duplicate.Last}}
			e.Chosen = []map[string]string{{"a": coretest.Pieces[r.IntN(9)], "b": coretest.Pieces[r.IntN(9)]}, {"c": "not there"}}
		}
		return e
	case "return":
		return &entry.Return{Entry: 1 + r.IntN(max(earlier, 1))}
	case "rows":
		return &entry.Rows{Holding: where(r), Keep: r.IntN(2) == 0}
	case "columns":
		e := &entry.Columns{}
		for _, i := range r.Perm(3) {
			e.Columns = append(e.Columns, entry.ColumnAs{From: string(rune('a' + i))})
		}
		e.Columns = append(e.Columns, entry.ColumnAs{From: "b", As: fmt.Sprint("copy ", earlier)})
		return e
	case "split":
		return &entry.Split{Column: columns[0], By: []entry.By{entry.ByMarks, entry.ByPattern, entry.ByChange, entry.ByWidth}[r.IntN(4)], Marks: []string{" ", ",", "-"},
			Pattern: "[ -]+", Widths: []int{2, 1}, Take: []entry.Take{entry.Every, entry.First, entry.Last}[r.IntN(3)], Rows: r.IntN(3) == 0}
	case "combine":
		return &entry.Combine{Columns: []string{"b", columns[0], "c"}, Separator: "; ", Name: fmt.Sprint("all ", earlier)}
	case "fill":
		return &entry.Fill{Columns: []string{columns[0]}, With: []entry.FillWith{entry.Above, entry.Constant, entry.Other, entry.Next, entry.Repeats}[r.IntN(5)], Value: "filled", From: "c"}
	case "number":
		return &entry.Number{Name: fmt.Sprint("no ", earlier), Start: r.IntN(9), Width: r.IntN(6), Prefix: "N"}
	case "cell":
		return &entry.Cell{Column: columns[0], Row: 1 + r.IntN(max(rows, 1)), From: coretest.Pieces[r.IntN(8)], To: "one"}
	case "formula":
		e := &entry.Formula{Formula: []string{`upper(text(a)) + text(b)`, `number(b) * 2`, `fold(text(b))`, `number(text(a)) / 12`, `len(words(text(c)))`}[r.IntN(5)], Name: fmt.Sprint("made ", earlier)}
		if r.IntN(2) == 0 {
			e.Name, e.Replace = "b", true
		}
		return e
	case "beside":
		e := &entry.Beside{From: "clipboard"}
		name := fmt.Sprint("beside ", earlier)
		for range rows {
			if len(e.Columns) == 0 {
				e.Columns = []entry.BesideColumn{{Name: name}}
			}
			e.Columns[0].Cells = append(e.Columns[0].Cells, coretest.Pieces[r.IntN(len(coretest.Pieces))])
		}
		return e
	case "identify":
		e := &entry.Identify{From: "register", On: columns, Columns: []string{fmt.Sprint("identifier ", earlier), fmt.Sprint("standard ", earlier)}}
		for _, piece := range coretest.Pieces[:r.IntN(6)] {
			of := make([]string, len(columns))
			for i := range of {
				of[i] = piece
			}
			e.Lines = append(e.Lines, entry.IdentifyLine{Of: of, Cells: []string{"V" + piece, ""}})
		}
		return e
	case "check":
		if r.IntN(2) == 0 {
			return &entry.Check{Key: columns}
		}
		return &entry.Check{None: where(r)}
	case "mark":
		return &entry.Mark{Key: columns, Name: fmt.Sprint("mark ", earlier), Apart: r.IntN(2) == 0, Shows: []entry.Shows{entry.WhetherRepeats, entry.GroupNumber, entry.PlaceInGroup, entry.GroupSize}[r.IntN(4)]}
	case "renumber":
		return &entry.Renumber{Column: columns[0], Same: [][]string{nil, {"c"}}[r.IntN(2)]}
	case "putback":
		return &entry.PutBack{Table: "apart", Behind: r.IntN(2) == 0}
	case "merge":
		rule := func() survivorship.Rule {
			return survivorship.Rules[r.IntN(len(survivorship.Rules))]
		}
		e := &entry.Merge{Key: columns, As: map[string]duplicate.As{columns[0]: duplicate.Folded}, Apart: r.IntN(2) == 0, Others: rule()}
		if r.IntN(2) == 0 {
			e.Columns = []entry.MergeColumn{{Column: "c", Rule: rule()}}
		}
		return e
	case "gather":
		return &entry.Gather{Key: columns, Columns: [][]string{{"b"}, {"c"}, {"c", "b"}}[r.IntN(3)], Distinct: r.IntN(2) == 0}
	case "add":
		return &entry.Add{Rows: []map[string]string{{"a": "by hand", "c": coretest.Pieces[r.IntN(8)]}, {"b": "by hand too"}}}
	case "review":
		return &entry.Review{Column: columns[0], Name: fmt.Sprint("review ", earlier)}
	case "reading":
		return &entry.Reading{Column: columns[0], Reading: []reading.Reading{reading.Plain(reading.Number), reading.Plain(reading.Date), reading.Plain(reading.Code)}[r.IntN(3)]}
	}
	panic("no generator for the kind " + kind)
}

// where makes a random condition.
func where(r *rand.Rand) *condition.Condition {
	return &condition.Condition{Op: condition.Any, Not: r.IntN(3) == 0, Of: []condition.Condition{
		{Op: condition.Contains, Column: "a", Text: []string{"net", "l", "0"}[r.IntN(3)]}, {Op: condition.Blank, Column: "b"}}}
}

// Every kind of entry balances; what it says it rewrote and set aside is so; the table
// it was given stands as it was; and replaying the journal, from its JSON, gives the
// same table.
func TestJournalsBalanceAndReplay(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	applied := map[string]int{}
	for range 1500 {
		source := coretest.Table(r, 50, 3)
		text := coretest.Text(source)
		type posted struct {
			kind   string
			params []byte
		}
		var journal []posted
		asides := []*table.Selection{nil}
		inputs := entry.Inputs{Aside: func(n int) (*table.Selection, error) {
			if n >= len(asides) || asides[n] == nil {
				return nil, problem.New("", "entry %d set nothing aside", n)
			}
			return asides[n], nil
		}}
		now := source
		// A table of rows taken apart, worked on there and put back; each has its own revision.
		type apart struct {
			of     *table.Table
			shared int
		}
		var aparts []apart
		inputs.Taken = func(_ string, revision int64) (*table.Table, int64, int, error) {
			if revision > 0 {
				return aparts[revision-1].of, revision, aparts[revision-1].shared, nil
			}
			last := len(asides) - 1
			for last > 0 && asides[last] == nil {
				last--
			}
			if last == 0 {
				return nil, 0, 0, problem.New("", "nothing was taken apart")
			}
			of := now.Select(asides[last])
			for _, e := range []entry.Entry{&entry.Split{Column: "a", By: entry.ByMarks, Marks: []string{" "}, Rows: true}, &entry.Mark{Key: []string{"b"}, Shows: entry.GroupSize, Name: "seen"}} {
				if res, err := entry.Apply(context.Background(), e, of, entry.Inputs{}); err == nil {
					of = res.Table
				}
			}
			aparts = append(aparts, apart{of, now.Base()})
			return of, int64(len(aparts)), now.Base(), nil
		}
		for range 8 {
			kind := entry.Kinds()[r.IntN(len(entry.Kinds()))]
			e := draw(r, kind, len(journal), now.Rows())
			params, _ := json.Marshal(e)
			if r.IntN(3) == 0 && slices.Contains([]string{"tidy", "values", "duplicates", "return", "rows", "fill"}, kind) { // for some rows only
				params = withWhere(params, where(r))
				narrow, err := entry.Decode(kind, params)
				if err != nil {
					t.Fatal(err)
				}
				e = narrow
			}
			before := coretest.Text(now)
			res, err := entry.Apply(context.Background(), e, now, inputs)
			var p *problem.Problem
			if errors.As(err, &p) {
				continue // an entry that does not apply is refused, not half done
			}
			if err != nil {
				t.Fatal(err)
			}
			if coretest.Text(now) != before {
				t.Fatalf("%s changed the table it was given", e.Words())
			}
			check(t, e, now, res)
			// A journal keeps what the entry itself writes.
			if params, err = json.Marshal(e); err != nil {
				t.Fatal(err)
			}
			journal = append(journal, posted{kind, params})
			asides = append(asides, res.Aside)
			applied[kind]++
			now = res.Table
		}
		end := coretest.Text(now)
		asides = asides[:1]
		now = source
		for _, p := range journal {
			e, err := entry.Decode(p.kind, p.params)
			if err != nil {
				t.Fatal(err)
			}
			res, err := entry.Apply(context.Background(), e, now, inputs)
			if err != nil {
				t.Fatal(err)
			}
			asides = append(asides, res.Aside)
			now = res.Table
		}
		if got := coretest.Text(now); got != end {
			t.Fatalf("replayed:\n%s\nposted:\n%s", got, end)
		}
		if coretest.Text(source) != text {
			t.Fatal("the source changed")
		}
	}
	for _, kind := range entry.Kinds() {
		if applied[kind] < 20 {
			t.Errorf("%s was applied only %d times", kind, applied[kind])
		}
	}
}

// withWhere narrows the parameters of an entry.
func withWhere(params []byte, c *condition.Condition) []byte {
	all := map[string]any{}
	if err := json.Unmarshal(params, &all); err != nil {
		panic(err)
	}
	all["where"] = c
	out, err := json.Marshal(all)
	if err != nil {
		panic(err)
	}
	return out
}

// A narrowed entry leaves the rows that do not hold its condition as they are.
func TestNarrowed(t *testing.T) {
	tab := coretest.Build([]string{"port", "gear"}, []string{"PK", "gn "}, []string{"GP", "gn "}, []string{"PK", "gn "}, []string{"GP", "x"})
	e, err := entry.Decode("tidy", []byte(`{"columns":["gear"],"steps":[{"op":"trim"}],"where":{"op":"is","column":"port","values":["PK"]}}`))
	if err != nil {
		t.Fatal(err)
	}
	res, err := entry.Apply(context.Background(), e, tab, entry.Inputs{})
	want := [][]string{{"PK", "gn"}, {"GP", "gn "}, {"PK", "gn"}, {"GP", "x"}}
	if err != nil || !slices.EqualFunc(coretest.Rows(res.Table), want, slices.Equal) || res.Effect.Columns[0].DistinctAfter != 3 || res.Effect.Columns[0].Cells != 2 {
		t.Errorf("%q %+v (%v)", coretest.Rows(res.Table), res.Effect, err)
	}
	if got := e.Words(); got != "Trim spaces in gear, where port is “PK”" {
		t.Error(got)
	}
	e, err = entry.Decode("duplicates", []byte(`{"key":["gear"],"keep":"first","where":{"op":"is","column":"port","values":["PK"]}}`))
	if err != nil {
		t.Fatal(err)
	}
	res, err = entry.Apply(context.Background(), e, tab, entry.Inputs{})
	if err != nil || res.Table.Rows() != 3 || res.Effect.Balance != (entry.Balance{Before: 4, SetAside: 1, After: 3}) {
		t.Errorf("%q %+v (%v)", coretest.Rows(res.Table), res.Effect, err)
	}
}

// check counts the effect again, cell by cell.
func check(t *testing.T, e entry.Entry, before *table.Table, res *entry.Result) {
	t.Helper()
	b := res.Effect.Balance
	if b.Before != before.Rows() || b.Check(res.Table.Rows()) != nil {
		t.Fatalf("%s: balance %+v, from %d to %d rows", e.Words(), b, before.Rows(), res.Table.Rows())
	}
	for _, e := range res.Effect.Readings {
		c, _, _ := res.Table.Column(e.Column)
		read, unread := 0, 0
		for row := range res.Table.Rows() {
			v, held := c.Value(res.Table.BaseRow(row))
			if _, ok := c.Reading.Reader()(v); ok {
				read++
			} else if held && strings.TrimSpace(v) != "" {
				unread++
			}
		}
		if e.Read != read || e.NotRead != unread || !slices.EqualFunc(coretest.Rows(before), coretest.Rows(res.Table), slices.Equal) {
			t.Fatalf("%d rows read and %d do not, the effect says %+v", read, unread, e)
		}
	}
	aside := 0
	if res.Aside != nil {
		aside = len(res.Aside.Rows)
	}
	if aside != b.SetAside {
		t.Fatalf("%s set aside %d rows and says %d", e.Words(), aside, b.SetAside)
	}
	if before.Rows() != res.Table.Rows() {
		return
	}
	was, is := coretest.Rows(before), coretest.Rows(res.Table)
	if s := res.Effect.Shape; s != nil {
		checkShape(t, e, before, res)
		return
	}
	for _, c := range res.Effect.Columns {
		_, at, err := res.Table.Column(c.Column)
		if err != nil {
			t.Fatal(err)
		}
		cells, values := 0, map[string]bool{}
		for row := range was {
			if at >= len(was[row]) || was[row][at] != is[row][at] {
				cells++
			}
			if is[row][at] != "∅" {
				values[is[row][at]] = true
			}
		}
		if cells != c.Cells || len(values) != c.DistinctAfter {
			t.Fatalf("%s: %d cells and %d values in %s, says %+v", e.Words(), cells, len(values), c.Column, c)
		}
	}
}

// checkShape counts the effect of an entry that changes which columns there are: those it
// names are new or gone, and all others hold what they held.
func checkShape(t *testing.T, e entry.Entry, before *table.Table, res *entry.Result) {
	t.Helper()
	named := map[string]bool{}
	for _, c := range res.Effect.Columns {
		named[c.Column] = true
		made, _, err := res.Table.Column(c.Column)
		values := map[string]bool{}
		if err == nil {
			for row := range res.Table.Rows() {
				if v, ok := made.Value(res.Table.BaseRow(row)); ok {
					values[v] = true
				}
			}
		}
		cells := res.Table.Rows()
		if was, _, err := before.Column(c.Column); err == nil && made != nil { // one that was there: what changed in it
			cells = 0
			for row := range res.Table.Rows() {
				base := res.Table.BaseRow(row)
				from, _ := was.Value(base)
				if to, _ := made.Value(base); to != from {
					cells++
				}
			}
		}
		if c.Cells != cells || len(values) != c.DistinctAfter {
			t.Fatalf("%s: %d values in %s, says %+v", e.Words(), len(values), c.Column, c)
		}
	}
	for _, c := range before.Columns() {
		now, _, err := res.Table.Column(c.Name)
		if named[c.Name] || err != nil {
			continue
		}
		for base := range uint32(before.Base()) {
			v, held := c.Value(base)
			if w, still := now.Value(base); v != w || held != still {
				t.Fatalf("%s changed %s", e.Words(), c.Name)
			}
		}
	}
	var have []string
	for _, c := range res.Table.Columns() {
		have = append(have, c.Name)
	}
	if !slices.Equal(have, res.Effect.Shape.After) {
		t.Fatalf("%s: the columns are %v, says %v", e.Words(), have, res.Effect.Shape.After)
	}
}

func TestCollisionsArePointedOut(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"x "}, []string{"x"}, []string{"y "}, []string{"z "}, []string{" z"})
	res, err := entry.Apply(context.Background(), &entry.Tidy{Columns: []string{"a"}, Steps: []tidy.Step{{Op: tidy.Trim}}}, tab, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]bool{}
	for _, p := range res.Effect.Pairs {
		got[p.From] = p.Collides
	}
	if len(got) != 4 || !got["x "] || got["y "] || !got["z "] || !got[" z"] {
		t.Errorf("collisions %v", got)
	}
}

func TestReturnPutsRowsBackInPlace(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"x"}, []string{"x"}, []string{"y"}, []string{"x"})
	gone, err := entry.Apply(context.Background(), &entry.Duplicates{Key: []string{"a"}, Choice: entry.Choice{Keep: duplicate.Last}}, tab, entry.Inputs{})
	if err != nil || gone.Table.Rows() != 2 {
		t.Fatal(err)
	}
	back, err := entry.Apply(context.Background(), &entry.Return{Entry: 1}, gone.Table,
		entry.Inputs{Aside: func(int) (*table.Selection, error) { return gone.Aside, nil }})
	if err != nil || coretest.Text(back.Table) != coretest.Text(tab) || back.Effect.Balance.Added != 2 {
		t.Errorf("returned %v (%v)", coretest.Rows(back.Table), err)
	}
}

func TestBadParametersAreRefused(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"x"})
	for _, c := range []struct{ kind, params, says string }{
		{"tidy", `{"columns":["a"]}`, "nothing to tidy"},
		{"tidy", `{"columns":[],"steps":[{"op":"trim"}]}`, "no column"},
		{"tidy", `{"columns":["q"],"steps":[{"op":"trim"}]}`, `no column "q"`},
		{"tidy", `{"columns":["a"],"steps":[{"op":"wavy"}]}`, "wavy"},
		{"tidy", `{"columns":["a"],"trimm":true}`, "unknown field"},
		{"values", `{"column":"a","changes":[]}`, "nothing to change"},
		{"values", `{"column":"a","changes":[{"from":"x","to":"y"},{"from":"x","to":"z"}]}`, "both"},
		{"duplicates", `{"key":["a"],"keep":"middle"}`, "middle"},
		{"duplicates", `{"key":[],"keep":"first"}`, "no key"},
		{"duplicates", `{"key":["a"],"keep":"first","as":{"b":"folded"}}`, `"b" cannot be compared`},
		{"duplicates", `{"key":["a"],"keep":"first","as":{"a":"loud"}}`, `as "loud"`},
		{"duplicates", `{"key":["a"],"keep":"first","only":"some"}`, `called "some"`},
		{"duplicates", `{"key":["a"],"keep":"newest"}`, `no column ""`},
		{"duplicates", `{"key":["a"],"keep":"newest","by":"a"}`, "the newest row cannot be told by a, which is read as text"},
		{"return", `{"entry":4}`, "no rows"},
		{"rows", `{"keep":true}`, "no condition"},
		{"rows", `{"holding":{"op":"blank","column":"q"}}`, `no column "q"`},
		{"tidy", `{"columns":["a"],"steps":[{"op":"trim"}],"where":{"op":"is","column":"a"}}`, "0 values"},
		{"tidy", `{"columns":["a"],"steps":[{"op":"trim"}],"where":{"op":"is","colour":"a"}}`, "unknown field"},
		{"return", `{"entry":1,"where":{"op":"blank","column":"a"}}`, "no rows"},
		{"reading", `{"column":"q","reading":{"kind":"code"}}`, `no column "q"`},
		{"reading", `{"column":"a","reading":{"kind":"colour"}}`, "colour"},
		{"reading", `{"column":"a","reading":{"kind":"code"},"where":{"op":"blank","column":"a"}}`, "whole column"},
		{"beside", `{"from":"x","columns":[{"name":"b","cells":["1","2"]}]}`, "2 cells, the table has 1 rows"},
		{"beside", `{"from":"x","columns":[{"name":"a","cells":["1"]}]}`, "used twice"},
		{"beside", `{"from":"x","columns":[]}`, "no column"},
		{"identify", `{"from":"x","on":["gone"],"columns":["id"],"lines":[]}`, "gone"},
		{"identify", `{"from":"x","on":["a"],"columns":["id"],"lines":[{"of":["1","2"],"cells":["V"]}]}`, "2 values and 1 cells"},
		{"identify", `{"from":"x","on":["a"],"columns":["a"],"lines":[]}`, "used twice"},
		{"identify", `{"from":"x","on":[],"columns":[],"lines":[]}`, "nothing is brought home"},
		{"columns", `{"columns":[]}`, "no column would be left"},
		{"columns", `{"columns":[{"from":"a"}]}`, "as they are"},
		{"columns", `{"columns":[{"from":"a"},{"from":"a"}]}`, "used twice"},
		{"columns", `{"columns":[{"from":"q"}]}`, `no column "q"`},
		{"split", `{"column":"a","by":"marks","marks":[","]}`, "no value of it would be cut"},
		{"split", `{"column":"a","by":"marks"}`, "nothing to cut by"},
		{"split", `{"column":"a","by":"pattern","pattern":"("}`, "cannot be read"},
		{"split", `{"column":"a","by":"width","widths":[0]}`, "no widths"},
		{"split", `{"column":"a","by":"magic"}`, "magic"},
		{"combine", `{"columns":["a"],"separator":"","name":"b"}`, "nothing to combine"},
		{"combine", `{"columns":["a","a"],"separator":"","name":" "}`, "no name"},
		{"fill", `{"columns":["a"],"with":"constant"}`, "no value to fill with"},
		{"fill", `{"columns":["a"],"with":"next"}`, "no value of it ends in a number"},
		{"fill", `{"columns":["a"],"with":"luck"}`, "luck"},
		{"number", `{"name":"a","start":1}`, "used twice"},
		{"number", `{"name":"n","start":-1}`, "cannot be numbered so"},
		{"number", `{"name":"n","start":1,"where":{"op":"blank","column":"a"}}`, "whole column"},
		{"formula", `{"formula":"a +","name":"b"}`, "cannot be read at character"},
		{"formula", `{"formula":"a + q","name":"b"}`, `there is no column called "q"`},
		{"formula", `{"formula":"a","name":" "}`, "no name"},
		{"formula", `{"formula":"a","name":"a"}`, "used twice"},
		{"formula", `{"formula":"a","name":"q","replace":true}`, `no column "q"`},
		{"cell", `{"column":"a","row":1,"from":"x","to":"x"}`, "hold what it holds"},
		{"cell", `{"column":"a","row":2,"from":"x","to":"y"}`, "no row that stands is row 2"},
		{"cell", `{"column":"a","row":1,"from":"z","to":"y"}`, "holds “z” there"},
		{"gather", `{"key":["a"],"columns":[]}`, "nothing to gather"},
		{"gather", `{"key":["a"],"columns":["a"]}`, "by itself"},
		{"gather", `{"key":["a"],"columns":["q"]}`, "no two rows have the same a"},
		{"gather", `{"key":["q"],"columns":["a"]}`, `no column "q"`},
		{"add", `{"rows":[]}`, "0 rows cannot be added"},
		{"add", `{"rows":[{"a":"1"},{"a":""}]}`, "row 2: the row is blank"},
		{"add", `{"rows":[{"q":"1"}]}`, `no column "q"`},
		{"add", `{"rows":[{"a":"1"}],"where":{"op":"blank","column":"a"}}`, "whole column"},
		{"review", `{"column":"a","name":" "}`, "no name"},
		{"review", `{"column":"a","name":"b"}`, "every value of it reads"},
		{"formula", `{"formula":"lookup(\"T\", \"x\", \"y\", a)","name":"b"}`, `no table called "T" here`},
		{"check", `{}`, "nothing to check"},
		{"check", `{"key":["q"]}`, `no column "q"`},
		{"check", `{"none":{"op":"is","column":"a","values":["x"]}}`, "the check does not hold: 1 rows are against it"},
		{"mark", `{"key":[],"name":"b","shows":"size"}`, "no key"},
		{"mark", `{"key":["a"],"name":"b","shows":"mood"}`, `cannot show "mood"`},
		{"mark", `{"key":["a"],"name":" ","shows":"size"}`, "no name"},
		{"renumber", `{"column":"a"}`, "no value of it ends in a number"},
		{"renumber", `{"column":"q"}`, `no column "q"`},
		{"renumber", `{"column":"a","same":["q"]}`, `no column "q"`},
		{"dance", `{}`, "dance"},
	} {
		e, err := entry.Decode(c.kind, []byte(c.params))
		if err == nil {
			_, err = entry.Apply(context.Background(), e, tab, entry.Inputs{})
		}
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.Error(), c.says) {
			t.Errorf("%s %s: %v", c.kind, c.params, err)
		}
	}
	if !slices.IsSorted(entry.Kinds()) {
		t.Error("kinds are not in order")
	}
}

func TestWords(t *testing.T) {
	for _, c := range []struct {
		e    entry.Entry
		want string
	}{
		{&entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Trim}}}, "Trim spaces in gear"},
		{&entry.Tidy{Columns: []string{"gear", "port", "kg"}, Steps: []tidy.Step{{Op: tidy.Trim}, {Op: tidy.Collapse}, {Op: tidy.Upper}}}, "Trim spaces, collapse doubled spaces and use upper case in gear, port and kg"},
		{&entry.Values{Column: "gear", Changes: []entry.Change{{From: "GN", To: "Gill net"}}}, "Change “GN” to “Gill net” in gear"},
		{&entry.Values{Column: "gear", Changes: []entry.Change{{From: "GN", To: "Gill net"}, {From: "gn", To: "Gill net"}}}, "Map 2 spellings of gear to “Gill net”"},
		{&entry.Values{Column: "gear", Changes: []entry.Change{{From: "GN", To: "Gill net"}, {From: "LL", To: "Longline"}}}, "Map 2 spellings of gear to 2 standard values"},
		{&entry.Values{Column: "gear", Changes: []entry.Change{{From: strings.Repeat("é", 70), To: "x"}}}, "Change “" + strings.Repeat("é", 57) + "…” to “x” in gear"},
		{&entry.Duplicates{Key: []string{"no", "port"}, Choice: entry.Choice{Keep: duplicate.Last}}, "Set aside repeats of no and port, keeping the last row of each group"},
		{&entry.Duplicates{Key: []string{"no", "port"}, As: map[string]duplicate.As{"no": duplicate.Read, "port": duplicate.Words}, Choice: entry.Choice{Keep: duplicate.Newest, By: "landed"}},
			"Set aside repeats of no (as it is read) and port (words in any order), keeping the newest by landed row of each group"},
		{&entry.Duplicates{Key: []string{"port"}, As: map[string]duplicate.As{"port": duplicate.Folded}, Choice: entry.Choice{Keep: duplicate.First}, Only: duplicate.Repeats},
			"Keep only the rows of which others have the same port (case, spacing, punctuation and accents aside)"},
		{&entry.Duplicates{Key: []string{"port"}, Choice: entry.Choice{Keep: duplicate.First}, Only: duplicate.Firsts}, "Keep only the first row of those with the same port"},
		{&entry.Duplicates{Key: []string{"port"}, Choice: entry.Choice{Keep: duplicate.First}, Only: duplicate.Unique}, "Keep only the rows of which no other has the same port"},
		{&entry.Return{Entry: 4}, "Return the rows that entry 4 set aside"},
		{&entry.Rows{Holding: &condition.Condition{Op: condition.Blank, Column: "gear"}, Keep: true}, "Keep only the rows where gear is blank"},
		{&entry.Reading{Column: "kg", Reading: reading.Reading{Kind: reading.Number, Decimal: ",", Group: ".", Unit: "kg"}}, "Read kg as numbers, kg, decimal comma, points between thousands"},
	} {
		if got := c.e.Words(); got != c.want {
			t.Errorf("says %q, want %q", got, c.want)
		}
	}
}

// An account that does not come out, or does not agree with the table, is refused.
func TestBalanceIsChecked(t *testing.T) {
	for _, c := range []struct {
		b    entry.Balance
		rows int
		ok   bool
	}{
		{entry.Balance{Before: 10, Added: 2, SetAside: 3, Merged: 1, After: 8}, 8, true},
		{entry.Balance{Before: 10, SetAside: 3, After: 8}, 8, false},
		{entry.Balance{Before: 10, SetAside: 2, After: 8}, 7, false},
		{entry.Balance{}, 0, true},
	} {
		if err := c.b.Check(c.rows); (err == nil) != c.ok {
			t.Errorf("%+v with %d rows: %v", c.b, c.rows, err)
		}
	}
}

// A rewrite of a table with rows set aside counts the rows that stand, and reaches the
// others all the same: they come back with the values as they then are.
func TestRewriteReachesRowsSetAside(t *testing.T) {
	tab := coretest.Build([]string{"no", "gear"}, []string{"1", "gn"}, []string{"1", "gn"}, []string{"2", "gn"})
	gone, err := entry.Apply(context.Background(), &entry.Duplicates{Key: []string{"no"}, Choice: entry.Choice{Keep: duplicate.First}}, tab, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	upper, err := entry.Apply(context.Background(), &entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Upper}}}, gone.Table, entry.Inputs{})
	if err != nil || upper.Effect.Columns[0].Cells != 2 {
		t.Fatalf("%+v (%v)", upper, err)
	}
	back, err := entry.Apply(context.Background(), &entry.Return{Entry: 1}, upper.Table,
		entry.Inputs{Aside: func(int) (*table.Selection, error) { return gone.Aside, nil }})
	if err != nil || coretest.Rows(back.Table)[1][1] != "GN" {
		t.Errorf("returned %v (%v)", coretest.Rows(back.Table), err)
	}
}
