package condition_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"

	"grandledger/core/condition"
	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// holds works a condition out on one row, plainly.
func holds(c condition.Condition, row map[string]string, reads map[string]reading.Reading) bool {
	v := row[c.Column]
	blank := func(v string) bool { return v == "∅" || strings.TrimSpace(v) == "" }
	out := false
	switch c.Op {
	case condition.All:
		out = !slices.ContainsFunc(c.Of, func(p condition.Condition) bool { return !holds(p, row, reads) })
	case condition.Any:
		out = slices.ContainsFunc(c.Of, func(p condition.Condition) bool { return holds(p, row, reads) })
	case condition.Is:
		out = v != "∅" && slices.Contains(c.Values, v)
	case condition.Contains:
		for name, v := range row {
			if c.Column != "" && c.Column != name || v == "∅" {
				continue
			}
			out = out || strings.Contains(v, c.Text) || !c.Case && strings.Contains(strings.ToLower(v), strings.ToLower(c.Text))
		}
	case condition.Starts:
		out = v != "∅" && strings.HasPrefix(strings.ToLower(v), strings.ToLower(c.Text))
	case condition.Ends:
		out = v != "∅" && strings.HasSuffix(v, c.Text)
	case condition.Pattern:
		out = v != "∅" && regexp.MustCompile(c.Text).MatchString(v)
	case condition.Shape:
		out = v != "∅" && text.Shape(v) == c.Text
	case condition.Range:
		n, ok := reads[c.Column].Reader()(v)
		out = ok && n >= 1 && n <= 12
	case condition.Blank:
		out = blank(v)
	case condition.Unread:
		_, ok := reads[c.Column].Reader()(v)
		out = !blank(v) && !ok
	case condition.Differs:
		a, b := v, row[c.Other]
		if a == "∅" {
			a = ""
		}
		if b == "∅" {
			b = ""
		}
		out = a != b
	}
	return out != c.Not
}

// Every kind of condition, alone and joined, against a plain reading of each row, on tables
// that were narrowed and rewritten before.
func TestAgainstRows(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 14))
	var random func(depth int) condition.Condition
	random = func(depth int) condition.Condition {
		col := func() string { return string(rune('a' + r.IntN(3))) }
		c := condition.Condition{Not: r.IntN(4) == 0, Column: col()}
		switch n := r.IntN(13); {
		case n < 2 && depth < 3:
			c.Op, c.Column = []string{condition.All, condition.Any}[n], ""
			for range r.IntN(4) {
				c.Of = append(c.Of, random(depth+1))
			}
		case n < 4:
			c.Op, c.Values = condition.Is, []string{"trawl", "", "not there", coretest.Pieces[r.IntN(len(coretest.Pieces))]}
		case n < 7:
			c.Op, c.Text, c.Case = condition.Contains, []string{"ll", "NET", "ö", "0", "wl", "lG", "Ö", " "}[r.IntN(8)], r.IntN(2) == 0
			if r.IntN(2) == 0 {
				c.Column = ""
			}
		case n == 7:
			c.Op, c.Text = condition.Starts, "gill"
		case n == 8:
			c.Op, c.Text, c.Case = condition.Ends, "net", true
		case n == 9:
			c.Op, c.Text = []string{condition.Pattern, condition.Shape}[r.IntN(2)], "9999-99-99"
		case n == 10:
			c.Op, c.From, c.To = condition.Range, "1", "12"
		case n == 11:
			c.Op = condition.Blank
			if r.IntN(2) == 0 {
				c.Op, c.Text = condition.Unread, "number"
			}
		default:
			c.Op, c.Other = condition.Differs, col()
		}
		return c
	}
	for range 800 {
		tab := coretest.Table(r, 150, 3)
		if r.IntN(2) == 0 {
			next, _ := tab.Columns()[0].Rewrite(table.Each(strings.ToUpper))
			tab = tab.With(0, next)
		}
		if r.IntN(2) == 0 {
			s := &table.Selection{}
			for base := range tab.Base() {
				if r.IntN(3) > 0 {
					s.Rows = append(s.Rows, uint32(base))
				}
			}
			tab = tab.Select(s)
		}
		c := random(0)
		reads := map[string]reading.Reading{}
		for _, col := range tab.Columns() {
			if reads[col.Name] = col.Effective(); reads[col.Name].Kind != reading.Number {
				reads[col.Name] = reading.Plain(reading.Number)
			}
		}
		var want [][]string
		for _, cells := range coretest.Rows(tab) {
			if holds(c, map[string]string{"a": cells[0], "b": cells[1], "c": cells[2]}, reads) {
				want = append(want, cells)
			}
		}
		out, count, err := condition.Narrow(context.Background(), tab, &c)
		if err != nil {
			t.Fatalf("%+v: %v", c, err)
		}
		if got := coretest.Rows(out); !slices.EqualFunc(got, want, slices.Equal) || count.Rows != len(want) {
			t.Fatalf("%s: %d rows, want %d", c.Words(), len(got), len(want))
		}
		for i, part := range c.Of {
			alone, _, err := condition.Rows(context.Background(), tab, &part)
			if err != nil || alone.Count() != count.Of[i].Rows {
				t.Fatalf("part %d holds %d rows by itself, counted %d (%v)", i, alone.Count(), count.Of[i].Rows, err)
			}
		}
	}
}

func TestDatesTextAndTheKelvinSign(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"2031-10-04"}, []string{"4 Nov 2031"}, []string{"5"}, []string{"Öland"}, []string{"pot"}, []string{"300 \u212a"}, []string{"\u0130zmir"})
	for _, c := range []struct {
		c    condition.Condition
		rows int
	}{
		{condition.Condition{Op: condition.Range, Column: "a", From: "2031-10-05"}, 1},
		{condition.Condition{Op: condition.Range, Column: "a", To: "2031-12-31"}, 2},
		{condition.Condition{Op: condition.Range, Column: "a", From: "o", To: "p"}, 1},
		{condition.Condition{Op: condition.Contains, Column: "a", Text: "k"}, 1},
		{condition.Condition{Op: condition.Contains, Column: "a", Text: "I"}, 1},
		{condition.Condition{Op: condition.All}, 7},
		{condition.Condition{Op: condition.Any}, 0},
	} {
		if _, n, err := condition.Narrow(context.Background(), tab, &c.c); err != nil || n.Rows != c.rows {
			t.Errorf("%s: %d rows, want %d (%v)", c.c.Words(), n.Rows, c.rows, err)
		}
	}
}

func TestRefusals(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"1"})
	deep := condition.Condition{Op: condition.Blank, Column: "a"}
	for range 30 {
		deep = condition.Condition{Op: condition.All, Of: []condition.Condition{deep}}
	}
	for i, c := range []condition.Condition{
		{Op: "like", Column: "a"}, {Op: condition.Is, Column: "a"}, {Op: condition.Contains}, {Op: condition.Starts, Column: "a"},
		{Op: condition.Pattern, Column: "a", Text: "("}, {Op: condition.Pattern, Column: "a", Text: strings.Repeat("a", 2000)},
		{Op: condition.Range, Column: "a"}, {Op: condition.Range, Column: "a", From: "1", To: "2031-10-04"}, {Op: condition.Unread, Column: "a", Text: "colour"},
		{Op: condition.Differs, Column: "a"}, {Op: condition.Differs, Column: "a", Other: "z"}, {Op: condition.Blank}, {Op: condition.Blank, Column: "z"}, deep,
		{Op: condition.Any, Of: make([]condition.Condition, 300)},
	} {
		_, _, err := condition.Rows(context.Background(), tab, &c)
		var p *problem.Problem
		if !errors.As(err, &p) || p.Remedy == "" && i > 0 && i < 14 {
			t.Errorf("%d: %v", i, err)
		}
	}
}

func TestWords(t *testing.T) {
	c := condition.Condition{Op: condition.Any, Of: []condition.Condition{
		{Op: condition.Is, Column: "gear", Values: []string{"Pot", "Trap", "Jig", "Rake"}, Not: true},
		{Op: condition.All, Of: []condition.Condition{{Op: condition.Contains, Text: "box"}, {Op: condition.Range, Column: "kg", From: "10"}}},
	}}
	if got, want := c.Words(), "gear is not “Pot”, “Trap”, “Jig” or 1 more or (any column contains “box” and kg is at least 10)"; got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
	for v, want := range map[string]string{"AB 123": "AA 999", "Tern Island": "Aa… Aa…", "x-1234567890": "a-9…", "": "", "ÄB,c": "AA,a", "ABCD": "A…"} {
		if got := text.Shape(v); got != want {
			t.Errorf("the shape of %q is %q, want %q", v, got, want)
		}
	}
}

func BenchmarkAnyColumnContains(b *testing.B) {
	d := table.NewDictBuilder()
	codes := make([]uint32, 1_000_000)
	for i := range codes {
		codes[i] = d.Add(fmt.Sprintf("LK-%07d of Silver Petrel", i))
	}
	tab, err := table.New([]*table.Column{{Name: "a", Codes: &table.Codes{At: codes}, Dict: d.Dict()}}, len(codes), table.Origin{})
	if err != nil {
		b.Fatal(err)
	}
	c := &condition.Condition{Op: condition.Contains, Text: "777"}
	for b.Loop() {
		if _, _, err := condition.Rows(context.Background(), tab, c); err != nil {
			b.Fatal(err)
		}
	}
}
