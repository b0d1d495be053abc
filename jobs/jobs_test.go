package jobs_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"grandledger/core/coretest"
	"grandledger/core/join"
	"grandledger/formats"
	"grandledger/formats/csv"
	"grandledger/jobs"
	"grandledger/store"
	"grandledger/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// bench is a store with a book, and a queue that does not work until it is started.
type bench struct {
	t    *testing.T
	s    *store.Store
	q    *jobs.Queue
	book int64
}

func open(t *testing.T) *bench {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, storetest.Database(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	b, err := s.CreateBook(ctx, "Terns")
	if err != nil {
		t.Fatal(err)
	}
	return &bench{t, s, queue(t, s), b.ID}
}

func queue(t *testing.T, s *store.Store) *jobs.Queue {
	t.Helper()
	q, err := jobs.Open(context.Background(), s, jobs.Options{})
	if err != nil {
		t.Fatal(err)
	}
	return q
}

func (b *bench) start(q *jobs.Queue) {
	b.t.Helper()
	if err := q.Start(context.Background()); err != nil {
		b.t.Fatal(err)
	}
	b.t.Cleanup(func() { q.Stop(context.Background()) })
}

// how is that of the texts the tests bring in.
var how = formats.How{Format: formats.Delimited, Text: &csv.Dialect{Encoding: "utf-8", Delimiter: ",", Quote: `"`, Names: 1}}

// bringIn queues the reading of a text.
func (b *bench) bringIn(name, text string) jobs.Job {
	b.t.Helper()
	path := filepath.Join(b.t.TempDir(), "file")
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		b.t.Fatal(err)
	}
	u, err := b.s.AddUpload(context.Background(), store.Upload{BookID: b.book, File: name + ".csv", Path: path, Bytes: int64(len(text)), Own: true})
	if err != nil {
		b.t.Fatal(err)
	}
	made, err := b.q.BringIn(context.Background(), b.book, []jobs.BringInArgs{{Uploads: []int64{u.ID}, Name: name, How: how}})
	if err != nil {
		b.t.Fatal(err)
	}
	return made[0]
}

// end waits until a job has ended.
func (b *bench) end(id int64) jobs.Job {
	b.t.Helper()
	for deadline := time.Now().Add(time.Minute); ; time.Sleep(20 * time.Millisecond) {
		j, err := b.q.Get(context.Background(), id)
		if err != nil {
			b.t.Fatal(err)
		}
		if j.State != jobs.Waiting && j.State != jobs.Working {
			return j
		}
		if time.Now().After(deadline) {
			b.t.Fatalf("the job is still %s", j.State)
		}
	}
}

func TestBringInThenDraw(t *testing.T) {
	b := open(t)
	b.start(b.q)
	ctx := context.Background()
	left := b.end(b.bringIn("landings", "no,vessel\n1,Tern\n2,Skua\n").ID)
	right := b.end(b.bringIn("vessels", "vessel,port\nTern,PK\n").ID)
	if left.State != jobs.Done || left.Rows != 2 || left.Done != left.Total {
		t.Fatalf("ended as %+v", left)
	}
	args := jobs.DrawArgs{Book: b.book, Name: "both", LeftTable: left.Table, RightTable: right.Table,
		Spec: join.Spec{On: []join.On{{Left: "vessel", Right: "vessel"}}, Rows: join.Left}}
	for id, revision := range map[int64]*int64{left.Table: &args.LeftRevision, right.Table: &args.RightRevision} {
		tab, err := b.s.Table(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		*revision = tab.Head
	}
	first, err := b.q.Draw(ctx, "one-key", args)
	if err != nil {
		t.Fatal(err)
	}
	again, err := b.q.Draw(ctx, "one-key", args)
	if err != nil || again.ID != first.ID {
		t.Errorf("the same request again is job %d, was %d (%v)", again.ID, first.ID, err)
	}
	drawn := b.end(first.ID)
	l, err := b.s.Table(ctx, drawn.Table)
	if err != nil {
		t.Fatal(err)
	}
	loaded, err := b.s.Load(ctx, l.Head)
	if err != nil || !strings.Contains(coretest.Text(loaded.Table), `["2" "Skua" "∅"]`) || !l.Consolidated {
		t.Errorf("drew %+v:\n%s (%v)", l, coretest.Text(loaded.Table), err)
	}
	if l.Source != "Drew landings and vessels together on vessel, keeping all rows of landings" {
		t.Errorf("the journal says %q", l.Source)
	}
	list, err := b.q.List(ctx, b.book)
	if err != nil || len(list) != 3 || list[0].ID != drawn.ID {
		t.Errorf("listed %+v (%v)", list, err)
	}
}

// Two files under one name at once: one becomes the table, the other is told.
func TestOneNameTwice(t *testing.T) {
	b := open(t)
	one, two := b.bringIn("landings", "a\n1\n"), b.bringIn("landings", "a\n2\n")
	b.start(b.q)
	states := map[jobs.State]int{}
	for _, j := range []jobs.Job{b.end(one.ID), b.end(two.ID)} {
		states[j.State]++
		if j.State == jobs.Failed && (j.Problem == nil || !strings.Contains(j.Problem.What, "already") || j.Problem.Remedy == "") {
			t.Errorf("it was told %+v", j.Problem)
		}
	}
	if states[jobs.Done] != 1 || states[jobs.Failed] != 1 {
		t.Errorf("they ended as %v", states)
	}
}

// A job that was running when its process was killed is taken up by the next start.
func TestInterruptedJobIsTakenUp(t *testing.T) {
	b := open(t)
	j := b.bringIn("landings", "a\n1\n")
	// As a killed process leaves it behind.
	_, err := b.s.Pool.Exec(context.Background(), `update river_job set state = 'running', attempt = 1, attempted_at = now(), attempted_by = array['grandledger'] where id = $1`, j.ID)
	if err != nil {
		t.Fatal(err)
	}
	b.start(queue(t, b.s))
	if got := b.end(j.ID); got.State != jobs.Done || got.Table == 0 {
		t.Errorf("it ended as %+v", got)
	}
}

// A received file that has gone is said, and a waiting job can be cancelled.
func TestGoneAndCancelled(t *testing.T) {
	b := open(t)
	gone, waiting := b.bringIn("gone", "a\n1\n"), b.bringIn("waiting", "a\n1\n")
	var path string
	if err := b.s.Pool.QueryRow(context.Background(), `select path from upload where file_name = 'gone.csv'`).Scan(&path); err != nil {
		t.Fatal(err)
	}
	if err := os.Remove(path); err != nil {
		t.Fatal(err)
	}
	if j, err := b.q.Cancel(context.Background(), waiting.ID); err != nil || j.State != jobs.Cancelled {
		t.Errorf("cancelled: %+v (%v)", j, err)
	}
	b.start(b.q)
	if j := b.end(gone.ID); j.State != jobs.Failed || !strings.Contains(j.Problem.What, "no longer there") {
		t.Errorf("without its file it ended as %+v", j)
	}
	if j := b.end(waiting.ID); j.State != jobs.Cancelled || j.Table != 0 {
		t.Errorf("the cancelled one is %+v", j)
	}
}
