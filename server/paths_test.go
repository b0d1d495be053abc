package server_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// A file on the server's own disk is read where it lies and never removed; nothing leads
// out of the directories the operator allows.
func TestFilesByPath(t *testing.T) {
	c := serve(t)
	outside := filepath.Join(t.TempDir(), "secret.csv")
	inside := filepath.Join(c.files, "deliveries", "march.csv")
	for _, file := range []string{outside, inside} {
		if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(file, []byte("no,kg\n1,2\n"), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	for link, to := range map[string]string{"link.csv": outside, "up": filepath.Dir(outside)} {
		if err := os.Symlink(to, filepath.Join(c.files, link)); err != nil {
			t.Fatal(err)
		}
	}
	for path, says := range map[string]string{
		outside:                                   "may not be read",
		filepath.Join(c.files, "link.csv"):        "leads out",
		filepath.Join(c.files, "up/secret.csv"):   "leads out",
		c.files + "/../" + filepath.Base(outside): "may not be read",
		"march.csv":                               "not a whole path",
		filepath.Join(c.files, "april.csv"):       "there is no file",
		filepath.Join(c.files, "deliveries"):      "is not a file",
		"/proc/self/environ":                      "may not be read",
	} {
		var p struct{ Detail, Remedy string }
		if status := c.call("POST", "/books/1/paths", answer{"path": path}, &p); status != 422 || !strings.Contains(p.Detail, says) || p.Remedy == "" {
			t.Errorf("%s: status %d, %+v", path, status, p)
		}
	}
	var up struct {
		ID      int64
		File    string
		Preview struct{ How any }
	}
	if status := c.call("POST", "/books/1/paths", answer{"path": inside}, &up); status != 201 || up.File != "march.csv" {
		t.Fatalf("status %d, %+v", status, up)
	}
	ask := []answer{{"name": "a", "uploads": []int64{up.ID}, "how": up.Preview.How}, {"name": "b", "uploads": []int64{up.ID}, "how": up.Preview.How}}
	var made []struct{ ID int64 }
	if status := c.call("POST", "/books/1/bring-in", ask, &made); status != 202 || len(made) != 2 {
		t.Fatalf("status %d, %+v", status, made)
	}
	for _, j := range made {
		c.finished(j.ID)
	}
	if _, err := os.Stat(inside); err != nil {
		t.Errorf("the file of the server's own disk: %v", err)
	}
	if status := c.call("GET", "/uploads/1", nil, nil); status != 404 {
		t.Errorf("once both jobs have read it the upload is forgotten: status %d", status)
	}
	var p struct{ Detail string }
	ask[1]["name"] = "a"
	if status := c.call("POST", "/books/1/bring-in", ask[1:], &p); status == 202 {
		t.Errorf("a name that is taken: status %d", status)
	}
}

// Two tables of one received file: its bytes go when the last of the two has read them.
func TestOneFileForTwoTables(t *testing.T) {
	c := serve(t)
	var up struct {
		ID      int64
		Preview struct{ How any }
	}
	c.call("POST", "/books/1/uploads?name=a.csv", "no,kg\n1,2\n", &up)
	var made []struct{ ID int64 }
	c.call("POST", "/books/1/bring-in", []answer{{"name": "a", "uploads": []int64{up.ID}, "how": up.Preview.How}, {"name": "b", "uploads": []int64{up.ID}, "how": up.Preview.How}}, &made)
	for _, j := range made {
		c.finished(j.ID)
	}
	if left, err := os.ReadDir(c.uploads); err != nil || len(left) != 0 {
		t.Errorf("left behind: %v (%v)", left, err)
	}
}
