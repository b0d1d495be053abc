package authority_test

import (
	"context"
	"testing"

	"grandledger/core/authority"
	"grandledger/core/coretest"
)

// A register that answers: a name that is the same is a match where nothing else is as good, properties lower what contradicts them, older names find their entry, and what it has nothing like is not
// offered.
func TestAnswering(t *testing.T) {
	r, err := authority.Open(register(), "", []string{"vessel", "former names"})
	if err != nil {
		t.Fatal(err)
	}
	a, err := authority.Answering(context.Background(), r)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name   string
		wanted []authority.Wanted
		id     string
		match  bool
	}{
		{"golden petrel", nil, "V001", true}, {"Goldn Petrel", nil, "V001", false}, {"Fair Isle Maid", nil, "V101", true},
		{"Silver Petrel", nil, "V000", false}, {"Silver Petrel", []authority.Wanted{{"built", "2010"}}, "V100", true}, {"Golden Petrel", []authority.Wanted{{"built", "1800"}}, "V001", false}, {"", nil, "", false}, {"Zzyzx", nil, "", false},
	} {
		found, err := a.Find(c.name, c.wanted, 5)
		if err != nil {
			t.Fatal(err)
		}
		id, match := "", false
		if len(found) > 0 {
			id, match = r.Identifier(found[0].Entry), found[0].Match
		}
		if id != c.id || match != c.match {
			t.Errorf("%q %v: %s, match %t, of %+v", c.name, c.wanted, id, match, found)
		}
		if len(found) > 5 {
			t.Errorf("%d offers", len(found))
		}
	}
	if row, ok := a.Entry("V003"); !ok || r.Name(row) != "Grey Petrel" {
		t.Errorf("%d %t", row, ok)
	}
	if _, ok := a.Entry("gone"); ok {
		t.Error("there is no such entry")
	}
}

// Columns that both sides have testify, the name and the identifier do not.
func TestProposedTestimony(t *testing.T) {
	left, right := [][]string{{"no", "boat", "harbour", "kg"}}, [][]string{{"id", "vessel", "harbour", "length"}}
	for i := range 60 {
		name := []string{"Silver", "Golden", "Little"}[i%3] + " " + []string{"Petrel", "Gannet", "Skua", "Heron"}[i%4] + string(rune('a'+i%20))
		harbour := []string{"Port Kestrel", "Gull Point", "Skerry Bay"}[i%3]
		left = append(left, []string{"x" + string(rune('a'+i%26)), name, harbour, "7"})
		right = append(right, []string{string(rune('A'+i%26)) + string(rune('a'+i/26)), name, harbour, "12"})
	}
	r, err := authority.Open(coretest.Build(right...), "id", []string{"vessel"})
	if err != nil {
		t.Fatal(err)
	}
	with := authority.Propose(coretest.Build(left...), "boat", r)
	if len(with) != 1 || with[0].Columns[0] != "harbour" || with[0].Properties[0] != "harbour" {
		t.Errorf("%+v", with)
	}
}
