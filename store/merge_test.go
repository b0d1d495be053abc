package store_test

import (
	"context"
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/reading"
	"grandledger/core/survivorship"
)

// Outside reference: PostgreSQL's aggregates make the same value of every group by every rule:
// texts to the letter, numbers to the last decimal.
func TestMergeAgainstPostgreSQL(t *testing.T) {
	ctx := context.Background()
	conn := reference(t)
	r := rand.New(rand.NewPCG(17, 4))
	merged := 0
	for round := range 30 {
		rows := [][]string{{"a", "b", "c"}}
		for range 2 + r.IntN(200) {
			number := fmt.Sprintf("%d.%02d", r.IntN(2000)-1000, 25*r.IntN(4))
			switch r.IntN(12) {
			case 0:
				number = ""
			case 1:
				number = fmt.Sprint(r.Int64N(1 << 50))
			case 2:
				number = "7.00"
			}
			if round%5 == 0 {
				number = fmt.Sprintf("%s%018d", number, 5) // beyond 64 bits
				number = strings.Replace(number, ".", "", 1)
			}
			rows = append(rows, []string{coretest.Pieces[r.IntN(1+round)%9], coretest.Pieces[r.IntN(23)], number})
		}
		tab := coretest.Build(rows...)
		c := *tab.Columns()[2]
		c.Reading = reading.Reading{Kind: reading.Number, Decimal: "."}
		tab = tab.With(2, &c)
		put(t, conn, "l", tab)
		for rule, sql := range map[survivorship.Rule]string{
			survivorship.First:         `(array_agg(v order by row) filter (where v is not null))[1]`,
			survivorship.Last:          `(array_agg(v order by row desc) filter (where v is not null))[1]`,
			survivorship.Longest:       `(array_agg(v order by char_length(v) desc, row) filter (where v is not null))[1]`,
			survivorship.Frequent:      `(array_agg(v order by n desc, f) filter (where v is not null))[1]`,
			survivorship.Smallest:      `min(v::numeric)::text`,
			survivorship.Largest:       `max(v::numeric)::text`,
			survivorship.Sum:           `sum(v::numeric)::text`,
			survivorship.Mean:          `(sum(v::numeric)::numeric(80, 40) / nullif(count(v), 0))::text`,
			survivorship.Median:        `((percentile_disc(0.5) within group (order by v::numeric) + percentile_disc(0.5) within group (order by v::numeric desc)) / 2)::text`,
			survivorship.Count:         `count(v)::text`,
			survivorship.CountDistinct: `count(distinct v)::text`,
			survivorship.Join:          `string_agg(v, ' | ' order by row)`,
			survivorship.JoinDistinct:  `string_agg(v, ' | ' order by row) filter (where row = f)`,
			survivorship.List:          `coalesce(array_to_json(array_agg(v order by row) filter (where v is not null))::text, '[]')`,
			survivorship.ListDistinct:  `coalesce(array_to_json(array_agg(v order by row) filter (where row = f and v is not null))::text, '[]')`,
		} {
			numeric := rule.Numbers() || rule == survivorship.Smallest || rule == survivorship.Largest
			column := "b"
			if numeric {
				column = "c"
			}
			if numeric && !rule.Numbers() && round%5 == 0 {
				continue // order is by 64-bit floating point, sums are exact
			}
			separator := " | "
			res, err := entry.Apply(ctx, &entry.Merge{Key: []string{"a"}, Columns: []entry.MergeColumn{{Column: column, Rule: rule}}, Separator: &separator}, tab, entry.Inputs{})
			if err != nil {
				continue // no two rows are equal
			}
			merged += res.Effect.Balance.Merged
			theirs := ask(t, conn, fmt.Sprintf(`select coalesce(%s, 'blank') from
				(select row, k, v, count(*) over same n, min(row) over same f from (select row, case when trim(a) = '' then 'none' || row else '=' || a end k, nullif(regexp_replace(%s, '^ +$', ''), '') v from l) x
				window same as (partition by k, v)) y group by k order by min(row)`, sql, column), 0)
			made, _, _ := res.Table.Column(column)
			if res.Table.Rows() != len(theirs) {
				t.Fatalf("%d rows, PostgreSQL has %d", res.Table.Rows(), len(theirs))
			}
			for i, want := range theirs {
				got, _ := made.Value(res.Table.BaseRow(i))
				if want == "blank" && strings.TrimSpace(got) == "" {
					continue
				}
				if numeric && near(got, want, rule == survivorship.Mean, round%5 == 0) || !numeric && got == want {
					continue
				}
				t.Fatalf("round %d, %s, row %d: %q, PostgreSQL has %q\n%s", round, rule, i, got, want, coretest.Text(tab))
			}
		}
	}
	if merged < 1000 {
		t.Errorf("only %d rows were combined", merged)
	}
}

// near compares two numbers exactly or, of means, to half a unit of the sixth decimal, and of
// whole numbers of the fourth.
func near(got, want string, mean, whole bool) bool {
	a, okA := new(big.Rat).SetString(got)
	b, okB := new(big.Rat).SetString(want)
	if !okA || !okB {
		return false
	}
	if !mean {
		return a.Cmp(b) == 0
	}
	half := big.NewRat(5, 10_000_000)
	if whole {
		half = big.NewRat(5, 100_000)
	}
	return a.Sub(a, b).Abs(a).Cmp(half) <= 0
}

// What a merged value was made of can be told from the rows before.
func TestMergeTraced(t *testing.T) {
	tab := coretest.Build([]string{"id", "kg"}, []string{"x", "1"}, []string{"y", "2"}, []string{"x", "3"}, []string{"", "4"})
	e := &entry.Merge{Key: []string{"id"}, Columns: []entry.MergeColumn{{Column: "kg", Rule: survivorship.Sum}}}
	rule, from, err := e.Traced(tab, 0, "kg")
	if err != nil || rule != survivorship.Sum || len(from) != 2 || from[0].Value != "1" || from[1] != (entry.From{Base: 2, Value: "3", Found: true}) {
		t.Errorf("%v %+v, %v", rule, from, err)
	}
	if _, from, err := e.Traced(tab, 1, "id"); err != nil || len(from) != 1 {
		t.Errorf("%+v, %v", from, err)
	}
	if _, _, err := e.Traced(tab, 2, "kg"); err == nil {
		t.Error("a row that was merged away has a value")
	}
}

// A real table, the time zones of the IANA database that PostgreSQL carries: rows kept, and rows combined
// by their abbreviation, are those of DISTINCT ON and GROUP BY, exactly.
func TestTimeZonesAgainstPostgreSQL(t *testing.T) {
	ctx := context.Background()
	conn := reference(t)
	rows, err := conn.Query(ctx, `select abbrev, utc_offset::text, name from pg_timezone_names order by name collate "C" desc`)
	if err != nil {
		t.Fatal(err)
	}
	lines := [][]string{{"a", "b", "c"}}
	for rows.Next() {
		line := make([]string, 3)
		if err := rows.Scan(&line[0], &line[1], &line[2]); err != nil {
			t.Fatal(err)
		}
		lines = append(lines, line)
	}
	tab := coretest.Build(lines...)
	if tab.Rows() < 400 {
		t.Fatalf("only %d time zones", tab.Rows())
	}
	put(t, conn, "l", tab)
	res, err := entry.Apply(ctx, &entry.Duplicates{Key: []string{"a", "b"}, Choice: entry.Choice{Keep: duplicate.First}}, tab, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	var kept []string
	for row := range res.Table.Rows() {
		kept = append(kept, fmt.Sprint(res.Table.BaseRow(row)))
	}
	same(t, "rows kept", kept, ask(t, conn, `select row from (select distinct on (a, b) row from l order by a, b, row) d order by row`, 0))
	separator := " "
	res, err = entry.Apply(ctx, &entry.Merge{Key: []string{"a"}, Separator: &separator,
		Columns: []entry.MergeColumn{{Column: "b", Rule: survivorship.JoinDistinct}, {Column: "c", Rule: survivorship.Join}}}, tab, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	var combined []string
	for _, row := range coretest.Rows(res.Table) {
		combined = append(combined, strings.Join(row, "|"))
	}
	same(t, "rows combined", combined, ask(t, conn, `select a || '|' || string_agg(b, ' ' order by row) filter (where row = f) || '|' || string_agg(c, ' ' order by row)
		from (select *, min(row) over (partition by a, b) f from l) x group by a order by min(row)`, 0))
}
