package jobs_test

import (
	"context"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"grandledger/core/linkage"
	"grandledger/core/table"
	"grandledger/jobs"
	"grandledger/store"
)

// people are records of invented people, every third one twice with a slip.
func people(n int) string {
	var b strings.Builder
	b.WriteString("given name,surname,born,phone\n")
	parts := []string{"ka", "lo", "mer", "tin", "sha", "vor", "bel", "dun", "ri", "os", "an", "pet", "gul", "har", "wes"}
	for i := range n {
		given, surname := parts[i%15]+parts[i/15%15]+parts[i%7], parts[i%13]+parts[i/13%15]+parts[(i*i+3)%15]
		fmt.Fprintf(&b, "%s,%s,%d-%02d-%02d,0%06d\n", given, surname, 1940+i%60, 1+i%12, 1+i%28, i*7919%999983)
		if i%3 == 0 {
			fmt.Fprintf(&b, "%s,%s,%d-%02d-%02d,\n", given[1:], surname, 1940+i%60, 1+i%12, 1+i%28)
		}
	}
	return b.String()
}

// helper is another process's queue, which works on shards alone.
func (b *bench) helper(name string) *jobs.Queue {
	b.t.Helper()
	q, err := jobs.Open(context.Background(), b.s, jobs.Options{Helper: name, ShardRecords: 100})
	if err != nil {
		b.t.Fatal(err)
	}
	return q
}

// A linkage in the background: two helpers share its shards, one that took a shard and was never heard of again loses nothing, a second request gives the same job, and the
// result is that of linking at once. One that is cancelled does no more, and can be started anew.
func TestLinkInTheBackground(t *testing.T) {
	ctx := context.Background()
	b := open(t)
	b.start(b.q)
	made := b.end(b.bringIn("people", people(900)).ID)
	b.q.Stop(ctx)
	tab, err := b.s.Table(ctx, made.Table)
	if err != nil {
		t.Fatal(err)
	}
	l, err := b.s.AddLinkage(ctx, b.book, "People", []int64{made.Table})
	if err != nil {
		t.Fatal(err)
	}
	if b.q, err = jobs.Open(ctx, b.s, jobs.Options{ShardRecords: 100}); err != nil {
		t.Fatal(err)
	}
	run := store.LinkageRun{Linkage: l.ID, Spec: linkage.Spec{}, Revisions: []int64{tab.Head}}
	link := func(key string) jobs.Job {
		t.Helper()
		j, err := b.q.Link(ctx, b.book, "People", run, key, made.Rows)
		if err != nil {
			t.Fatal(err)
		}
		return j
	}
	// Nobody works yet: cancelled, then asked for again.
	first := link("one way")
	if again := link("one way"); again.ID != first.ID {
		t.Errorf("asked for twice, it is job %d and %d", first.ID, again.ID)
	}
	if _, err := b.q.Cancel(ctx, first.ID); err != nil {
		t.Fatal(err)
	}
	second := link("one way")
	if second.ID == first.ID {
		t.Fatal("what was cancelled was not begun anew")
	}
	r, whole, err := b.s.RunOf(ctx, l.ID, "one way")
	if err != nil || whole {
		t.Fatal(whole, err)
	}
	// A worker takes a shard and is killed: its shard was last heard of long ago.
	if ok, err := b.s.TakeShard(ctx, r.ID, 3, "killed"); err != nil || !ok {
		t.Fatal(ok, err)
	}
	if _, err := b.s.Pool.Exec(ctx, `update linkage_part set beat = now() - interval '1 hour' where run_id = $1 and shard = 3`, r.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := b.s.Pool.Exec(ctx, `delete from river_job where kind = 'shard' and (args->>'shard')::int = 3`); err != nil {
		t.Fatal(err)
	}
	one, two := b.helper("one"), b.helper("two")
	b.start(one)
	b.start(two)
	b.start(b.q)
	if j := b.end(second.ID); j.State != jobs.Done {
		t.Fatalf("%+v", j)
	}
	var workers, done int
	if err := b.s.Pool.QueryRow(ctx, `select count(distinct worker), count(body) from linkage_part where run_id = $1`, r.ID).Scan(&workers, &done); err != nil {
		t.Fatal(err)
	}
	if want := 1 + made.Rows/100; workers < 2 || done != want {
		t.Errorf("%d of %d shards by %d workers", done, want, workers)
	}
	plan, loaded, err := b.q.Plan(ctx, r.ID)
	if err != nil {
		t.Fatal(err)
	}
	parts, err := b.s.Parts(ctx, r.ID)
	if err != nil {
		t.Fatal(err)
	}
	got, err := plan.Finish(ctx, parts, nil)
	if err != nil {
		t.Fatal(err)
	}
	want, err := linkage.Link(ctx, []*table.Table{loaded[0].Table}, linkage.Spec{})
	if err != nil {
		t.Fatal(err)
	}
	if !reflect.DeepEqual(got.Pairs, want.Pairs) || !reflect.DeepEqual(got.Clusters, want.Clusters) || len(want.Clusters) < 250 {
		t.Errorf("%d pairs and %d clusters, at once %d and %d", len(got.Pairs), len(got.Clusters), len(want.Pairs), len(want.Clusters))
	}
	// Two other ways to do it push the first one out.
	for _, key := range []string{"another way", "a third"} {
		if j := b.end(link(key).ID); j.State != jobs.Done {
			t.Fatalf("%+v", j)
		}
	}
	if _, _, err := b.s.RunOf(ctx, l.ID, "one way"); err == nil {
		t.Error("three runs are kept")
	}
	if _, whole, err := b.s.RunOf(ctx, l.ID, "another way"); err != nil || !whole {
		t.Error(whole, err)
	}
}
