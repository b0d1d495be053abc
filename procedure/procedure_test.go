package procedure

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"grandledger/core/coretest"
	"grandledger/core/entry"
	"grandledger/core/problem"
)

const two = `{"version":1,"name":"landings","source":{"files":["a.csv"],"how":{"format":"delimited"}},"steps":[
	{"entry":1,"kind":"duplicates","words":"x","params":{"key":["no"],"keep":"first"}},
	{"entry":4,"kind":"tidy","words":"Trim gear","params":{"columns":["gear"],"steps":[{"op":"trim"}],"where":{"op":"is","column":"no","values":["1"]}}},
	{"entry":7,"kind":"return","words":"x","params":{"entry":1}}]}`

// A procedure does its steps in order, knows them by their numbers, and is written as it was read.
func TestRun(t *testing.T) {
	p, err := Read(strings.NewReader(two))
	if err != nil {
		t.Fatal(err)
	}
	tab := coretest.Build([]string{"no", "gear"}, []string{"1", " net"}, []string{"1", " pots"}, []string{"2", " net"})
	outcomes, result, err := p.Run(context.Background(), tab, nil)
	if err != nil || len(outcomes) != 3 {
		t.Fatal(err)
	}
	// The second row was set aside when gear was tidied, and came back as it was.
	if got := coretest.Rows(result); !slices.EqualFunc(got, [][]string{{"1", "net"}, {"1", " pots"}, {"2", " net"}}, slices.Equal) {
		t.Errorf("%q", got)
	}
	var out bytes.Buffer
	if err := p.Write(&out); err != nil {
		t.Fatal(err)
	}
	again, err := Read(&out)
	if err != nil || len(again.Steps) != 3 || again.Steps[1].Words != "Trim gear" {
		t.Errorf("%+v (%v)", again, err)
	}
	_, _, err = p.Run(context.Background(), coretest.Build([]string{"no"}, []string{"1"}), nil)
	var bad *problem.Problem
	if !errors.As(err, &bad) || bad.What != `entry 4 (Trim gear): the table has no column "gear"` || bad.Remedy == "" {
		t.Error(err)
	}
}

func TestReadRefuses(t *testing.T) {
	for text, says := range map[string]string{
		`{"version":2,"name":"x","source":{"files":[],"how":{"format":""}},"steps":[]}`: "version 2",
		`{"name":"x","source":{"files":[],"how":{"format":""}},"steps":[]}`:             "no version",
		`{"version":1,"colour":"red"}`:                                                  "unknown field",
		`{"version":1} {}`:                                                              "after the end",
		`[]`:                                                                            "cannot be read",
		"version: 1\nname: &a x\nsteps: [*a]\n":                                         "aliases",
		"version: 1\n---\nversion: 1\n":                                                 "after the end",
		"version: 1\nversion: 1\n":                                                      "comes twice",
		"version: 1\ncolour: red\n":                                                     "unknown field",
		"\tversion: [":                                                                  "cannot be read",
		``:                                                                              "cannot be read",
		`{"version":1,"steps":[{"entry":1,"kind":"dance","words":"Dance","params":{}}]}`:                        `entry 1 (Dance): there is no kind of entry called "dance"`,
		`{"version":1,"steps":[{"entry":1,"kind":"tidy","words":"Tidy","params":{"columns":[],"steps":1}}]}`:    "cannot be read",
		`{"version":1,"steps":[{"entry":1,"kind":"tidy","words":"Tidy","params":{"columns":["a"],"step":[]}}]}`: "unknown field",
	} {
		var p *problem.Problem
		if _, err := Read(strings.NewReader(text)); !errors.As(err, &p) || !strings.Contains(p.What, says) {
			t.Errorf("%s: %v", text, err)
		}
	}
}

// The published schema names the kinds there are and the keys that are written.
func TestSchema(t *testing.T) {
	var s struct {
		Properties map[string]any
		Defs       map[string]struct {
			Items struct {
				Properties map[string]struct{ Enum []string }
			}
		} `json:"$defs"`
	}
	if err := json.Unmarshal(Schema, &s); err != nil {
		t.Fatal(err)
	}
	if got := s.Defs["steps"].Items.Properties["kind"].Enum; !slices.Equal(got, entry.Kinds()) {
		t.Errorf("the schema has the kinds %v, there are %v", got, entry.Kinds())
	}
	if len(s.Properties) != 5 || len(s.Defs["steps"].Items.Properties) != 4 {
		t.Errorf("%+v", s)
	}
}

// The text of a table cannot become marks of the document.
func TestDocuments(t *testing.T) {
	lines := []Line{{Words: "Brought in <b>a*b.csv</b>", State: "posted", At: time.Date(2031, 10, 4, 5, 30, 0, 0, time.UTC), Effect: entry.Effect{Balance: entry.Balance{Added: 6214, After: 6214}}, Notes: []string{"# x\ny"}},
		{Number: 1, Reason: "Asked <for> by *Ana*", Words: "Trim `gear`", State: "reversed", Effect: entry.Effect{Balance: entry.Balance{Before: 6214, After: 6214}, Columns: []entry.ColumnEffect{{Cells: 261}}}}}
	var md, page strings.Builder
	if err := errors.Join(Markdown(&md, "Landings_1", lines), HTML(&page, "Landings <1>", lines)); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{`# Journal of Landings\_1`, `Brought in \<b\>a\*b.csv\</b\>. 6,214 rows added, 6,214 rows stand.`, "- Balance: 0 + 6,214 − 0 − 0 = 6,214", "- Posted: 2031-10-04 05:30 UTC",
		`- Noted: \# x y`, "## Entry 1, reversed", `- Reason: Asked \<for\> by \*Ana\*`, "Trim \\`gear\\`. 261 cells rewritten, 6,214 rows stand."} {
		if !strings.Contains(md.String(), want) {
			t.Errorf("%s\nlacks %s", md.String(), want)
		}
	}
	for _, want := range []string{"<h1>Journal of Landings &lt;1&gt;</h1>", "Brought in &lt;b&gt;a*b.csv&lt;/b&gt;.", `<p class="off">Trim`, "<em>Asked &lt;for&gt; by *Ana*</em>", "0 &#43; 6,214"} {
		if !strings.Contains(page.String(), want) {
			t.Errorf("%s\nlacks %s", page.String(), want)
		}
	}
	if strings.Contains(page.String(), "<script") || strings.Contains(page.String(), "http") {
		t.Error("the page reaches outside")
	}
}

// A procedure written as YAML is read as it was, whatever its columns are called; deep nesting is
// no trouble.
func TestYAML(t *testing.T) {
	p := &Procedure{Version: 1, Table: Table{Name: "no", Source: Source{Files: []string{"yes: no.csv", "1e3", "# x", ""}}, Steps: []Step{
		{1, "values", "line\nbreak \u2028 'quoted'", json.RawMessage(`{"column":"no","changes":[{"from":"0017","to":"null"},{"from":" ~","to":"\\t\""},{"from":"2031-10-04","to":"<<"},{"from":"1.50","to":"é"}]}`)}}}}
	var out bytes.Buffer
	if err := p.WriteYAML(&out); err != nil {
		t.Fatal(err)
	}
	again, err := Read(bytes.NewReader(out.Bytes()))
	if err != nil {
		t.Fatalf("%s\n%v", out.String(), err)
	}
	a, _ := json.Marshal(p)
	b, _ := json.Marshal(again)
	var x, y any
	if errors.Join(json.Unmarshal(a, &x), json.Unmarshal(b, &y)) != nil || !reflect.DeepEqual(x, y) {
		t.Errorf("%s\nwas %s\nis %s", out.String(), a, b)
	}
	if _, err := Read(strings.NewReader(strings.Repeat("[", 100_000))); err == nil {
		t.Error("deep nesting was read")
	}
	if _, err := Read(strings.NewReader("a: " + strings.Repeat("[", 100_000))); err == nil {
		t.Error("deep nesting was read")
	}
}

func FuzzRead(f *testing.F) {
	f.Add(two)
	f.Add("version: 1\nname: x\nsource: {files: [], how: {format: \"\"}}\nsteps: []\n")
	f.Fuzz(func(t *testing.T, text string) {
		p, err := Read(strings.NewReader(text))
		if err != nil {
			return
		}
		var out bytes.Buffer
		if err := p.Write(&out); err != nil {
			t.Fatal(err)
		}
		if _, err := Read(&out); err != nil {
			t.Fatalf("what was written cannot be read: %v", err)
		}
	})
}
