package main

import (
	"strings"
	"testing"
)

// A procedure runs on the file it was made on, or on others, and says what each entry did.
func TestRunCommand(t *testing.T) {
	dir := t.TempDir()
	write1(t, dir, "landings.csv", landings)
	write1(t, dir, "next.csv", "no,vessel,gear\n9,Auk,gill net \n9,Auk,gill net \n")
	write1(t, dir, "other.csv", "no,boat\n1,Auk\n")
	write1(t, dir, "tidy.json", `{"version":1,"name":"landings","source":{"files":["landings.csv"],"how":{"format":"delimited"}},"steps":[
		{"entry":1,"kind":"duplicates","words":"Repeats","params":{"key":["no"],"keep":"first"}},
		{"entry":2,"kind":"tidy","words":"Tidy gear","params":{"columns":["gear"],"steps":[{"op":"trim"},{"op":"sentence"}]}}]}`)
	write1(t, dir, "bad.json", `{"version":9}`)
	for _, c := range []struct {
		args, out, says string
		status          int
	}{
		{"run tidy.json", "no,vessel,gear\n1,Tern,Gill net\n2,Skua,Gill net\n3,Tern,\"Net, gill\"\n4,Petrel,Trawl\n",
			"1. Set aside repeats of no, keeping the first row of each group. 1 rows set aside, 4 rows stand.\n2. Trim spaces and give the first word a capital in gear. 1 cells rewritten, 4 rows stand.", 0},
		{"run tidy.json --source next.csv", "no,vessel,gear\n9,Auk,Gill net\n", "1 rows stand", 0},
		{"run tidy.json --source other.csv", "", `entry 2 (Tidy gear): the table has no column "gear"`, 1},
		{"run bad.json", "", "version 9", 1},
		{"run nothing.json", "", "cannot be opened", 1},
		{"run", "", "PROCEDURE", 2},
		{"run tidy.json --source nowhere.csv", "", "nowhere.csv", 1},
	} {
		out, said, status := command(t, dir, "", strings.Fields(c.args)...)
		if out != c.out || !strings.Contains(said, c.says) || status != c.status {
			t.Errorf("%s: status %d, %q, says %q", c.args, status, out, said)
		}
	}
}
