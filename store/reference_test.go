package store_test

import (
	"context"
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/join"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/core/text"
	"grandledger/store/storetest"
)

// Outside reference: PostgreSQL's own GROUP BY, DISTINCT ON and joins answer the same
// questions on the same rows, exactly.
func TestAgainstPostgreSQL(t *testing.T) {
	ctx := context.Background()
	conn := reference(t)
	r := rand.New(rand.NewPCG(91, 92))
	for round := range 25 {
		left, right := coretest.Table(r, 300, 3), coretest.Table(r, 120, 3)
		for name, tab := range map[string]*table.Table{"l": left, "r": right} {
			put(t, conn, name, tab)
		}
		for _, c := range left.Columns() {
			y := tally.New(left, c, tally.ByCount)
			var ours []string
			for _, line := range y.Lines(0, y.Len()) {
				ours = append(ours, fmt.Sprintf("%q %d", line.Value, line.Rows))
			}
			same(t, fmt.Sprintf("round %d, tally of %s", round, c.Name), ours,
				ask(t, conn, fmt.Sprintf(`select %[1]s, count(*) from l where %[1]s is not null group by 1 order by 2 desc, 1`, c.Name), 1))
		}
		// Rows without a key are kept, which DISTINCT ON would not do; they are asked for apart.
		kept, _, _ := duplicate.Find(left, duplicate.Exactly(left.Columns()[:2]), false).Split(left, duplicate.Rule{})
		var ours []string
		for _, base := range kept.Rows {
			ours = append(ours, fmt.Sprint(base))
		}
		hasKey := `(trim(coalesce(a, '')) <> '' or trim(coalesce(b, '')) <> '')`
		same(t, fmt.Sprintf("round %d, rows kept", round), ours, ask(t, conn, `select row from (
			select row from (select distinct on (a, b) row from l where `+hasKey+` order by a, b, row) d
			union all select row from l where not `+hasKey+`) k order by row`, 0))

		// The window functions of PostgreSQL answer what stays otherwise: the largest number of a column
		// of each group folded by case, its repeats, and what repeats nothing.
		numbers := make([]string, left.Rows())
		for i := range numbers {
			numbers[i] = fmt.Sprint(r.IntN(40) - 20)
		}
		res0, err := entry.Apply(ctx, &entry.Beside{From: "x", Columns: []entry.BesideColumn{{Name: "n", Cells: numbers}}}, left, entry.Inputs{})
		if err != nil {
			t.Fatal(err)
		}
		n := *res0.Table.Columns()[3]
		n.Name = "c"
		n.Reading = reading.Plain(reading.Number)
		numbered, err := left.WithColumns([]*table.Column{left.Columns()[0], left.Columns()[1], &n})
		if err != nil {
			t.Fatal(err)
		}
		put(t, conn, "l2", numbered)
		for only, where := range map[duplicate.Only]string{duplicate.OneEach: "best = 1", duplicate.Repeats: "size > 1", duplicate.Firsts: "size > 1 and best = 1", duplicate.Unique: "size = 1"} {
			kept, _, _ := duplicate.Find(numbered, duplicate.Exactly(left.Columns()[1:2]), true).Split(numbered, duplicate.Rule{Choices: []duplicate.Choice{{Keep: duplicate.Highest, By: &n}}, Only: only})
			ours = nil
			for _, base := range kept.Rows {
				ours = append(ours, fmt.Sprint(base))
			}
			same(t, fmt.Sprintf("round %d, %q", round, only), ours, ask(t, conn, `select row from (select row, count(*) over (partition by k) size, row_number() over (partition by k order by c::int desc, row) best
				from (select *, case when trim(coalesce(b, '')) = '' then 'none' || row else '=' || b end k from l2) x) y where `+where+` order by row`, 0))
		}

		for rows, sql := range map[join.Rows]string{join.Both: "inner", join.Left: "left", join.Right: "right", join.All: "full"} {
			m, err := join.Find(join.Side{Table: left, Name: "l"}, join.Side{Table: right, Name: "r"},
				join.Spec{On: []join.On{{Left: "a", Right: "a"}, {Left: "c", Right: "b"}}, Rows: rows,
					Left: []join.Bring{{Column: "a", As: "1"}, {Column: "b", As: "2"}}, Right: []join.Bring{{Column: "c", As: "3"}}})
			if err != nil {
				t.Fatal(err)
			}
			res, err := m.Result(ctx)
			if err != nil {
				t.Fatal(err)
			}
			var ours []string
			for _, row := range coretest.Rows(res.Table) {
				ours = append(ours, strings.Join(row, "|"))
			}
			slices.Sort(ours)
			theirs := ask(t, conn, `select coalesce(l.a, '∅') || '|' || coalesce(l.b, '∅') || '|' || coalesce(r.c, '∅') from l `+sql+
				` join r on l.a = r.a and l.c = r.b and (trim(l.a) <> '' or trim(l.c) <> '')`, 0)
			slices.Sort(theirs)
			same(t, fmt.Sprintf("round %d, %s join", round, sql), ours, theirs)
		}
	}
}

// reference opens a database to ask the same questions.
func reference(t *testing.T) *pgx.Conn {
	t.Helper()
	conn, err := pgx.Connect(context.Background(), strings.Replace(storetest.Database(t), "&pool_max_conns=20", "", 1))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { conn.Close(context.Background()) })
	return conn
}

// put makes a table of PostgreSQL with the rows of ours and their numbers.
func put(t *testing.T, conn *pgx.Conn, name string, tab *table.Table) {
	t.Helper()
	ctx := context.Background()
	if _, err := conn.Exec(ctx, fmt.Sprintf(`drop table if exists %[1]s; create table %[1]s (row int, a text, b text, c text)`, name)); err != nil {
		t.Fatal(err)
	}
	_, err := conn.CopyFrom(ctx, pgx.Identifier{name}, []string{"row", "a", "b", "c"}, pgx.CopyFromSlice(tab.Rows(), func(i int) ([]any, error) {
		out := []any{i}
		for _, c := range tab.Columns() {
			if v, ok := c.Value(tab.BaseRow(i)); ok {
				out = append(out, v)
			} else {
				out = append(out, nil)
			}
		}
		return out, nil
	}))
	if err != nil {
		t.Fatal(err)
	}
}

// ask gives the rows of an answer as text; with quoted 1 the first column is quoted.
func ask(t *testing.T, conn *pgx.Conn, sql string, quoted int) []string {
	t.Helper()
	rows, err := conn.Query(context.Background(), sql)
	if err != nil {
		t.Fatal(err)
	}
	out, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (string, error) {
		values, err := row.Values()
		if err != nil {
			return "", err
		}
		if quoted == 1 {
			values[0] = fmt.Sprintf("%q", values[0])
		}
		return strings.TrimSuffix(fmt.Sprintln(values...), "\n"), nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func same(t *testing.T, what string, ours, theirs []string) {
	t.Helper()
	if !slices.Equal(ours, theirs) {
		t.Fatalf("%s:\nours   %q\ntheirs %q", what, ours, theirs)
	}
}

// Outside reference: PostgreSQL's numeric sums, means, medians and extremes by a category, to
// the last decimal.
func TestMeasuresAgainstPostgreSQL(t *testing.T) {
	ctx := context.Background()
	conn := reference(t)
	r := rand.New(rand.NewPCG(15, 3))
	for round := range 12 {
		rows := [][]string{{"a", "b", "c"}}
		for range 1 + r.IntN(400) {
			number := fmt.Sprintf("%d.%0*d", r.IntN(2_000_000)-1_000_000, 1+r.IntN(4), r.IntN(10))
			switch r.IntN(12) {
			case 0:
				number = "n/a"
			case 1:
				number = ""
			case 2:
				number = fmt.Sprint(r.Int64N(1 << 40))
			}
			rows = append(rows, []string{coretest.Pieces[r.IntN(9)], "", number})
		}
		left := coretest.Build(rows...)
		put(t, conn, "l", left)
		if err := measuresAgainst(ctx, conn, left); err != nil {
			t.Errorf("round %d: %v", round, err)
		}
	}
}

func measuresAgainst(ctx context.Context, conn *pgx.Conn, left *table.Table) error {
	said := *left.Columns()[2]
	said.Reading = reading.Reading{Kind: reading.Number, Decimal: "."}
	left = left.With(2, &said)
	measures := []tally.Measure{{Column: "c", Of: tally.Sum}, {Column: "c", Of: tally.Mean}, {Column: "c", Of: tally.Median}, {Column: "c", Of: tally.High}}
	got, err := tally.MeasuresBy(left, left.Columns()[0], measures, 1000)
	if err != nil {
		return err
	}
	for _, l := range got.Lines {
		var sum, mean, median, high *string
		// Plain numbers alone, as the reading has no mark between thousands.
		err := conn.QueryRow(ctx, `select sum(n)::text, round(avg(n), 6)::text, percentile_disc(0.5) within group (order by n)::text, max(n)::text
			from (select trim(c)::numeric as n from l where coalesce(a, '') = $1 and trim(c) ~ '^[+-]?[0-9]+(\.[0-9]+)?$') numbers`, l.Value).Scan(&sum, &mean, &median, &high)
		if err != nil {
			return err
		}
		for i, want := range []*string{sum, mean, median, high} {
			if (want == nil) != (l.Figures[i] == nil) {
				return fmt.Errorf("%q: %v, PostgreSQL has %v", l.Value, l.Written, want)
			}
			if want == nil {
				continue
			}
			ours, _ := new(big.Rat).SetString(l.Written[i])
			theirs, _ := new(big.Rat).SetString(*want)
			if i != 1 && ours.Cmp(theirs) != 0 || i == 1 && ours.Sub(ours, theirs).Abs(ours).Cmp(big.NewRat(1, 50)) > 0 {
				return fmt.Errorf("%s of %q: %s, PostgreSQL has %s", measures[i].Of, l.Value, l.Written[i], *want)
			}
		}
	}
	return nil
}

// Outside reference: fuzzystrmatch of PostgreSQL 15 on names and slips of them. Known differences: its soundex lets H and W
// separate equal codes, so that words with these letters are passed over; it looks at bytes, so that they are of ASCII.
func TestTextAgainstPostgreSQL(t *testing.T) {
	conn := reference(t)
	if _, err := conn.Exec(context.Background(), `create extension if not exists fuzzystrmatch`); err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(61, 62))
	var pairs [][2]string
	last := "port"
	for range 3000 {
		w := make([]byte, 1+r.IntN(14))
		for i := range w {
			w[i] = "abcdefgiklmnoprstuvz"[r.IntN(20)]
		}
		if r.IntN(2) == 0 {
			w = []byte(last)
			w[r.IntN(len(w))] = "aeiou"[r.IntN(5)]
		}
		pairs = append(pairs, [2]string{last, string(w)})
		last = string(w)
	}
	var ours []string
	var a, b []string
	for _, p := range pairs {
		a, b = append(a, p[0]), append(b, p[1])
		ours = append(ours, fmt.Sprint(text.Levenshtein(p[0], p[1]), " ", text.Soundex(p[0])))
	}
	rows, err := conn.Query(context.Background(), `select levenshtein(x, y) || ' ' || soundex(x) from unnest($1::text[], $2::text[]) with ordinality as p(x, y, n) order by n`, a, b)
	if err != nil {
		t.Fatal(err)
	}
	theirs, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		t.Fatal(err)
	}
	same(t, "distances and codes of 3,000 pairs", ours, theirs)
}
