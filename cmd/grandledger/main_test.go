package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// TestMain lets the test binary stand in for grandledger: run again with this variable
// set, it is the command.
func TestMain(m *testing.M) {
	if os.Getenv("GRANDLEDGER_UNDER_TEST") != "" {
		os.Exit(run(context.Background(), os.Args[1:]))
	}
	os.Exit(m.Run())
}

// command runs grandledger in a directory and gives what it wrote and its exit status.
func command(t *testing.T, dir, stdin string, args ...string) (out, said string, status int) {
	t.Helper()
	self, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command(self, args...)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "GRANDLEDGER_UNDER_TEST=1")
	cmd.Stdin = strings.NewReader(stdin)
	var stdout, stderr bytes.Buffer
	cmd.Stdout, cmd.Stderr = &stdout, &stderr
	if err := cmd.Run(); err != nil && cmd.ProcessState == nil {
		t.Fatal(err)
	}
	return stdout.String(), stderr.String(), cmd.ProcessState.ExitCode()
}

const landings = "no,vessel,gear\n1,Tern,Gill net\n2,Skua,gill net \n2,Skua,gill net \n3,Tern,\"Net, gill\"\n4,Petrel,Trawl\n"
const vessels = "name,port\nTern,PK 1\nTern,GP 9\nSkua,SB 2\nFulmar,SB 3\n"

func write1(t *testing.T, dir, name, text string) {
	t.Helper()
	if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
}

func TestCommands(t *testing.T) {
	dir := t.TempDir()
	write1(t, dir, "landings.csv", landings)
	write1(t, dir, "vessels.csv", vessels)
	write1(t, dir, "later.csv", "number,vessel,gear\n3,Tern,Gill net\n2,Skua,gill net \n1,Tern,Gill net\n9,Fulmar,Trawl\n")
	for _, c := range []struct {
		args []string
		out  string // standard output, or the file "out"
		says string
	}{
		{[]string{"tally", "landings.csv", "--column", "vessel"}, "column,value,rows\nvessel,Skua,2\nvessel,Tern,2\nvessel,Petrel,1\n", ""},
		{[]string{"dedupe", "landings.csv", "--key", "no", "--out", "-"}, "no,vessel,gear\n1,Tern,Gill net\n2,Skua,gill net \n3,Tern,\"Net, gill\"\n4,Petrel,Trawl\n", "5 rows - 1 set aside = 4 rows\n"},
		{[]string{"dedupe", "landings.csv", "--key", "no,vessel", "--keep", "last", "--only-repeats", "--out", "-"}, "no,vessel,gear\n2,Skua,gill net \n", "5 rows - 4 set aside = 1 row\n"},
		{[]string{"dedupe", "landings.csv", "--key", "gear", "--fold", "gear:words", "--out", "-"}, "no,vessel,gear\n1,Tern,Gill net\n4,Petrel,Trawl\n", "5 rows - 3 set aside = 2 rows\n"},
		{[]string{"dedupe", "landings.csv", "--key", "gear", "--fold", "gear", "--only-unique", "--out", "-"}, "no,vessel,gear\n3,Tern,\"Net, gill\"\n4,Petrel,Trawl\n", "5 rows - 3 set aside = 2 rows\n"},
		{[]string{"dedupe", "landings.csv", "--key", "vessel", "--keep", "highest:no", "--out", "-"}, "no,vessel,gear\n2,Skua,gill net \n3,Tern,\"Net, gill\"\n4,Petrel,Trawl\n", "5 rows - 2 set aside = 3 rows\n"},
		{[]string{"dedupe", "landings.csv", "--key", "no", "--out", "kept.csv", "--aside", "-"}, "no,vessel,gear\n2,Skua,gill net \n", "5 rows - 1 set aside = 4 rows\n"},
		{[]string{"dedupe", "landings.csv", "--key", "vessel", "--keep", "prefer:gear=Trawl|Net, gill", "--keep", "last", "--out", "-"}, "no,vessel,gear\n2,Skua,gill net \n3,Tern,\"Net, gill\"\n4,Petrel,Trawl\n", "5 rows - 2 set aside = 3 rows\n"},
		{[]string{"dedupe", "landings.csv", "--key", "vessel", "--mark", "seen:place", "--out", "-"}, "no,vessel,gear,seen\n1,Tern,Gill net,1\n2,Skua,gill net ,1\n2,Skua,gill net ,2\n3,Tern,\"Net, gill\",2\n4,Petrel,Trawl,1\n", "5 rows = 5 rows\n"},
		{[]string{"dedupe", "landings.csv", "--key", "vessel", "--combine", "no=sum,gear=join-distinct", "--separator", " | ", "--out", "-"},
			"no,vessel,gear\n4,Tern,\"Gill net | Net, gill\"\n4,Skua,gill net \n4,Petrel,Trawl\n", "5 rows - 2 merged = 3 rows\n"},
		{[]string{"dedupe", "landings.csv", "--key", "vessel", "--combine", "no=count,*=last", "--out", "-"}, "no,vessel,gear\n2,Tern,\"Net, gill\"\n2,Skua,gill net \n1,Petrel,Trawl\n", "5 rows - 2 merged = 3 rows\n"},
		{[]string{"dedupe", "landings.csv", "--renumber", "no", "--out", "-"}, "no,vessel,gear\n1,Tern,Gill net\n2,Skua,gill net \n5,Skua,gill net \n3,Tern,\"Net, gill\"\n4,Petrel,Trawl\n", "5 rows = 5 rows\n"},
		{[]string{"compare", "landings.csv", "later.csv", "--key", "no=number", "--out", "-"}, "which,no,column,a,b\nchanged,3,gear,\"Net, gill\",Gill net\na,2,,,\na,4,,,\nb,9,,,\n",
			"landings.csv: 5 rows, 2 share their key\nlater.csv: 4 rows\n2 the same, 1 changed, 2 only in landings.csv, 1 only in later.csv\n"},
		{[]string{"compare", "landings.csv", "later.csv", "--count", "vessel"}, "value,a,b\nSkua,2,1\nFulmar,0,1\nPetrel,1,0\nTern,2,2\n", "2 the same, 0 changed, 3 only in landings.csv, 2 only in later.csv\n"},
		{[]string{"variants", "landings.csv", "--column", "gear", "--out", "-"},
			"variant,standard,rows,group,evidence\ngill net ,Gill net,2,1,\"trailing space, letter case\"\n\"Net, gill\",Gill net,1,1,\"same words, other order\"\n", ""},
		{[]string{"join", "landings.csv", "vessels.csv", "--on", "vessel=name", "--rows", "both", "--out", "-"},
			"no,vessel,gear,port\n1,Tern,Gill net,PK 1\n1,Tern,Gill net,GP 9\n2,Skua,gill net ,SB 2\n2,Skua,gill net ,SB 2\n3,Tern,\"Net, gill\",PK 1\n3,Tern,\"Net, gill\",GP 9\n",
			"landings.csv: 4 of 5 rows find a partner\nvessels.csv: 3 of 4 rows find a partner\n5 rows + 2 added - 1 set aside = 6 rows\n"},
		{[]string{"join", "landings.csv", "vessels.csv", "--on", "vessel=name", "--rows", "right", "--out", "-"},
			"no,vessel,gear,port\n1,Tern,Gill net,PK 1\n1,Tern,Gill net,GP 9\n2,Skua,gill net ,SB 2\n2,Skua,gill net ,SB 2\n3,Tern,\"Net, gill\",PK 1\n3,Tern,\"Net, gill\",GP 9\n,,,SB 3\n",
			"5 rows + 3 added - 1 set aside = 7 rows\n"},
	} {
		out, said, status := command(t, dir, "", c.args...)
		if out != c.out || !strings.HasSuffix(said, c.says) || status != 0 {
			t.Errorf("%v: status %d\n%s\nwant\n%s\nsaid %q, want %q", c.args, status, out, c.out, said, c.says)
		}
	}
}

// A crosswalk that variants proposed is applied by apply, through pipes.
func TestVariantsThenApply(t *testing.T) {
	dir := t.TempDir()
	walk, _, status := command(t, dir, landings, "variants", "-", "--column", "gear", "--out", "-")
	if status != 0 {
		t.Fatal(walk)
	}
	write1(t, dir, "walk.csv", walk)
	out, said, status := command(t, dir, landings, "apply", "-", "--column", "gear", "--crosswalk", "walk.csv", "--out", "-")
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	if err != nil || status != 0 || len(rows) != 6 || !strings.Contains(said, "3 cells rewritten, 4 distinct values become 2\n5 rows = 5 rows") {
		t.Fatalf("status %d, %v\n%s%s", status, err, out, said)
	}
	for _, row := range rows[1:5] {
		if row[2] != "Gill net" {
			t.Errorf("row %q was not standardised", row)
		}
	}
}

// A column of addresses, nearly every one of which is different, is no column for spellings, and is told so.
func TestVariantsOfAddresses(t *testing.T) {
	var mails strings.Builder
	mails.WriteString("mail\n")
	for i := range 3000 {
		fmt.Fprintf(&mails, "p%04d@example.org\n", i)
	}
	out, said, status := command(t, t.TempDir(), mails.String(), "variants", "-", "--column", "mail", "--out", "-")
	if status != 0 || strings.Count(out, "\n") != 1 || !strings.Contains(said, "passed over: nearly every value is different") || !strings.Contains(said, "look for duplicates by this column") {
		t.Errorf("status %d, said %s\n%.200s", status, said, out)
	}
}

// A crosswalk goes through every format and back; short forms of one's own are known.
func TestCrosswalkFormats(t *testing.T) {
	dir := t.TempDir()
	write1(t, dir, "walk.csv", "variant,standard\nGN,Gill net\ntrawl,Trawl\n")
	from := "walk.csv"
	for _, to := range []string{"a.ttl", "a.sssom.tsv", "a.json", "a.xlsx", "back.csv"} {
		if _, said, status := command(t, dir, "", "crosswalk", from, to); status != 0 || said != "2 spellings of 2 standard values\n" {
			t.Fatalf("%s to %s: status %d %s", from, to, status, said)
		}
		from = to
	}
	if got, _ := os.ReadFile(filepath.Join(dir, "back.csv")); string(got) != "variant,standard,why,code,note,broader\nGill net,Gill net,,,,\nTrawl,Trawl,,,,\nGN,Gill net,,,,\ntrawl,Trawl,,,,\n" {
		t.Errorf("%s", got)
	}
	if out, said, status := command(t, dir, "gear\nGN\nTrawl\n", "apply", "-", "--column", "gear", "--crosswalk", "a.ttl", "--out", "-"); status != 0 || out != "gear\nGill net\nTrawl\n" {
		t.Errorf("%d %s %s", status, out, said)
	}
	write1(t, dir, "two.csv", "variant,standard\nGN,Gill net\nGN,Grey nurse\n")
	if _, said, status := command(t, dir, "", "crosswalk", "two.csv", "-"); status != 1 || !strings.Contains(said, "two.csv: “GN” is to become both “Gill net” and “Grey nurse”") {
		t.Errorf("%d %s", status, said)
	}
	write1(t, dir, "forms.csv", "short,long\nKB,kestrel bay\n")
	write1(t, dir, "places.csv", "place\nKestrel Bay\nKestrel Bay\nKB\n")
	out, _, status := command(t, dir, "", "variants", "places.csv", "--column", "place", "--forms", "forms.csv", "--out", "-")
	if status != 0 || !strings.Contains(out, "KB,Kestrel Bay,1,1,another form: “kb” for “kestrel bay”") {
		t.Errorf("%d %s", status, out)
	}
}

// Records of two files that are one thing, without a specification and with the one that was drafted; and how right it is.
// Two ledgers are settled, what is left is said, and the classes add up; what was found is written down and can be given again.
func TestSettle(t *testing.T) {
	dir := t.TempDir()
	write1(t, dir, "ours.csv", "date,amount,reference,counterparty\n2031-01-02,100.00,INV-1001,Ice\n2031-01-03,-45.50,INV-1002,Nets\n2031-01-04,12.30,INV-1003,Fuel\n2031-01-05,7.00,INV-1004,Crew\n")
	write1(t, dir, "theirs.csv", "booked,value,ref\n2031-01-02,100.00,1001\n2031-01-05,-45.50,1002\n2031-01-04,13.20,1003\n2031-01-09,99.00,1099\n")
	write1(t, dir, "truth.csv", "ours_row,theirs_row\n1,1\n2,2\n3,3\n")
	out, said, status := command(t, dir, "", "settle", "ours.csv", "theirs.csv", "--out", "-", "--statement", "statement.json", "--draft-spec", "spec.yaml", "--score", "truth.csv")
	want := "side,row,state,set,pass,reason,difference\nours,1,settled,1,1,\"the same reference, amount and date\",0.00\nours,2,settled,2,2,\"the same reference and amount, 2 days apart\",0.00\nours,3,settled,3,6,\"the same reference, digits swapped\",-0.90\nours,4,open,,,,\n" +
		"theirs,1,settled,1,1,\"the same reference, amount and date\",0.00\ntheirs,2,settled,2,2,\"the same reference and amount, 2 days apart\",0.00\ntheirs,3,settled,3,6,\"the same reference, digits swapped\",-0.90\ntheirs,4,open,,,,\n"
	if status != 0 || out != want || !strings.Contains(said, "settled: 3 pairs, right 1.00000; of 3 pairs there are 1.00000 settled") {
		t.Errorf("status %d, said %s\n%s", status, said, out)
	}
	if text, err := os.ReadFile(filepath.Join(dir, "statement.json")); err != nil || !strings.Contains(string(text), `"difference": "-92.90"`) || !strings.Contains(string(text), `"unexplained": "0.00"`) {
		t.Errorf("%s (%v)", text, err)
	}
	if again, _, status := command(t, dir, "", "settle", "ours.csv", "theirs.csv", "--spec", "spec.yaml", "--out", "-"); status != 0 || again != out {
		t.Errorf("the drafted specification gives something else:\n%s", again)
	}
	if narrow, _, _ := command(t, dir, "", "settle", "ours.csv", "theirs.csv", "--window", "1d", "--out", "-"); !strings.Contains(narrow, "ours,2,offered,") {
		t.Errorf("two days apart within a window of one:\n%s", narrow)
	}
	for _, c := range []struct {
		args   []string
		status int
		says   string
	}{
		{[]string{"settle", "ours.csv", "theirs.csv"}, 2, "--out is needed"},
		{[]string{"work", "--data", dir}, 1, "no database is running"},
		{[]string{"standin", "ours.csv"}, 2, "--name is needed"},
		{[]string{"standin", "ours.csv", "--name", "counterparty", "--addr", "0.0.0.0:9"}, 2, "not on this machine's loopback"},
		{[]string{"settle", "ours.csv", "theirs.csv", "--window", "soon", "--out", "x"}, 2, "no number of days"},
		{[]string{"settle", "ours.csv", "truth.csv", "--spec", "truth.csv", "--out", "x"}, 1, "truth.csv: it is no such specification"},
	} {
		if _, said, status := command(t, dir, "", c.args...); status != c.status || !strings.Contains(said, c.says) {
			t.Errorf("%v: status %d, %s", c.args, status, said)
		}
	}
}

// The values of a column are tied to the entries of a register, those that are sure taken; a truth says how right that is.
func TestIdentify(t *testing.T) {
	dir := t.TempDir()
	var boats, register, truth strings.Builder
	boats.WriteString("id,boat,year\n")
	register.WriteString("reg,vessel,built\n")
	truth.WriteString("left_id,right_id\n")
	for i := range 120 {
		name := fmt.Sprintf("%s %s%c", []string{"Silver", "Golden", "Little", "Grey", "Northern"}[i%5], []string{"petrel", "gannet", "skua", "heron"}[i/5%4], 'a'+i/20)
		fmt.Fprintf(&register, "V%d,%s,%d\n", i, name, 1900+i)
		fmt.Fprintf(&boats, "%d,%s,%d\n", i, strings.ToUpper(name), 1900+i)
		fmt.Fprintf(&truth, "%d,V%d\n", i, i)
	}
	boats.WriteString("120,The Queen of Sheba,1821\n")
	write1(t, dir, "boats.csv", boats.String())
	write1(t, dir, "register.csv", register.String())
	write1(t, dir, "truth.csv", truth.String())
	out, said, status := command(t, dir, "", "identify", "boats.csv", "--column", "boat", "--with", "year=built", "--authority", "register.csv", "--auto", "--score", "truth.csv", "--out", "-")
	lines := strings.Split(strings.TrimSpace(out), "\n")
	if status != 0 || len(lines) != 122 || lines[0] != "id,boat,year,identifier,standard,state,weight" || !strings.HasPrefix(lines[1], "0,SILVER PETRELA,1900,V0,Silver petrela,identified,") || lines[121] != "120,The Queen of Sheba,1821,,,not listed," {
		t.Errorf("status %d, said %s\n%.300s\n%s", status, said, out, lines[len(lines)-1])
	}
	if !strings.Contains(said, "first candidate right: 1.0000 of 120") || !strings.Contains(said, "identified: 120 of 121 values") {
		t.Error(said)
	}
	if out, _, _ = command(t, dir, "", "identify", "boats.csv", "--column", "boat", "--authority", "register.csv", "--out", "-"); strings.Contains(out, ",identified,") || !strings.Contains(out, ",undecided,") {
		t.Errorf("without --auto nothing is taken: %.300s", out)
	}
	for _, c := range []struct {
		args   []string
		status int
		says   string
	}{
		{[]string{"identify", "boats.csv", "--out", "x.csv"}, 2, "--column and --authority are needed"},
		{[]string{"identify", "boats.csv", "--column", "gone", "--authority", "register.csv", "--out", "x.csv"}, 1, `no column "gone"`},
		{[]string{"identify", "boats.csv", "--column", "boat", "--authority", "register.csv", "--id", "built", "--with", "year", "--out", "x.csv"}, 2, "is not COL=PROPERTY"},
		{[]string{"identify", "boats.csv", "--column", "boat", "--authority", "http://127.0.0.1:9/", "--out", "x.csv"}, 1, "127.0.0.1:9 does not answer"},
	} {
		if _, said, status := command(t, dir, "", c.args...); status != c.status || !strings.Contains(said, c.says) {
			t.Errorf("%v: status %d, %s", c.args, status, said)
		}
	}
}

func TestLink(t *testing.T) {
	dir := t.TempDir()
	var left, right, truth strings.Builder
	left.WriteString("id,vessel,harbour\n")
	right.WriteString("id,boat,port\n")
	truth.WriteString("left_id,right_id\n")
	for i := range 200 {
		name := fmt.Sprintf("%s %s%c", []string{"Silver", "Golden", "Little", "Grey", "Northern"}[i%5], []string{"petrel", "gannet", "skua", "heron"}[i/5%4], 'a'+i/20)
		fmt.Fprintf(&left, "L%d,%s,Harbour %d\n", i, name, i%7)
		fmt.Fprintf(&right, "R%d,%s,harbour %d\n", i, strings.ToUpper(name), i%7)
		fmt.Fprintf(&truth, "L%d,R%d\n", i, i)
	}
	write1(t, dir, "left.csv", left.String())
	write1(t, dir, "right.csv", right.String())
	write1(t, dir, "truth.csv", truth.String())
	out, said, status := command(t, dir, "", "link", "left.csv", "right.csv", "--out", "-", "--clusters", "clusters.csv", "--draft-spec", "spec.yaml", "--score", "truth.csv")
	if status != 0 || !strings.HasPrefix(out, "left_file,left_row,right_file,right_row,weight,probability,verdict\nleft.csv,1,right.csv,1,") || !strings.Contains(said, "precision 1.0000, recall 1.0000, F1 1.0000 over 200 pairs") {
		t.Errorf("status %d, said %s\n%.300s", status, said, out)
	}
	again, _, status := command(t, dir, "", "link", "left.csv", "right.csv", "--spec", "spec.yaml", "--out", "-")
	if status != 0 || again != out {
		t.Errorf("the drafted specification gives something else:\n%.300s", again)
	}
	if got, err := os.ReadFile(filepath.Join(dir, "clusters.csv")); err != nil || !strings.HasPrefix(string(got), "cluster,file,row\n1,left.csv,1\n1,right.csv,1\n2,") {
		t.Errorf("%.200s (%v)", got, err)
	}
	golden, _, status := command(t, dir, "", "link", "left.csv", "right.csv", "--golden", "-")
	if lines := strings.Split(golden, "\n"); status != 0 || len(lines) != 202 || !strings.HasPrefix(lines[0], "cluster,records,vessel,harbour") && !strings.HasPrefix(lines[0], "cluster,records,harbour,vessel") || !strings.HasPrefix(lines[1], "1,2,") {
		t.Errorf("status %d\n%.200s", status, golden)
	}
	write1(t, dir, "bad.yaml", "attributes: []\nsmell: strong\n")
	for _, c := range []struct {
		args   []string
		status int
		says   string
	}{
		{[]string{"link", "left.csv", "right.csv", "--spec", "bad.yaml", "--out", "x.csv"}, 1, "bad.yaml: it is no such specification"},
		{[]string{"link", "left.csv"}, 2, "--out is needed"},
		{[]string{"link", "left.csv", "--across", "--out", "x.csv"}, 1, "there is one table alone"},
		{[]string{"link", "left.csv", "--within", "--across", "--out", "x.csv"}, 2, "not both"},
	} {
		if _, said, status := command(t, dir, "", c.args...); status != c.status || !strings.Contains(said, c.says) {
			t.Errorf("%v: status %d, said %q", c.args, status, said)
		}
	}
}

func TestProfileAsJSON(t *testing.T) {
	out, _, status := command(t, t.TempDir(), landings, "tally", "-", "--json")
	var p []struct {
		Column, Reading string
		Distinct, Blank int
	}
	if err := json.Unmarshal([]byte(out), &p); err != nil || status != 0 || len(p) != 3 || p[0].Reading != "number" || p[2].Distinct != 4 {
		t.Errorf("status %d, %v: %s", status, err, out)
	}
}

// Through every format and back, and what can be asked for on the way.
func TestConvert(t *testing.T) {
	dir := t.TempDir()
	write1(t, dir, "landings.csv", landings)
	write1(t, dir, "nested.json", `{"data":[{"no":1,"catch":[{"kg":2},{"kg":3}]}]}`)
	from := "landings.csv"
	for _, to := range []string{"a.tsv", "a.json", "a.jsonl.gz", "a.xlsx", "a.ods", "a.parquet", "a.arrow", "back.csv"} {
		if out, said, status := command(t, dir, "", "convert", from, to); status != 0 || out != "" || said != "" {
			t.Fatalf("%s to %s: status %d %s%s", from, to, status, out, said)
		}
		from = to
	}
	back, err := os.ReadFile(filepath.Join(dir, "back.csv"))
	if err != nil || string(back) != landings {
		t.Errorf("came back as %q (%v)", back, err)
	}
	for _, c := range []struct {
		args []string
		out  string
	}{
		{[]string{"landings.csv", "-", "--column", "vessel=boat", "--column", "no"}, "boat,no\nTern,1\n"},
		{[]string{"nested.json", "-", "--spread", "catch"}, "no,catch.kg\n1,2\n1,3\n"},
	} {
		out, said, status := command(t, dir, "", append([]string{"convert"}, c.args...)...)
		if status != 0 || !strings.HasPrefix(out, c.out) {
			t.Errorf("%v: status %d %s%s", c.args, status, out, said)
		}
	}
	write1(t, dir, "more.csv", landings)
	out, _, status := command(t, dir, "", "convert", "landings.csv", "more.csv", "-")
	if status != 0 || strings.Count(out, "\n") != 11 || !strings.HasPrefix(out, "file,no,vessel,gear\nlandings.csv,1,") {
		t.Errorf("two files: status %d\n%s", status, out)
	}
}

func TestBadDataAndWrongUsage(t *testing.T) {
	dir := t.TempDir()
	write1(t, dir, "open.csv", "a,b\n1,\"x\n2,y\n")
	write1(t, dir, "landings.csv", landings)
	write1(t, dir, "other.csv", "a,b\n1,2\n")
	write1(t, dir, "archive.csv", "PK\x03\x04 and so on")
	for _, c := range []struct {
		args   []string
		status int
		says   string
	}{
		{[]string{"tally", "open.csv"}, 1, `open.csv, row 1, column "b": a quotation mark is opened and never closed`},
		{[]string{"tally", "archive.csv"}, 1, "archive.csv: the packed file is damaged or cut off"},
		{[]string{"tally", "absent.csv"}, 1, "absent.csv: the file cannot be opened"},
		{[]string{"tally", "landings.csv", "--column", "q"}, 1, `landings.csv, column "q": there is no such column`},
		{[]string{"dedupe", "landings.csv", "--key", "q", "--out", "x.csv"}, 1, `column "q"`},
		{[]string{"apply", "landings.csv", "--column", "gear", "--crosswalk", "landings.csv", "--out", "x.csv"}, 1, "landings.csv: no column says what the standard values are. Name its columns variant and standard"},
		{[]string{"dedupe", "landings.csv", "--out", "x.csv"}, 2, "--key is missing"},
		{[]string{"dedupe", "landings.csv", "--key", "no"}, 2, "--out is missing"},
		{[]string{"dedupe", "landings.csv", "--key", "no", "--keep", "all", "--out", "x.csv"}, 2, "--keep is first, last, fullest"},
		{[]string{"dedupe", "landings.csv", "--key", "no", "--mark", "x", "--combine", "*=first", "--out", "x.csv"}, 2, "exclude one another"},
		{[]string{"dedupe", "landings.csv", "--key", "no", "--combine", "gear=best", "--out", "x.csv"}, 2, "--combine is such as"},
		{[]string{"dedupe", "landings.csv", "--key", "no", "--combine", "gear=sum", "--out", "x.csv"}, 1, "cannot be worked out"},
		{[]string{"compare", "landings.csv"}, 2, "B is missing"},
		{[]string{"compare", "landings.csv", "landings.csv", "--key", "q"}, 1, `no column "q"`},
		{[]string{"compare", "landings.csv", "landings.csv", "--count", "no", "--measure", "no"}, 2, "sum:kg"},
		{[]string{"join", "landings.csv"}, 2, "RIGHT is missing"},
		{[]string{"join", "landings.csv", "landings.csv", "--on", "no", "--rows", "both", "--out", "x.csv"}, 2, "not a pair of columns"},
		{[]string{"join", "landings.csv", "landings.csv", "--on", "no=no", "--rows", "some", "--out", "x.csv"}, 2, "--rows is both"},
		{[]string{"tally", "landings.csv", "--colour", "red"}, 2, "unknown flag"},
		{[]string{"convert", "landings.csv"}, 2, "OUT is missing"},
		{[]string{"convert", "landings.csv", "other.csv", "x.csv"}, 1, "other.csv: it has no column in common with landings.csv"},
		{[]string{"convert", "landings.csv", "landings.docx"}, 2, "End its name with one of .csv"},
		{[]string{"convert", "landings.csv", "x.json", "--records", "a"}, 2, "--records is for JSON and XML"},
		{[]string{"convert", "landings.csv", "x.json", "--column", "q"}, 1, `landings.csv: the file has no column "q". It has "no", "vessel", "gear"`},
		{[]string{"dance"}, 2, "unknown command"},
	} {
		out, said, status := command(t, dir, "", c.args...)
		if status != c.status || !strings.Contains(said, c.says) || out != "" || strings.Count(said, "\n") != 1 {
			t.Errorf("%v: status %d, said %q", c.args, status, said)
		}
	}
	// What went wrong left no file behind.
	if left, err := os.ReadDir(dir); err != nil || len(left) != 4 {
		t.Errorf("left behind: %v (%v)", left, err)
	}
}
