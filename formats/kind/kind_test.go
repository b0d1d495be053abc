package kind_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
	"time"

	"grandledger/core/coretest"
	"grandledger/core/table"
	"grandledger/formats/kind"
)

func build(values ...string) *table.Table {
	rows := [][]string{{"c"}}
	for _, v := range values {
		rows = append(rows, []string{v})
	}
	return coretest.Build(rows...)
}

func TestKinds(t *testing.T) {
	for _, c := range []struct {
		values   []string
		want     kind.Kind
		decimals int
	}{
		{[]string{"1", "-20", "", "∅", "9223372036854775807"}, kind.Whole, 0},
		{[]string{"1", "01"}, kind.Text, 0},
		{[]string{"0", "-0"}, kind.Text, 0},
		{[]string{"+1"}, kind.Text, 0},
		{[]string{"9223372036854775808"}, kind.Text, 0},
		{[]string{"1.50", "-0.25", "12345678901234.00"}, kind.Decimal, 2},
		{[]string{"1.50", "1.5"}, kind.Text, 0},
		{[]string{"-0.00"}, kind.Text, 0},
		{[]string{".5"}, kind.Text, 0},
		{[]string{"1.5", "17", "0.25"}, kind.Float, 0},
		{[]string{"1e5"}, kind.Text, 0},
		{[]string{"1234567890123456.5", "1.25"}, kind.Text, 0},
		{[]string{"true", "false", ""}, kind.YesNo, 0},
		{[]string{"TRUE"}, kind.Text, 0},
		{[]string{"2031-10-04", "0001-01-01"}, kind.Date, 0},
		{[]string{"2031-02-30"}, kind.Text, 0},
		{[]string{"2031-10-4"}, kind.Text, 0},
		{[]string{`["a"]`, "[]"}, kind.List, 0},
		{[]string{`["a"`}, kind.Text, 0},
		{[]string{"", "∅"}, kind.Text, 0},
		{nil, kind.Text, 0},
	} {
		tab := build(c.values...)
		got, decimals := kind.Of(tab, tab.Columns()[0])
		if got != c.want || decimals != c.decimals {
			t.Errorf("%q is of the kind %d with %d decimals, want %d with %d", c.values, got, decimals, c.want, c.decimals)
		}
	}
}

// Values that do not stand in the table say nothing of it.
func TestOnlyStandingValuesCount(t *testing.T) {
	tab := build("1", "x", "2").Select(&table.Selection{Rows: []uint32{0, 2}})
	if got, _ := kind.Of(tab, tab.Columns()[0]); got != kind.Whole {
		t.Errorf("the kind is %d", got)
	}
}

// Whatever a column holds, what the standard library makes of its kind is the same text.
func TestTypedValuesComeBack(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 15))
	alphabet := "0123456789.-e+"
	for range 20_000 {
		var b strings.Builder
		for range 1 + r.IntN(8) {
			b.WriteByte(alphabet[r.IntN(len(alphabet))])
		}
		v := b.String()
		if r.IntN(3) == 0 {
			v = []string{fmt.Sprint(r.IntN(4000) - 2000), fmt.Sprintf("%.2f", r.Float64()*100-50), fmt.Sprint(float64(r.IntN(10000)) / 8),
				time.Unix(int64(r.IntN(4e9)), 0).UTC().Format(time.DateOnly)}[r.IntN(4)]
		}
		tab := build(v)
		back := v
		switch k, decimals := kind.Of(tab, tab.Columns()[0]); k {
		case kind.Whole:
			n, err := strconv.ParseInt(v, 10, 64)
			if err != nil {
				t.Fatal(err)
			}
			back = strconv.FormatInt(n, 10)
		case kind.Decimal:
			digits, err := strconv.ParseInt(strings.Replace(v, ".", "", 1), 10, 64)
			if err != nil {
				t.Fatal(err)
			}
			sign, text := "", strconv.FormatInt(digits, 10)
			if digits < 0 {
				sign, text = "-", text[1:]
			}
			for len(text) <= decimals {
				text = "0" + text
			}
			back = sign + text[:len(text)-decimals] + "." + text[len(text)-decimals:]
		case kind.Float:
			f, err := strconv.ParseFloat(v, 64)
			if err != nil || !json.Valid([]byte(v)) {
				t.Fatalf("%q: %v", v, err)
			}
			back = strconv.FormatFloat(f, 'f', -1, 64)
		case kind.Date:
			at, err := time.Parse(time.DateOnly, v)
			if err != nil {
				t.Fatal(err)
			}
			back = at.Format(time.DateOnly)
		}
		if back != v {
			t.Fatalf("%q comes back as %q", v, back)
		}
	}
}
