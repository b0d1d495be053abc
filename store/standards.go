package store

import (
	"context"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"grandledger/core/crosswalk"
	"grandledger/core/problem"
	"grandledger/core/spelling"
)

// maxForms is how many short forms a book has of its own.
const maxForms = 2000

// Standards gives what is said of the standard values of a crosswalk, by value, and whether these are all there are.
func (s *Store) Standards(ctx context.Context, book int64, name string) (list []crosswalk.Standard, closed bool, err error) {
	rows, _ := s.Pool.Query(ctx, `select v.value, v.code, v.note, v.broader from standard_value v join crosswalk c on c.id = v.crosswalk_id
		where c.book_id = $1 and c.name = $2 order by v.value`, book, name)
	if list, err = pgx.CollectRows(rows, pgx.RowToStructByPos[crosswalk.Standard]); err != nil {
		return nil, false, err
	}
	err = s.Pool.QueryRow(ctx, `select coalesce(bool_or(closed), false) from crosswalk where book_id = $1 and name = $2`, book, name).Scan(&closed)
	return list, closed, err
}

// Decide adds lines to a crosswalk by hand. Those that map a variant to another standard value than it has are not taken, but told,
// unless overrule says that the new one holds. Lines that are known already change nothing. Standard values come with what is said of them.
func (s *Store) Decide(ctx context.Context, book int64, name string, c crosswalk.Crosswalk, overrule bool) (added int, conflicts []crosswalk.Conflict, err error) {
	if err := c.Check(); err != nil {
		return 0, nil, err
	}
	for _, l := range c.Lines {
		if strings.TrimSpace(l.Standard) == "" || strings.TrimSpace(l.Variant) == "" {
			return 0, nil, problem.New("Give both", "a line of a crosswalk has a spelling and a standard value")
		}
	}
	err = s.changing(ctx, book, name, func(tx pgx.Tx, id int64) error {
		standing, err := standingIn(ctx, tx, id)
		if err != nil {
			return err
		}
		conflicts = crosswalk.Conflicts(standing, c.Lines)
		refused := map[string]bool{}
		for _, f := range conflicts {
			refused[f.Variant] = !overrule
		}
		for _, l := range c.Lines {
			if l.Variant == l.Standard || standing[l.Variant] == l.Standard || refused[l.Variant] {
				continue
			}
			if err := insertDecision(ctx, tx, id, l); err != nil {
				return err
			}
			added++
		}
		for _, v := range c.Standards {
			if err := setStandard(ctx, tx, id, v); err != nil {
				return err
			}
		}
		return checkBroader(ctx, tx, id)
	})
	return added, conflicts, err
}

// SetStandard says what a standard value is: its code, note and broader value.
func (s *Store) SetStandard(ctx context.Context, book int64, name string, v crosswalk.Standard) error {
	return s.changing(ctx, book, name, func(tx pgx.Tx, id int64) error {
		if err := setStandard(ctx, tx, id, v); err != nil {
			return err
		}
		return checkBroader(ctx, tx, id)
	})
}

// RenameStandard makes one standard value another, which may be one that stands already: then both are merged. Its variants follow, since
// the old value becomes one of them.
func (s *Store) RenameStandard(ctx context.Context, book int64, name, from, to string) error {
	to = strings.TrimSpace(to)
	if to == "" || from == to {
		return problem.New("Type another value", "a standard value becomes another one")
	}
	return s.changing(ctx, book, name, func(tx pgx.Tx, id int64) error {
		if err := insertDecision(ctx, tx, id, crosswalk.Line{Variant: from, Standard: to, Why: "renamed"}); err != nil {
			return err
		}
		for _, q := range []string{
			`update standard_value v set value = $3, changed_at = now() where crosswalk_id = $1 and value = $2
				and not exists (select from standard_value o where o.crosswalk_id = $1 and o.value = $3)`,
			`delete from standard_value where crosswalk_id = $1 and value = $2 and $2 <> $3`,
			`update standard_value set broader = case when value = $3 then '' else $3 end where crosswalk_id = $1 and broader = $2`,
		} {
			if _, err := tx.Exec(ctx, q, id, from, to); err != nil {
				return fmt.Errorf("renaming a standard value: %w", err)
			}
		}
		return checkBroader(ctx, tx, id)
	})
}

// Forget withdraws what was decided on a variant, or drops a standard value that has no variants.
func (s *Store) Forget(ctx context.Context, book int64, name, value string) error {
	return s.changing(ctx, book, name, func(tx pgx.Tx, id int64) error {
		gone, err := tx.Exec(ctx, `update decision set withdrawn_at = now() where crosswalk_id = $1 and verdict = 'same' and value = $2 and withdrawn_at is null`, id, value)
		if err != nil || gone.RowsAffected() > 0 {
			return err
		}
		_, err = tx.Exec(ctx, `delete from standard_value where crosswalk_id = $1 and value = $2
			and not exists (select from decision where crosswalk_id = $1 and verdict = 'same' and other = $2 and withdrawn_at is null)`, id, value)
		return err
	})
}

// SetClosed says whether the standard values of a crosswalk are all there are.
func (s *Store) SetClosed(ctx context.Context, book int64, name string, closed bool) error {
	return s.changing(ctx, book, name, func(tx pgx.Tx, id int64) error {
		_, err := tx.Exec(ctx, `update crosswalk set closed = $2 where id = $1`, id, closed)
		return err
	})
}

// changing locks a crosswalk, which is made where there is none, and changes it in one transaction.
func (s *Store) changing(ctx context.Context, book int64, name string, change func(tx pgx.Tx, id int64) error) error {
	return s.inTx(ctx, func(tx pgx.Tx) error {
		id, err := crosswalkID(ctx, tx, book, name)
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `select from crosswalk where id = $1 for update`, id); err != nil {
			return err
		}
		return change(tx, id)
	})
}

func insertDecision(ctx context.Context, tx pgx.Tx, id int64, l crosswalk.Line) error {
	_, err := tx.Exec(ctx, `insert into decision (crosswalk_id, verdict, value, other, why) values ($1, 'same', $2, $3, $4)`, id, l.Variant, l.Standard, l.Why)
	return err
}

func setStandard(ctx context.Context, tx pgx.Tx, id int64, v crosswalk.Standard) error {
	if strings.TrimSpace(v.Value) == "" {
		return problem.New("Type it", "a standard value is empty")
	}
	_, err := tx.Exec(ctx, `insert into standard_value (crosswalk_id, value, code, note, broader) values ($1, $2, $3, $4, $5)
		on conflict (crosswalk_id, value) do update set code = excluded.code, note = excluded.note, broader = excluded.broader, changed_at = now()`,
		id, v.Value, v.Code, v.Note, v.Broader)
	return err
}

func checkBroader(ctx context.Context, tx pgx.Tx, id int64) error {
	rows, _ := tx.Query(ctx, `select value, code, note, broader from standard_value where crosswalk_id = $1 order by value`, id)
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[crosswalk.Standard])
	if err != nil {
		return err
	}
	return crosswalk.CheckBroader(all)
}

// standingIn gives the standard value of each variant as it stands.
func standingIn(ctx context.Context, tx pgx.Tx, id int64) (map[string]string, error) {
	rows, _ := tx.Query(ctx, `select value, other from decision where crosswalk_id = $1 and verdict = 'same' and withdrawn_at is null order by id`, id)
	made, err := pgx.CollectRows(rows, pgx.RowToStructByPos[spelling.Decision])
	return spelling.Standing(made), err
}

// Use is a column that a crosswalk is for: one of its name, or one that was mapped by it.
type Use struct {
	Table  int64
	Name   string
	Head   int64
	Column string
}

// Uses lists the columns of a book that a crosswalk is for, by table.
func (s *Store) Uses(ctx context.Context, book int64, name string) ([]Use, error) {
	rows, _ := s.Pool.Query(ctx, `select distinct t.id, t.name, t.head, c.name as column from stewarded_table t join revision_column c on c.revision_id = t.head
		where t.book_id = $1 and (c.name = $2 or exists (select from entry e where e.table_id = t.id and e.state = 'posted' and e.kind = 'values'
			and e.params->>'crosswalk' = $2 and c.name in (e.params->>'column', e.params->>'into'))) order by t.name, t.id, c.name`, book, name)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Use])
}

// Deliveries lists, oldest first, the revisions a table had right after its source came in: its opening and each refresh that stands.
func (s *Store) Deliveries(ctx context.Context, tableID int64) ([]int64, error) {
	rows, _ := s.Pool.Query(ctx, `select after from entry where table_id = $1 and (number = 0 or kind = 'refresh' and state = 'posted') order by number`, tableID)
	return pgx.CollectRows(rows, pgx.RowTo[int64])
}

// ShortForms gives the short forms of a book and what they stand for.
func (s *Store) ShortForms(ctx context.Context, book int64) (map[string]string, error) {
	out := map[string]string{}
	rows, _ := s.Pool.Query(ctx, `select short, long from short_form where book_id = $1`, book)
	var short, long string
	_, err := pgx.ForEachRow(rows, []any{&short, &long}, func() error {
		out[short] = long
		return nil
	})
	return out, err
}

// SetShortForms replaces the short forms of a book.
func (s *Store) SetShortForms(ctx context.Context, book int64, forms map[string]string) error {
	if len(forms) > maxForms {
		return problem.New("Leave out what is shipped already", "there are more than %d short forms", maxForms)
	}
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `delete from short_form where book_id = $1`, book); err != nil {
			return err
		}
		for short, long := range forms {
			if strings.TrimSpace(short) == "" || strings.TrimSpace(long) == "" {
				return problem.New("Give both, as in: hbr = harbour", "a short form, or what it stands for, is empty")
			}
			if _, err := tx.Exec(ctx, `insert into short_form (book_id, short, long) values ($1, $2, $3)`, book, strings.TrimSpace(short), strings.TrimSpace(long)); err != nil {
				return err
			}
		}
		return nil
	})
}
