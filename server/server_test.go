package server_test

import (
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/gin-gonic/gin"

	"grandledger/store/storetest"
)

func TestMain(m *testing.M) {
	gin.SetMode(gin.TestMode)
	storetest.Main(m)
}

func TestBringInDraftPostPublish(t *testing.T) {
	c := serve(t)
	id := c.bringIn("landings", "no,gear\n1,Gill net\n2,=2+3\n2,gill net \n")
	path := fmt.Sprintf("/tables/%d", id)
	var tab struct{ Revision, Rows, Next int }
	c.call("GET", path, nil, &tab)
	if tab.Rows != 3 || tab.Next != 1 {
		t.Fatalf("table %+v", tab)
	}
	draft := answer{"revision": tab.Revision, "kind": "duplicates", "params": answer{"key": []string{"no"}, "keep": "first"}}
	var drafted struct {
		Number int
		Effect struct{ Balance struct{ SetAside, After int } }
	}
	if c.call("POST", path+"/draft", draft, &drafted); drafted.Number != 1 || drafted.Effect.Balance.SetAside != 1 {
		t.Errorf("drafted %+v", drafted)
	}
	if status := c.call("POST", path+"/entries", draft, nil); status != 201 {
		t.Errorf("post: status %d", status)
	}
	var problem answer
	if status := c.call("POST", path+"/entries", draft, &problem); status != 409 || len(problem["since"].([]any)) != 1 {
		t.Errorf("a second post: status %d, %v", status, problem)
	}
	var text string
	if c.call("GET", path+"/publish?guard=true", nil, &text); text != "no,gear\n1,Gill net\n2,'=2+3\n" {
		t.Errorf("published %q", text)
	}
	if c.call("GET", path+"/publish?aside=1", nil, &text); text != "no,gear\n2,gill net \n" {
		t.Errorf("set aside %q", text)
	}
	var rows struct {
		Total int
		Rows  []struct {
			Origin string
			Cells  []*string
		}
	}
	if c.call("GET", path+"/rows?aside=1", nil, &rows); rows.Total != 1 || rows.Rows[0].Origin != "landings.csv 3" {
		t.Errorf("rows set aside %+v", rows)
	}
	if left, err := os.ReadDir(c.uploads); err != nil || len(left) != 0 {
		t.Errorf("received files stay: %v (%v)", left, err)
	}
}

func TestLongCellsAreCut(t *testing.T) {
	c := serve(t)
	long := strings.Repeat("é", 1<<20)
	id := c.bringIn("long", "a,b\n"+long+",x\n")
	var rows struct {
		Rows []struct {
			Cells []string
			Cut   []int
		}
	}
	c.call("GET", fmt.Sprintf("/tables/%d/rows", id), nil, &rows)
	if r := rows.Rows[0]; len(r.Cells[0]) > 2000 || !strings.HasPrefix(long, r.Cells[0]) || len(r.Cut) != 1 {
		t.Errorf("a cell of 2 MiB came as %d bytes, cut %v", len(r.Cells[0]), r.Cut)
	}
	var text string
	if c.call("GET", fmt.Sprintf("/tables/%d/publish", id), nil, &text); text != "a,b\n"+long+",x\n" {
		t.Error("the published cell is not whole")
	}
}

// Five thousand columns are brought in, registered and shown like any others.
func TestManyColumns(t *testing.T) {
	c := serve(t)
	names := make([]string, 5000)
	for i := range names {
		names[i] = fmt.Sprint("column number ", i)
	}
	text := strings.Join(names, ",") + "\n" + strings.Repeat(strings.Repeat("x,", 4999)+"y\n", 3)
	id := c.bringIn("wide", text)
	var profiles []struct {
		Column string
		Rows   int
	}
	c.call("GET", fmt.Sprintf("/tables/%d/register", id), nil, &profiles)
	if len(profiles) != 5000 || profiles[4999].Column != "column number 4999" || profiles[4999].Rows != 3 {
		t.Errorf("%d profiles", len(profiles))
	}
	var published string
	if c.call("GET", fmt.Sprintf("/tables/%d/publish", id), nil, &published); published != text {
		t.Error("published otherwise than it came")
	}
}

func TestProblemsSayWhereAndWhat(t *testing.T) {
	c := serve(t)
	id := c.bringIn("landings", "a,b\n1,2\n")
	for _, k := range []struct {
		method, path string
		body         any
		status       int
		detail       string
	}{
		{"GET", "/tables/99", nil, 404, "table 99"},
		{"GET", "/nowhere", nil, 404, "nothing at this address"},
		{"GET", "/tables/x", nil, 400, "table"},
		{"GET", fmt.Sprintf("/tables/%d/tally?column=q", id), nil, 422, `no column "q"`},
		{"GET", fmt.Sprintf("/tables/%d/tally", id), nil, 400, "column"},
		{"GET", fmt.Sprintf("/tables/%d/rows?revision=77", id), nil, 404, "revision 77"},
		{"GET", fmt.Sprintf("/tables/%d/rows?aside=1", id), nil, 422, "set no rows aside"},
		{"POST", "/books", answer{"name": "Terns"}, 422, "already"},
		{"POST", "/books", "{not json", 400, "invalid"},
		{"POST", "/books/1/uploads?name=a.csv", "", 422, "empty"},
		{"POST", "/books/1/uploads?name=a.csv", "PK\x03\x04", 422, "not a valid zip file"},
		{"POST", "/books/1/uploads?name=a.csv", "a,b\n1,\"2\n", 422, "never closed"},
		{"POST", "/books/7/uploads?name=a.csv", "a,b\n", 404, "book 7"},
		{"POST", "/books/1/joins/draft", answer{"name": "x", "left": answer{"table": id, "revision": 1}, "right": answer{"table": 99, "revision": 1},
			"on": []answer{{"left": "a", "right": "a"}}, "rows": "both"}, 404, "table 99"},
		{"GET", "/jobs/99", nil, 404, "job 99"},
	} {
		var p struct {
			Status              int
			Title, Detail, File string
			Remedy              string
		}
		if status := c.call(k.method, k.path, k.body, &p); status != k.status || p.Status != k.status || !strings.Contains(p.Detail, k.detail) || p.Title == "" {
			t.Errorf("%s %s: status %d, %+v", k.method, k.path, status, p)
		}
	}
	if left, err := os.ReadDir(c.uploads); err != nil || len(left) != 0 {
		t.Errorf("refused files stay: %v (%v)", left, err)
	}
}

// A file that turns out bad only when it is read whole fails its job with the row.
func TestJobTellsTheRow(t *testing.T) {
	c := serve(t)
	var up struct {
		ID      int64
		Preview struct{ How any }
	}
	text := "a,b\n" + strings.Repeat("one,two\n", 60_000) + "x,\"open\n"
	c.call("POST", "/books/1/uploads?name=late.csv", text, &up)
	var made []struct{ ID int64 }
	c.call("POST", "/books/1/bring-in", []answer{{"name": "late", "uploads": []int64{up.ID}, "how": up.Preview.How}}, &made)
	job := made[0]
	for deadline := time.Now().Add(time.Minute); ; time.Sleep(20 * time.Millisecond) {
		var now struct {
			State   string
			Problem struct {
				Detail, File, Column string
				Row                  int
			}
		}
		c.call("GET", fmt.Sprintf("/jobs/%d", job.ID), nil, &now)
		if now.State == "failed" {
			if p := now.Problem; p.Row != 60_001 || p.Column != "b" || p.File != "late.csv" {
				t.Errorf("the job says %+v", p)
			}
			break
		}
		if now.State == "done" || time.Now().After(deadline) {
			t.Fatalf("the job is %s", now.State)
		}
	}
	var contents struct{ Tables []any }
	if c.call("GET", "/books/1", nil, &contents); len(contents.Tables) != 0 {
		t.Error("a table was made of it all the same")
	}
}

func TestOnlyThisMachineAndOurPages(t *testing.T) {
	c := serve(t)
	try := func(host, origin, site string) int {
		req, _ := http.NewRequest("POST", c.url+"/api/books", strings.NewReader(`{"name":"x"}`))
		req.Header.Set("Content-Type", "application/json")
		if host != "" {
			req.Host = host
		}
		if origin != "" {
			req.Header.Set("Origin", origin)
		}
		if site != "" {
			req.Header.Set("Sec-Fetch-Site", site)
		}
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res.StatusCode
	}
	if got := try("ledger.example:80", "", ""); got != 403 {
		t.Errorf("under another host name: status %d", got)
	}
	if got := try("", "http://evil.example", ""); got != 403 {
		t.Errorf("from another site: status %d", got)
	}
	if got := try("", "", "cross-site"); got != 403 {
		t.Errorf("from a cross-site page: status %d", got)
	}
	if got := try("", "", "same-origin"); got != 201 {
		t.Errorf("from our own page: status %d", got)
	}
	res, err := http.Get(c.url + "/")
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if p := res.Header.Get("Content-Security-Policy"); !strings.Contains(p, "default-src 'self'") || !strings.Contains(p, "frame-ancestors 'none'") {
		t.Errorf("content security policy %q", p)
	}
}

// A name that looks like a path stays a name.
func TestFileNamesAreOnlyShown(t *testing.T) {
	c := serve(t)
	var up struct{ File string }
	c.call("POST", "/books/1/uploads?name=..%2F..%2Fetc%2Fpasswd", "a,b\n1,2\n", &up)
	if up.File != "passwd" {
		t.Errorf("shown as %q", up.File)
	}
	files, err := os.ReadDir(c.uploads)
	if err != nil || len(files) != 1 || !strings.HasPrefix(files[0].Name(), "upload-") {
		t.Errorf("stored as %v (%v)", files, err)
	}
}

func TestJoinAndCancel(t *testing.T) {
	c := serve(t)
	left := c.bringIn("landings", "no,vessel\n1,Tern\n2,Skua\n3,SKUA\n")
	right := c.bringIn("vessels", "name,port\nTern,PK\nSkua,SB\n")
	at := func(id int64) answer {
		var tab struct{ Revision int64 }
		c.call("GET", fmt.Sprintf("/tables/%d", id), nil, &tab)
		return answer{"table": id, "revision": tab.Revision}
	}
	spec := answer{"name": "both", "left": at(left), "right": at(right), "on": []answer{{"left": "vessel", "right": "name"}}, "rows": "both"}
	var drafted struct {
		Coverage      struct{ LeftMatched, Result int }
		UnmatchedLeft []struct{ Key, Near []string }
	}
	c.call("POST", "/books/1/joins/draft", spec, &drafted)
	if drafted.Coverage.Result != 2 || drafted.UnmatchedLeft[0].Near[0] != "Skua" {
		t.Errorf("drafted %+v", drafted)
	}
	var job struct{ ID int64 }
	c.call("POST", "/books/1/joins", spec, &job)
	made := c.finished(job.ID)
	var text string
	if c.call("GET", fmt.Sprintf("/tables/%d/publish", made), nil, &text); text != "no,vessel,port\n1,Tern,PK\n2,Skua,SB\n" {
		t.Errorf("drew %q", text)
	}
	// What the join left out is set aside by the opening and can be opened.
	if c.call("GET", fmt.Sprintf("/tables/%d/publish?aside=0", made), nil, &text); text != "no,vessel\n3,SKUA\n" {
		t.Errorf("left out %q", text)
	}
	var ended struct{ State string }
	if status := c.call("POST", fmt.Sprintf("/jobs/%d/cancel", job.ID), nil, &ended); status != 202 || ended.State != "done" {
		t.Errorf("cancelling a job that is done: status %d, %+v", status, ended)
	}
	var p answer
	if status := c.call("POST", "/books/1/joins", spec, &p); status != 422 {
		t.Errorf("a second table of the name: status %d, %v", status, p)
	}
}
