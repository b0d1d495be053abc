package main

import (
	"os"
	"path/filepath"
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

// A procedure in YAML with a table its formula looks into: each file is given by name, the result
// goes into a directory, a check that does not hold ends with a status of its own, and tables that
// look into each other are told from one another.
func TestRunSeveralTables(t *testing.T) {
	dir := t.TempDir()
	for name, text := range map[string]string{
		"ports.csv": "boat,port\nTern, PK\nAuk,GP\n", "others.csv": "boat,port\nTern,SB\n",
		"notes.csv": "no,boat\n1,Tern\n2,Auk\n", "twice.csv": "no,boat\n1,Tern\n1,Auk\n",
		"two.yaml": `version: 1
name: Notes / all
source: {files: [notes.csv], how: {format: delimited}}
steps:
- {entry: 1, kind: check, words: x, params: {key: [no]}}
- {entry: 2, kind: formula, words: x, params: {formula: 'lookup("Ports", "port", "boat", boat)', name: port, tables: {Ports: 7}}}
tables:
- name: Ports
  source: {files: [ports.csv], how: {format: delimited}}
  steps:
  - {entry: 1, kind: tidy, words: x, params: {columns: [port], steps: [{op: trim}]}}
`,
		"none.yaml": "version: 1\nname: Notes\nsource: {files: [], how: {format: delimited}}\nsteps: []\n",
		"less.yaml": "version: 1\nname: Notes\nsource: {files: [notes.csv], how: {format: delimited}}\nsteps:\n- {entry: 2, kind: formula, words: x, params: {formula: 'lookup(\"Ports\", \"port\", \"boat\", boat)', name: port}}\n",
		"bad.yaml":  "version: 1\nversion: 1\n",
	} {
		write1(t, dir, name, text)
	}
	for _, c := range []struct {
		args, out, says string
		status          int
	}{
		{"run two.yaml", "no,boat,port\n1,Tern,PK\n2,Auk,GP\n", "2. New column port", 0},
		{"run two.yaml --source Ports=others.csv", "no,boat,port\n1,Tern,SB\n2,Auk,\n", "", 0},
		{"run two.yaml --source twice.csv", "", "the check does not hold: 1 rows are against it", 3},
		{"run two.yaml --out .", "", "", 0},
		{"run none.yaml", "", "does not say which file", 1},
		{"run less.yaml", "", `no table called "Ports"`, 1},
		{"run bad.yaml", "", "cannot be read", 1},
	} {
		out, said, status := command(t, dir, "", strings.Fields(c.args)...)
		if out != c.out || !strings.Contains(said, c.says) || status != c.status {
			t.Errorf("%s: status %d, %q, says %q", c.args, status, out, said)
		}
	}
	if got, err := os.ReadFile(filepath.Join(dir, "Notes _ all.csv")); err != nil || string(got) != "no,boat,port\n1,Tern,PK\n2,Auk,GP\n" {
		t.Errorf("%s (%v)", got, err)
	}
}
