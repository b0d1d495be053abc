package authority_test

import (
	"context"
	"fmt"
	"math"
	"strings"
	"testing"

	"grandledger/core/authority"
	"grandledger/core/coretest"
	"grandledger/core/table"
)

// register is one of vessels, two of which are called the same, one under an older name too.
func register() *table.Table {
	rows := [][]string{{"reg", "vessel", "former names", "built", "port"}}
	first := []string{"Silver", "Golden", "Little", "Grey", "Northern", "Bonny", "Fair"}
	second := []string{"Petrel", "Gannet", "Skua", "Heron", "Tern", "Fulmar", "Dawn", "Tide", "Fathom", "Selkie"}
	for i := range 70 {
		rows = append(rows, []string{fmt.Sprintf("V%03d", i), first[i%7] + " " + second[i/7], "", fmt.Sprint(1950 + i), []string{"Port Kestrel", "Gull Point", "Skerry Bay"}[i%3]})
	}
	rows = append(rows, []string{"V100", "Silver Petrel", "", "2010", "Skerry Bay"}, []string{"V101", "Aurora", "Old Hope; Fair Isle Maid", "1999", "Gull Point"})
	return coretest.Build(rows...)
}

func ask(t *testing.T, rows [][]string, q authority.Question) *authority.Answers {
	t.Helper()
	r, err := authority.Open(register(), "", nil)
	if err != nil {
		t.Fatal(err)
	}
	a, err := authority.Ask(context.Background(), coretest.Build(rows...), q, r, authority.Usual, nil)
	if err != nil {
		t.Fatal(err)
	}
	return a
}

// Each distinct combination is asked once; spellings find their entry; two entries of one name are told apart by what testifies, and left to a person where nothing does; an older name finds its entry, and
// what is not there is not listed.
func TestAsk(t *testing.T) {
	rows := [][]string{{"boat", "year", "kg"}}
	want := map[string]string{}
	add := func(boat, year, id string) {
		rows = append(rows, []string{boat, year, fmt.Sprint(len(rows))}, []string{boat, year, "7"})
		want[boat+" "+year] = id
	}
	first := []string{"Silver", "Golden", "Little", "Grey", "Northern", "Bonny", "Fair"}
	second := []string{"Petrel", "Gannet", "Skua", "Heron", "Tern", "Fulmar", "Dawn", "Tide", "Fathom", "Selkie"}
	for i := 1; i < 60; i++ {
		name := first[i%7] + " " + second[i/7]
		switch i % 4 {
		case 1:
			name = strings.ToUpper(name)
		case 2:
			name = name[:2] + name[3:]
		}
		add(name, fmt.Sprint(1950+i), fmt.Sprintf("V%03d", i))
	}
	add("Silver Petrel", "1950", "V000")
	add("Silver Petrel", "2010", "V100")
	add("Fair Isle Maid", "1999", "V101")
	add("Queen of the Wide Ocean", "1901", "")
	q := authority.Question{Column: "boat", With: []authority.Testimony{{Columns: []string{"year"}, Properties: []string{"built"}}}}
	a := ask(t, rows, q)
	if len(a.Of) != len(want) || a.Register.ID != "reg" || a.Register.Names[0] != "vessel" {
		t.Fatalf("%d combinations, %d were asked; %+v", len(a.Of), len(want), a.Register)
	}
	wrong := 0
	for n, answer := range a.Of {
		id := want[answer.Values[0]+" "+answer.Values[1]]
		state, c, ok := a.Stands(n, nil)
		if answer.Rows != 2 {
			t.Errorf("%v stands in %d rows", answer.Values, answer.Rows)
		}
		switch {
		case id == "" && state != authority.NotListed:
			t.Errorf("%v is %s", answer.Values, state)
		case id != "" && (!ok || a.Register.Identifier(c.Entry) != id):
			wrong++
			t.Logf("%v is not %s: %v", answer.Values, id, c)
		case strings.HasPrefix(answer.Values[0], "Silver Petrel") && state != authority.Identified:
			t.Errorf("%v is %s, the year tells", answer.Values, state)
		}
		if !ok {
			continue
		}
		sum := 0.0
		for _, f := range a.Explain(n, c) {
			sum += f.Bits
		}
		if math.Abs(sum-c.Weight) > 1e-3 {
			t.Errorf("%v: the parts add up to %f, the weight is %f", answer.Values, sum, c.Weight)
		}
	}
	if wrong > 1 {
		t.Errorf("%d of %d have another first candidate", wrong, len(a.Of))
	}
	// By the name alone nothing tells the two apart.
	for n, answer := range ask(t, rows, authority.Question{Column: "boat"}).Of {
		if answer.Values[0] == "Silver Petrel" && answer.State == authority.Identified {
			t.Errorf("answer %d is taken: %+v", n, answer)
		}
	}
}

// The columns say of every row what its combination is; a decision stands before the rule.
func TestColumnsAndDecisions(t *testing.T) {
	rows := [][]string{{"boat"}, {"Golden Gannet"}, {""}, {"golden gannet"}, {"Silver Petrel"}, {"Golden Gannet"}}
	a := ask(t, rows, authority.Question{Column: "boat"})
	decided := map[int]authority.Decided{}
	for n, answer := range a.Of {
		if answer.Values[0] == "Silver Petrel" {
			decided[n] = authority.Decided{State: authority.Identified, Entry: 70}
		}
		if answer.Values[0] == "golden gannet" {
			decided[n] = authority.Decided{State: authority.NotListed}
		}
	}
	columns := a.Columns(5, decided)
	cells := func(c, row int) string { v, _ := columns[c].Value(uint32(row)); return v }
	if cells(0, 0) != cells(0, 4) || cells(0, 0) == "" || cells(1, 0) != "Golden Gannet" || cells(0, 1) != "" || cells(2, 1) != "" {
		t.Errorf("%q %q %q", cells(0, 0), cells(0, 4), cells(1, 0))
	}
	if cells(2, 2) != "not listed" || cells(0, 2) != "" || cells(0, 3) != "V100" || cells(2, 3) != "identified" {
		t.Errorf("%q %q %q", cells(2, 2), cells(0, 3), cells(2, 3))
	}
	if cells(3, 0) == "" || columns[2].Name != "state" {
		t.Error("no weight")
	}
}

// What a register must have is said, with what to do.
func TestRefusals(t *testing.T) {
	twice := coretest.Build([]string{"id", "name"}, []string{"1", "Tern"}, []string{"1", "Skua"})
	for want, open := range map[string]func() error{
		"no column of the register is never blank": func() error {
			_, err := authority.Open(coretest.Build([]string{"a"}, []string{"1"}, []string{"1"}), "", nil)
			return err
		},
		"are blank or there twice":      func() error { _, err := authority.Open(twice, "id", nil); return err },
		"no column \"x\"":               func() error { _, err := authority.Open(twice, "", []string{"x"}); return err },
		"says something":                func() error { return refused(authority.Question{Column: "blank"}) },
		"Choose a column the table has": func() error { return refused(authority.Question{Column: "gone"}) },
		"no property": func() error {
			return refused(authority.Question{Column: "boat", With: []authority.Testimony{{Columns: []string{"blank"}, Properties: []string{"gone"}}}})
		},
	} {
		if err := open(); err == nil || !strings.Contains(fmt.Sprintf("%v %+v", err, err), want) {
			t.Errorf("%q: %v", want, err)
		}
	}
}

func refused(q authority.Question) error {
	r, err := authority.Open(register(), "reg", []string{"vessel"})
	if err != nil {
		return err
	}
	_, err = authority.Ask(context.Background(), coretest.Build([]string{"boat", "blank"}, []string{"Golden Gannet", " "}), q, r, authority.Usual, nil)
	return err
}
