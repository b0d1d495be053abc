package problem

import "testing"

func TestOneReadableLine(t *testing.T) {
	for _, c := range []struct {
		p    Problem
		want string
	}{
		{Problem{What: "the file is empty"}, "the file is empty"},
		{Problem{What: "the file is empty", File: "a.csv", Remedy: "Choose another"}, "a.csv: the file is empty. Choose another"},
		{Problem{What: "a mark never closes", File: "a.csv", Row: 7, Column: "b"}, `a.csv, row 7, column "b": a mark never closes`},
		{*New("Do this", "%d things", 3), "3 things. Do this"},
	} {
		if got := c.p.Error(); got != c.want {
			t.Errorf("%+v says %q, want %q", c.p, got, c.want)
		}
	}
}
