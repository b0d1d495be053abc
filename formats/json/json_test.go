package json

import (
	"bytes"
	"context"
	stdjson "encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

func readText(text string, shape Shape, block int) (*table.Table, *intake.Report, error) {
	return read(context.Background(), strings.NewReader(text), shape, intake.Options{}, block)
}

// show writes a table with a cell that does not exist as ∅.
func show(t *table.Table) string {
	var b strings.Builder
	for i, c := range t.Columns() {
		b.WriteString(strings.Repeat(" | ", min(i, 1)) + c.Name)
	}
	for row := range t.Rows() {
		for i, c := range t.Columns() {
			v, ok := c.Value(uint32(row))
			if !ok {
				v = "∅"
			}
			b.WriteString([]string{"\n", " | "}[min(i, 1)] + v)
		}
	}
	return b.String()
}

func TestRecords(t *testing.T) {
	for _, c := range []struct {
		name, text string
		shape      Shape
		want       string
	}{
		{"lines", "{\"a\":1,\"b\":\"x\"}\n\n{\"b\":\"y\",\"a\":2.50}\n", Shape{}, "a | b\n1 | x\n2.50 | y"},
		{"a list", ` [ {"a":1} , {"a":null,"c":true} ] `, Shape{}, "a | c\n1 | ∅\n∅ | true"},
		{"numbers stay as written", `{"n":1e5}{"n":-0.10}{"n":12345678901234567890}`, Shape{}, "n\n1e5\n-0.10\n12345678901234567890"},
		{"nothing", `{"a":null,"v":null}{"a":null,"v":{"x":1}}`, Shape{}, "a | v.x\n∅ | ∅\n∅ | 1"},
		{"nested", `{"v":{"name":"Tern","port":{"id":7}},"w":{}}`, Shape{}, "v.name | v.port.id | w\nTern | 7 | {}"},
		{"escapes", `{"a":"\"\\\/\b\f\n\r\t\u00e9\ud83d\udc1f\ud800x"}`, Shape{}, "a\n\"\\/\b\f\n\r\té🐟\uFFFDx"},
		{"lists", `{"l":[ 1, "a b" , [2] ],"m":[]}`, Shape{}, "l | m\n[1,\"a b\",[2]] | []"},
		{"a full stop in a name", `{"a.b":1,"a":{"b":2}}`, Shape{}, `a\.b | a.b` + "\n1 | 2"},
		{"spread", `{"no":1,"c":[{"s":"cod","kg":2},{"s":"hake"}],"z":9}{"no":2,"c":[]}{"no":3,"c":[5]}`, Shape{Spread: "c"},
			"no | z | c.s | c.kg | c\n1 | 9 | cod | 2 | ∅\n1 | 9 | hake | ∅ | ∅\n2 | ∅ | ∅ | ∅ | ∅\n3 | ∅ | ∅ | ∅ | 5"},
		{"inside a document", `{"meta":{"n":[1,{"x":"]"}]},"data":{"items":[{"a":1},{"a":2}],"more":1}}`, Shape{Records: "data.items"}, "a\n1\n2"},
		{"no objects", "1\n\"two\"\n", Shape{}, "value\n1\ntwo"},
		{"lists by place", `[[1,"x"],[2]]`, Shape{}, "column 1 | column 2\n1 | x\n2 | ∅"},
		{"written over lines", "{\n \"a\": 1\n}\n{\n \"a\": 2\n}\n", Shape{}, "a\n1\n2"},
		{"one name in two spellings", `{"a":1}{"\u0061":2}`, Shape{}, "a\n1\n2"},
	} {
		for _, block := range []int{1, 2, 5, 17, 64, 0} {
			tab, _, err := readText(c.text, c.shape, block)
			if err != nil {
				t.Errorf("%s, blocks of %d: %v", c.name, block, err)
			} else if got := show(tab); got != c.want {
				t.Errorf("%s, blocks of %d:\n%s\nwant\n%s", c.name, block, got, c.want)
			}
		}
	}
}

func TestNamesTwiceAreTold(t *testing.T) {
	tab, report, err := readText(`{"a":1,"a":2}`+"\n"+`{"a":3}`, Shape{}, 0)
	if err != nil || show(tab) != "a\n2\n3" || len(report.Notes) != 1 || report.Notes[0].String() != "a record has a name twice; the last one counts: row 1" {
		t.Errorf("%v %v (%v)", show(tab), report.Notes, err)
	}
}

func TestRefusals(t *testing.T) {
	for _, c := range []struct {
		text  string
		shape Shape
		what  string
		row   int
	}{
		{"", Shape{}, "ends before its records", 0},
		{"{\"a\":1}\n{\"a\":tru}\n", Shape{}, `"tru" is not a value of JSON`, 2},
		{"{\"a\":1}\n{\"a\":1", Shape{}, "not complete", 2},
		{`[{"a":1}`, Shape{}, "not closed", 2},
		{`[{"a":1},]`, Shape{}, "not a value", 2},
		{`[{"a":1}] 5`, Shape{}, "after the end", 2},
		{`{"a":"x` + "\n" + `"}`, Shape{}, "control character U+000A", 1},
		{`{"a":01}`, Shape{}, `"01" is not a value`, 1},
		{strings.Repeat(`{"a":`, 500) + "1" + strings.Repeat("}", 500), Shape{}, "more than 200 deep", 1},
		{`{"a":` + strings.Repeat("[", 500) + strings.Repeat("]", 500) + "}", Shape{}, "more than 200 deep", 1},
		{`{"a":[]}`, Shape{Records: "b"}, `no "b"`, 0},
		{`{"a":5}`, Shape{Records: "a"}, "no list of records", 0},
		{`{"a":5}`, Shape{Records: "a.b"}, "no object", 0},
		{"[]", Shape{}, "no record was found", 0},
	} {
		_, _, err := readText(c.text, c.shape, 0)
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.What, c.what) || p.Row != c.row || p.Remedy == "" {
			t.Errorf("%.60q: %+v, want %q in row %d", c.text, err, c.what, c.row)
		}
	}
}

func TestTooManyColumnsIsRefused(t *testing.T) {
	var b strings.Builder
	for i := range 1000 {
		b.WriteString(`{"x":1`)
		for j := range 1000 {
			fmt.Fprintf(&b, `,"c%d":1`, i*1000+j)
		}
		b.WriteString("}\n")
	}
	_, _, err := readText(b.String(), Shape{}, 0)
	var p *problem.Problem
	if !errors.As(err, &p) || p.Remedy == "" {
		t.Errorf("a million columns: %v", err)
	}
}

// flatten gives the cells of a record as encoding/json understands it.
func flatten(out map[string]string, path string, v any) {
	switch v := v.(type) {
	case map[string]any:
		if len(v) == 0 && path != "" {
			out[path] = "{}"
		}
		for name, inner := range v {
			within := name
			if path != "" {
				within = path + "." + name
			}
			flatten(out, within, inner)
		}
	case nil:
	case string:
		out[path] = v
	case stdjson.Number:
		out[path] = string(v)
	default:
		var b bytes.Buffer
		e := stdjson.NewEncoder(&b)
		e.SetEscapeHTML(false)
		if err := e.Encode(v); err != nil {
			panic(err)
		}
		out[path] = strings.TrimSuffix(b.String(), "\n")
	}
}

// Outside reference: encoding/json reads the same cells, in blocks of any size.
func TestAgainstEncodingJSON(t *testing.T) {
	r := rand.New(rand.NewPCG(8259, 1))
	words := []string{"tern", "Möwe", "", "a\"b", "back\\slash", "tab\t", "line\n", "🐟", "/", "\u2028", "e\u0301"}
	var value func(depth int) any
	value = func(depth int) any {
		switch n := r.IntN(9); {
		case n < 3:
			return words[r.IntN(len(words))]
		case n == 3:
			return stdjson.Number([]string{"0", "-1", "1.50", "1e9", "12345678901234567890"}[r.IntN(5)])
		case n == 4:
			return r.IntN(2) == 0
		case n == 5:
			return nil
		case depth > 2:
			return "deep"
		case n == 6:
			list := make([]any, r.IntN(3))
			for i := range list {
				list[i] = stdjson.Number(fmt.Sprint(i))
			}
			return list
		}
		m := map[string]any{}
		for range r.IntN(3) {
			m[string(rune('k'+r.IntN(4)))] = value(depth + 1)
		}
		return m
	}
	for round := range 300 {
		var text bytes.Buffer
		var want []map[string]string
		indent := round%3 == 0
		for range 1 + r.IntN(30) {
			rec := map[string]any{"id": "x"}
			for range r.IntN(6) {
				rec[string(rune('a'+r.IntN(6)))] = value(0)
			}
			e := stdjson.NewEncoder(&text)
			if indent {
				e.SetIndent("", "  ")
			}
			e.SetEscapeHTML(r.IntN(2) == 0)
			if err := e.Encode(rec); err != nil {
				t.Fatal(err)
			}
			cells := map[string]string{}
			flatten(cells, "", rec)
			want = append(want, cells)
		}
		tab, _, err := readText(text.String(), Shape{}, 1+r.IntN(300))
		if err != nil || tab.Rows() != len(want) {
			t.Fatalf("%s\n%v", text.String(), err)
		}
		for row, cells := range want {
			got := map[string]string{}
			for _, c := range tab.Columns() {
				if v, ok := c.Value(uint32(row)); ok {
					got[c.Name] = v
				}
			}
			if fmt.Sprint(got) != fmt.Sprint(cells) {
				t.Fatalf("record %d of\n%s\nreads as %v, want %v", row+1, text.String(), got, cells)
			}
		}
		for _, lines := range []bool{true, false} {
			var out bytes.Buffer
			if err := Write(context.Background(), &out, tab, lines); err != nil {
				t.Fatal(err)
			}
			d := stdjson.NewDecoder(bytes.NewReader(out.Bytes()))
			var all []map[string]any
			if !lines {
				if err := d.Decode(&all); err != nil {
					t.Fatal(err)
				}
			} else {
				for d.More() {
					var one map[string]any
					if err := d.Decode(&one); err != nil {
						t.Fatal(err)
					}
					all = append(all, one)
				}
			}
			if len(all) != tab.Rows() {
				t.Fatalf("wrote %d records of %d", len(all), tab.Rows())
			}
		}
	}
}

func TestFind(t *testing.T) {
	text := `{"meta":{"tags":["a"],"by":[{"n":1}]},"data":{"items":[{"a":1},{"a":2},{"a":3}]},"tail":[{"x":`
	want := []Found{{"data.items", 3}, {"meta.by", 1}, {"tail", 1}}
	if got := Find([]byte(text)); !slices.Equal(got, want) {
		t.Errorf("found %v, want %v", got, want)
	}
	for _, text := range []string{"{\"l\":[{}]}\n{\"l\":[]}\n", "[{}]", "", "5"} {
		if got := Find([]byte(text)); len(got) > 0 {
			t.Errorf("%q: found %v", text, got)
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{`{"a":1}`, `[{"a":[1,{}]},{"b":{"c":null}}]`, "{\"a\":\"\\u00e9\"}\n{}", `[[1],[2,"x"]]`, `{"a":[{"b":1}]}`, "[[0]]0"} {
		f.Add(s, "a", 7)
	}
	f.Fuzz(func(t *testing.T, text, path string, block int) {
		for _, shape := range []Shape{{}, {Spread: path}, {Records: path}} {
			tab, _, err := readText(text, shape, 1+max(block, -(block+1))%64)
			if err != nil {
				var p *problem.Problem
				if !errors.As(err, &p) {
					t.Fatalf("%q: %v is no problem", text, err)
				}
				continue
			}
			again, _, err := readText(text, shape, 0)
			if err != nil || show(tab) != show(again) {
				t.Fatalf("%q reads differently by block size (%v)", text, err)
			}
			if shape == (Shape{}) && !stdjson.Valid([]byte(text)) {
				d := stdjson.NewDecoder(strings.NewReader(strings.TrimPrefix(text, "\ufeff")))
				for {
					var v any
					if err := d.Decode(&v); err != nil {
						if err.Error() != "EOF" {
							t.Fatalf("%q was read; encoding/json says %v", text, err)
						}
						break
					}
				}
			}
		}
		Find([]byte(text))
	})
}
