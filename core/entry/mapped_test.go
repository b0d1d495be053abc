package entry_test

import (
	"encoding/json"
	"slices"
	"testing"

	"grandledger/core/entry"
)

// Every kind speaks of other columns when it is mapped, and only of columns; what it had before
// is untouched.
func TestMapped(t *testing.T) {
	names := map[string]string{"port": "harbour", "kg net": "weight", "no": "note"}
	for _, c := range []struct {
		kind, params, want string
		reads              []string
	}{
		{"tidy", `{"columns":["port","gear"],"steps":[{"op":"trim"}]}`, `{"columns":["harbour","gear"],"steps":[{"op":"trim"}]}`, []string{"port", "gear"}},
		{"values", `{"column":"port","changes":[{"from":"port","to":"no"}]}`, `{"column":"harbour","changes":[{"from":"port","to":"no"}]}`, []string{"port"}},
		{"duplicates", `{"key":["no","port"],"keep":"first"}`, `{"key":["note","harbour"],"keep":"first"}`, []string{"no", "port"}},
		{"duplicates", `{"key":["port"],"as":{"port":"words"},"keep":"newest","by":"no"}`, `{"key":["harbour"],"as":{"harbour":"words"},"keep":"newest","by":"note"}`, []string{"port", "no"}},
		{"mark", `{"key":["no"],"as":{"no":"words"},"name":"port","shows":"size"}`, `{"key":["note"],"as":{"note":"words"},"name":"port","shows":"size"}`, []string{"no"}},
		{"renumber", `{"column":"no","same":["port"]}`, `{"column":"note","same":["harbour"]}`, []string{"no", "port"}},
		{"rows", `{"holding":{"op":"all","of":[{"op":"blank","column":"port"},{"op":"differs","column":"no","other":"kg net"}]},"keep":true}`,
			`{"holding":{"op":"all","of":[{"op":"blank","column":"harbour"},{"op":"differs","column":"note","other":"weight"}]},"keep":true}`, []string{"port", "no", "kg net"}},
		{"reading", `{"column":"no","reading":{"kind":"code"}}`, `{"column":"note","reading":{"kind":"code"}}`, []string{"no"}},
		{"columns", `{"columns":[{"from":"no","as":"port"},{"from":"gear"}]}`, `{"columns":[{"from":"note","as":"port"},{"from":"gear"}]}`, []string{"no", "gear"}},
		{"split", `{"column":"port","by":"change","names":["no"]}`, `{"column":"harbour","by":"change","names":["no"]}`, []string{"port"}},
		{"combine", `{"columns":["port","no"],"separator":" ","name":"both"}`, `{"columns":["harbour","note"],"separator":" ","name":"both"}`, []string{"port", "no"}},
		{"fill", `{"columns":["port"],"with":"column","from":"no"}`, `{"columns":["harbour"],"with":"column","from":"note"}`, []string{"port", "no"}},
		{"number", `{"name":"no","start":1}`, `{"name":"no","start":1}`, nil},
		{"formula", `{"formula":"kg_net * 2 + len(port) + len(\"port\") + (let no2 = 1; no2)","name":"port"}`, `{"formula":"weight * 2 + len(harbour) + len(\"port\") + (let no2 = 1; no2)","name":"port"}`, []string{"port", "kg_net"}},
		{"formula", `{"formula":"größe + no","name":"no","replace":true}`, `{"formula":"größe + note","name":"note","replace":true}`, []string{"no", "größe"}},
		{"cell", `{"column":"no","row":1,"from":"a","to":"b"}`, `{"column":"note","row":1,"from":"a","to":"b"}`, []string{"no"}},
		{"gather", `{"key":["no"],"columns":["port"]}`, `{"key":["note"],"columns":["harbour"]}`, []string{"no", "port"}},
		{"review", `{"column":"no","name":"port"}`, `{"column":"note","name":"port"}`, []string{"no"}},
		{"add", `{"rows":[{"gear":"x","no":"1"}]}`, `{"rows":[{"gear":"x","note":"1"}]}`, []string{"gear", "no"}},
		{"check", `{"none":{"op":"blank","column":"no"}}`, `{"none":{"op":"blank","column":"note"}}`, []string{"no"}},
		{"check", `{"key":["no"]}`, `{"key":["note"]}`, []string{"no"}},
		{"return", `{"entry":3}`, `{"entry":3}`, nil},
		{"tidy", `{"columns":["gear"],"steps":[{"op":"trim"}],"where":{"op":"is","column":"no","values":["no"]}}`, `{"columns":["gear"],"steps":[{"op":"trim"}],"where":{"op":"is","column":"note","values":["no"]}}`, []string{"gear", "no"}},
	} {
		e, err := entry.Decode(c.kind, []byte(c.params))
		if err != nil {
			t.Fatal(err)
		}
		if reads := entry.Reads(e); !sameSet(reads, c.reads) {
			t.Errorf("%s reads %q, want %q", c.params, reads, c.reads)
		}
		got, _ := json.Marshal(entry.Mapped(e, names))
		if !sameJSON(got, []byte(c.want)) {
			t.Errorf("%s becomes %s, want %s", c.params, got, c.want)
		}
		if was, _ := json.Marshal(e); !sameJSON(was, []byte(c.params)) {
			t.Errorf("%s was changed to %s", c.params, was)
		}
	}
}

func sameSet(a, b []string) bool {
	return slices.Equal(slices.Sorted(slices.Values(a)), slices.Sorted(slices.Values(b)))
}

func sameJSON(a, b []byte) bool {
	var x, y any
	if json.Unmarshal(a, &x) != nil || json.Unmarshal(b, &y) != nil {
		return false
	}
	left, _ := json.Marshal(x)
	right, _ := json.Marshal(y)
	return string(left) == string(right)
}
