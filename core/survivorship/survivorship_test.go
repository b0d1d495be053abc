package survivorship_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/survivorship"
	"grandledger/core/table"
)

// made gives the value of each group of one column by a rule.
func made(t *testing.T, r reading.Reading, rule survivorship.Rule, cells ...string) (string, *survivorship.Made, error) {
	t.Helper()
	rows := [][]string{{"key", "v"}}
	for _, cell := range cells {
		rows = append(rows, []string{"x", cell})
	}
	tab := coretest.Build(rows...)
	c := *tab.Columns()[1]
	c.Reading = r
	tab = tab.With(1, &c)
	m, err := survivorship.Make(tab, &c, duplicate.Find(tab, duplicate.Exactly(tab.Columns()[:1]), false).Members(), rule, ", ")
	if err != nil {
		return "", nil, err
	}
	return m.Dict.Value(m.Codes[0]), m, nil
}

// Sums are exact and keep marks and units; means are rounded half to even; what does not read is
// left out and counted. Outside reference for the sums that floating point gets wrong: IEEE 754,
// by which 0.1 + 0.2 is not 0.3.
func TestNumbers(t *testing.T) {
	point, comma := reading.Plain(reading.Number), reading.Reading{Kind: reading.Number, Decimal: ",", Group: ".", Unit: "kg"}
	euro := reading.Reading{Kind: reading.Number, Decimal: ".", Group: ",", Unit: "€"}
	for _, c := range []struct {
		of     reading.Reading
		rule   survivorship.Rule
		cells  string
		want   string
		unread int
	}{
		{point, survivorship.Sum, "0.1|0.2", "0.3", 0},
		{point, survivorship.Sum, "1|2.50|(3)", "0.50", 0},
		{point, survivorship.Sum, "1,250.5||many", "1,250.5", 1}, // one that reads: it stays as written
		{point, survivorship.Sum, "1,250.5|1|many", "1251.5", 1},
		{point, survivorship.Sum, "many|few", "many", 2},
		{point, survivorship.Sum, "9007199254740993|1", "9007199254740994", 0},
		{point, survivorship.Sum, "99999999999999999999.5|0.5", "100000000000000000000.0", 0},
		{point, survivorship.Sum, "5|5", "10", 0},
		{point, survivorship.Mean, "5.0|5.0", "5.0", 0},
		{point, survivorship.Mean, "1|2", "1.5", 0},
		{point, survivorship.Mean, "1|1|2", "1.3333", 0},
		{point, survivorship.Mean, "-1|-1|-2", "-1.3333", 0},
		{point, survivorship.Mean, "0|0.0001|0|0|0|0|0|0", "0.0000125", 0},
		{reading.Reading{Kind: reading.Number, Decimal: "."}, survivorship.Mean, strings.TrimSuffix(strings.Repeat("0|", 15999)+"1", "|"), "0.0001", 0}, // 0.0000625
		{point, survivorship.Mean, strings.Repeat("0|", 19999) + "1", "0", 0},                                                                           // 0.00005 is half: to the even 0.0000
		{point, survivorship.Mean, strings.Repeat("0|", 19999) + "3", "0.0002", 0},                                                                      // 0.00015: to the even 0.0002
		{point, survivorship.Median, "9|1|5.0", "5.0", 0},
		{point, survivorship.Median, "1|2|3|10", "2.5", 0},
		{comma, survivorship.Sum, "1.250,5 kg|2 kg", "1252,5 kg", 0},
		{comma, survivorship.Sum, "1kg|2kg", "3kg", 0},
		{euro, survivorship.Sum, "€5|€-7.50", "-€2.50", 0},
		{euro, survivorship.Sum, "€ 5|€ 7.50", "€ 12.50", 0},
	} {
		got, m, err := made(t, c.of, c.rule, strings.Split(c.cells, "|")...)
		if err != nil || got != c.want || m.Unread != c.unread {
			t.Errorf("%s of %.60q: %q, want %q; %v; %+v", c.rule, c.cells, got, c.want, err, m)
		}
	}
}

func TestCounted(t *testing.T) {
	_, m, err := made(t, reading.Reading{}, survivorship.Frequent, "a", "b", "", "b", "a ", "b")
	if err != nil || m.Differ != 1 || m.Changed != 1 || m.Dropped != 2 {
		t.Errorf("%+v, %v", m, err)
	}
	if _, m, _ := made(t, reading.Reading{}, survivorship.Last, "", "a", "a"); m.Differ != 0 || m.Dropped != 0 || m.Changed != 1 {
		t.Errorf("cells that agree: %+v", m)
	}
	var p *problem.Problem
	if _, _, err := made(t, reading.Plain(reading.Text), survivorship.Sum, "a", "b"); !errors.As(err, &p) || p.Column != "v" || p.Remedy == "" {
		t.Errorf("a sum of texts: %v", err)
	}
	if _, _, err := made(t, reading.Reading{}, "best", "a"); !errors.As(err, &p) {
		t.Errorf("a rule there is not: %v", err)
	}
	if _, _, err := made(t, reading.Reading{}, survivorship.Join, strings.Repeat("x", survivorship.MaxValue/2), strings.Repeat("y", survivorship.MaxValue/2)); !errors.As(err, &p) {
		t.Errorf("a value of more than 16 MiB: %v", err)
	}
}

// So many groups that they are shared out, and groups of more values than are looked through one
// after another, against a plain map.
func TestManyGroups(t *testing.T) {
	const rows = 120_000
	keys, values := table.NewDictBuilder(), table.NewDictBuilder()
	var k, v []uint32
	want := map[string][]string{}
	var order []string
	for i := range rows {
		key, value := fmt.Sprint("k", i*i%90_001), fmt.Sprint("v", i*7%5003)
		if i%40 == 0 {
			key = fmt.Sprint("big", i%80)
		}
		if want[key] == nil {
			order = append(order, key)
		}
		if !slices.Contains(want[key], value) {
			want[key] = append(want[key], value)
		}
		k, v = append(k, keys.Add(key)), append(v, values.Add(value))
	}
	tab, err := table.New([]*table.Column{{Name: "key", Codes: &table.Codes{At: k}, Dict: keys.Dict()}, {Name: "v", Codes: &table.Codes{At: v}, Dict: values.Dict()}}, rows)
	if err != nil {
		t.Fatal(err)
	}
	groups := duplicate.Find(tab, duplicate.Exactly(tab.Columns()[:1]), false).Members()
	m, err := survivorship.Make(tab, tab.Columns()[1], groups, survivorship.JoinDistinct, " ")
	if err != nil || groups.Len() != len(order) {
		t.Fatalf("%d groups, want %d; %v", groups.Len(), len(order), err)
	}
	for i, key := range order {
		if got := m.Dict.Value(m.Codes[i]); got != strings.Join(want[key], " ") {
			t.Fatalf("%s: %.80q, want %.80q", key, got, strings.Join(want[key], " "))
		}
	}
}
