package store_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/jackc/pgx/v5"

	"grandledger/core/coretest"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/store"
	"grandledger/store/storetest"
)

// journey is a table that entries are posted on, reversed, amended and refreshed in any
// order.
type journey struct {
	t  *testing.T
	s  *store.Store
	r  *rand.Rand
	id int64
	n  int // requests so far, for their keys

	aparts []string // tables that rows were taken apart into
}

func (j *journey) key() string {
	j.n++
	return fmt.Sprintf("journey-%d-%d", j.id, j.n)
}

// draw makes a random entry.
func (j *journey) draw(at store.Table) (kind, params string) {
	column := at.Columns[j.r.IntN(len(at.Columns))]
	kinds := [][2]string{
		{"tidy", fmt.Sprintf(`{"columns":[%q],"steps":[{"op":%q}]}`, column, []string{"trim", "upper", "accents", "footnotes"}[j.r.IntN(4)])},
		{"tidy", fmt.Sprintf(`{"columns":[%q],"steps":[{"op":"lower"}],"where":{"op":"contains","text":"net"}}`, column)},
		{"duplicates", fmt.Sprintf(`{"key":[%q,%q],"keep":"last"}`, column, at.Columns[0])},
		{"return", fmt.Sprintf(`{"entry":%d}`, 1+j.r.IntN(max(at.Next, 1)))},
		{"rows", fmt.Sprintf(`{"holding":{"op":"contains","column":%q,"text":"w"},"keep":false}`, column)},
		{"fill", fmt.Sprintf(`{"columns":[%q],"with":"above"}`, column)},
		{"reading", fmt.Sprintf(`{"column":%q,"reading":{"kind":"code"}}`, column)},
		{"split", fmt.Sprintf(`{"column":%q,"by":"marks","marks":[" "],"take":"first"}`, column)},
		{"split", fmt.Sprintf(`{"column":%q,"by":"marks","marks":[" "],"rows":true}`, column)},
		{"formula", fmt.Sprintf(`{"formula":"upper(text(a))","name":"made %d"}`, j.n)},
		{"values", fmt.Sprintf(`{"column":%q,"changes":[{"from":"Trawl","to":"Bottom trawl"}],"crosswalk":"gear"}`, column)},
	}
	kinds = append(kinds, [2]string{"merge", fmt.Sprintf(`{"key":[%q],"as":{%q:"folded"},"others":%q}`, column, column, []string{"first", "longest", "join-distinct", "count"}[j.r.IntN(4)])})
	if len(j.aparts) > 0 {
		putBack := fmt.Sprintf(`{"table":%q,"behind":%v}`, j.aparts[j.r.IntN(len(j.aparts))], j.r.IntN(2) == 0)
		kinds = append(kinds, [2]string{"putback", putBack}, [2]string{"putback", putBack})
	}
	k := kinds[j.r.IntN(len(kinds))]
	return k[0], k[1]
}

// post posts a random entry.
func (j *journey) post(at store.Table) error {
	kind, params := j.draw(at)
	_, err := j.s.Post(context.Background(), j.key(), j.id, at.Head, kind, []byte(params))
	return err
}

// step does one thing to the journal; a refusal is fine, anything else is not.
func (j *journey) step() {
	j.t.Helper()
	ctx := context.Background()
	at, err := j.s.Table(ctx, j.id)
	if err != nil {
		j.t.Fatal(err)
	}
	number := 1 + j.r.IntN(max(at.Next, 1))
	switch what := j.r.IntN(13); {
	case what < 6:
		err = j.post(at)
	case what == 6:
		_, err = j.s.Reverse(ctx, j.key(), j.id, at.Head, 0)
	case what == 7:
		_, err = j.s.Reverse(ctx, j.key(), j.id, at.Head, number)
	case what == 8:
		_, err = j.s.Repost(ctx, j.key(), j.id, number, at.Head, j.r.IntN(2) == 0)
	case what < 11:
		err = j.amend(at)
	case what == 11:
		err = j.apart(at, number)
	default:
		err = j.refresh(at)
	}
	var p *problem.Problem
	if err != nil && !errors.As(err, &p) {
		j.t.Fatal(err)
	}
}

// apart takes the rows that an entry set aside apart, and works on them.
func (j *journey) apart(at store.Table, number int) error {
	ctx := context.Background()
	asides, _ := j.s.Pool.Query(ctx, `select number from entry where table_id = $1 and state = 'posted' and aside_part is not null and kind <> 'refresh'`, j.id)
	if numbers, err := pgx.CollectRows(asides, pgx.RowTo[int]); err != nil {
		return err
	} else if len(numbers) > 0 {
		number = numbers[j.r.IntN(len(numbers))]
	}
	made, err := j.s.Copy(ctx, j.key(), at.BookID, store.Copying{Table: j.id, Revision: at.Head, Aside: number, Name: fmt.Sprintf("apart %d %d", j.id, j.n)})
	if err != nil {
		return err
	}
	j.aparts = append(j.aparts, made.Name)
	for _, e := range [][2]string{{"tidy", `{"columns":["a"],"steps":[{"op":"upper"}]}`}, {"split", `{"column":"b","by":"marks","marks":[" "],"rows":true}`}} {
		_, err := j.s.Post(ctx, j.key(), made.ID, made.Head, e[0], []byte(e[1]))
		var p *problem.Problem
		if err != nil && !errors.As(err, &p) {
			return err
		}
		if made, err = j.s.Table(ctx, made.ID); err != nil {
			return err
		}
	}
	if j.r.IntN(3) == 0 {
		return nil // put back later, or never
	}
	_, err = j.s.Post(ctx, j.key(), j.id, at.Head, "putback", []byte(fmt.Sprintf(`{"table":%q}`, made.Name)))
	return err
}

// taken gives a table that rows were taken apart into, as it was put back.
func (j *journey) taken(name string, revision int64) (*table.Table, int64, int, error) {
	ctx := context.Background()
	var base int
	err := j.s.Pool.QueryRow(ctx, `select (e.params->>'base')::int from entry e join stewarded_table t on t.id = e.table_id where t.name = $1 and e.number = 0`, name).Scan(&base)
	if err != nil {
		return nil, 0, 0, err
	}
	l, err := j.s.Load(ctx, revision)
	if err != nil {
		return nil, 0, 0, err
	}
	return l.Table, revision, base, nil
}

func (j *journey) amend(at store.Table) error {
	ctx := context.Background()
	since, err := j.s.Amendable(ctx, j.id)
	if err != nil {
		return err
	}
	var steps []store.AmendStep
	for _, i := range j.r.Perm(len(since)) {
		step := store.AmendStep{Entry: since[i].Number}
		switch kind, params := j.draw(at); {
		case j.r.IntN(4) == 0:
			continue // switched off
		case j.r.IntN(6) == 0:
			steps = append(steps, store.AmendStep{Entry: -1 - i, Kind: kind, Params: []byte(params)})
		case kind == since[i].Kind:
			step.Kind, step.Params = kind, []byte(params)
		}
		steps = append(steps, step)
	}
	a, err := j.s.Amend(ctx, j.id, at.Head, steps)
	if err != nil {
		return err
	}
	_, err = j.s.PostAmendment(ctx, j.key(), j.id, a)
	return err
}

func (j *journey) refresh(at store.Table) error {
	ctx := context.Background()
	err := pgx.BeginFunc(ctx, j.s.Pool, func(tx pgx.Tx) error {
		_, err := j.s.KeepDelivery(ctx, tx, j.id, coretest.Table(j.r, 30, 3), map[string]any{"files": []string{"next"}}, nil)
		return err
	})
	if err != nil {
		return err
	}
	leaveOut := map[int]bool{}
	r, err := j.s.Replay(ctx, j.id, at.Head, nil, nil)
	if err != nil {
		return err
	}
	for i, was := range r.Was {
		leaveOut[was.Number] = r.Now[i].Problem != nil
	}
	if r, err = j.s.Replay(ctx, j.id, at.Head, nil, leaveOut); err != nil {
		return err
	}
	balance := entry.Balance{Before: r.Last.Table.Rows(), Added: r.Source.Rows(), SetAside: r.Last.Table.Rows(), After: r.Source.Rows()}
	_, err = j.s.PostDelivery(ctx, j.key(), j.id, r, "Refreshed", balance, &table.Selection{})
	return err
}

// hold looks whether the posted entries lead, one to the next, from the opening to the table
// that stands; whether each balances; and whether doing those since the last delivery again
// gives that table.
func (j *journey) hold() {
	j.t.Helper()
	ctx := context.Background()
	at, err := j.s.Table(ctx, j.id)
	if err != nil {
		j.t.Fatal(err)
	}
	rows, _ := j.s.Pool.Query(ctx, `select number, kind, params::text, before, after, effect from entry where table_id = $1 and state = 'posted' order by number`, j.id)
	type posted struct {
		Number int
		Kind   string
		Params string
		Before *int64
		After  int64
		Effect entry.Effect
	}
	chain, err := pgx.CollectRows(rows, pgx.RowToStructByPos[posted])
	if err != nil {
		j.t.Fatal(err)
	}
	head := chain[0].After
	from := head
	var steps []entry.Step
	for _, e := range chain[1:] {
		// A delivery or an amendment follows on entries that it superseded; an amendment leads
		// back to where the last one that stands before it led.
		follows := e.Before != nil && *e.Before == head
		if e.Kind == "refresh" {
			follows = true
		} else if e.Kind == "amend" {
			follows = e.After == head
		}
		if !follows {
			j.t.Fatalf("entry %d does not follow on the one before it: %+v", e.Number, chain)
		}
		head = e.After
		l, err := j.s.Load(ctx, head)
		if err != nil {
			j.t.Fatal(err)
		}
		if err := e.Effect.Balance.Check(l.Table.Rows()); err != nil {
			j.t.Fatalf("entry %d: %v", e.Number, err)
		}
		switch e.Kind {
		case "refresh":
			from, steps = head, nil
		case "amend": // leads back; the entries it took back stand no longer
		default:
			steps = append(steps, entry.Step{Number: e.Number, Kind: e.Kind, Params: []byte(e.Params)})
		}
	}
	if head != at.Head {
		j.t.Fatalf("the journal leads to revision %d, %d stands", head, at.Head)
	}
	source, err := j.s.Load(ctx, from)
	if err != nil {
		j.t.Fatal(err)
	}
	outcomes, result, err := entry.Replay(ctx, source.Table, steps, entry.Inputs{Taken: j.taken})
	if err != nil {
		j.t.Fatal(err)
	}
	for i, o := range outcomes {
		if o.Problem != nil {
			j.t.Fatalf("entry %d stands and cannot be done again: %v", steps[i].Number, o.Problem)
		}
	}
	stands, err := j.s.Load(ctx, at.Head)
	if err != nil {
		j.t.Fatal(err)
	}
	if got, want := coretest.Text(result), coretest.Text(stands.Table); got != want {
		j.t.Fatalf("done again:\n%s\nstands:\n%s", got, want)
	}
}

// Whatever is posted, reversed, posted again, amended and refreshed, in whatever order, the
// journal that stands leads to the table that stands.
func TestJourneys(t *testing.T) {
	s := open(t, storetest.Database(t))
	for seed := range uint64(12) {
		r := rand.New(rand.NewPCG(seed, 77))
		tab := coretest.Table(r, 30, 3)
		for tab.Rows() == 0 {
			tab = coretest.Table(r, 30, 3)
		}
		j := &journey{t: t, s: s, r: r, id: keep(t, s, tab, fmt.Sprint("journey ", seed))}
		for range 40 {
			j.step()
			j.hold()
		}
	}
	for _, kind := range []string{"merge", "putback"} {
		var n int
		if err := s.Pool.QueryRow(context.Background(), `select count(*) from entry where kind = $1`, kind).Scan(&n); err != nil || n < 5 {
			t.Errorf("%s was posted %d times (%v)", kind, n, err)
		}
	}
}
