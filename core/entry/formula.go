package entry

import (
	"cmp"
	"context"
	"runtime"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"grandledger/core/duplicate"
	"grandledger/core/formula"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Formula works a column out from others, as a new column or in the place of one that is there.
type Formula struct {
	Formula string `json:"formula"`
	Name    string `json:"name"`              // of the new column, or of the one that is replaced
	Replace bool   `json:"replace,omitempty"` // its cells take what the formula gives; where it fails they stay
	// Tables are the revisions of the tables it looks things up in, by name, so that it comes to
	// the same whenever it is done again. One that is not named is taken as it stands, and noted.
	Tables map[string]int64 `json:"tables,omitempty"`
}

// Worked is what a formula makes of some cells, for all rows that hold them.
type Worked struct {
	From []string `json:"from"` // the cells of the columns it names
	To   string   `json:"to"`
	Why  string   `json:"why,omitempty"` // why it fails on them
	Rows int      `json:"rows"`
}

// Evaluation is what a formula came to over all rows.
type Evaluation struct {
	Names  []string `json:"names"`  // of the columns it names
	Failed int      `json:"failed"` // rows on which it fails, which are left as they were
	Worked []Worked `json:"worked"` // those that fail first, then the most frequent, then the rarest; at most maxWorked
	// Tables are the revisions it looked things up in, by name.
	Tables map[string]int64 `json:"tables,omitempty"`
}

const maxWorked = 30

// Words says the formula.
func (e *Formula) Words() string {
	if e.Replace {
		return "Set " + e.Name + " to " + brief(e.Formula)
	}
	return "New column " + e.Name + ": " + brief(e.Formula)
}

// Cost: one evaluation for each different combination of the cells it names, on all cores, and
// O(base rows).
func (e *Formula) apply(ctx context.Context, t *table.Table, in Inputs) (*Result, error) {
	f, err := formula.Compile(e.Formula, t, e.tables(in))
	if err != nil {
		return nil, err
	}
	if strings.TrimSpace(e.Name) == "" {
		return nil, problem.New("Give the new column a name", "the new column has no name")
	}
	all := t.Select(nil)
	var group []uint32
	groups := 1
	for _, c := range f.Columns() {
		group, groups = duplicate.Number(all.LogicalCodes(c), group)
	}
	if group == nil { // no column is named: all rows have the same result
		group = slices.Repeat([]uint32{1}, t.Base())
	}
	first := make([]uint32, groups+1)
	for base, g := range slices.Backward(group) {
		first[g] = uint32(base)
	}
	results, failed, err := e.evaluate(ctx, f, first)
	if err != nil {
		return nil, err
	}
	rows := make([]int, groups+1)
	for row := range t.Rows() {
		rows[group[t.BaseRow(row)]]++
	}
	evaluation := worked(f, first, rows, results, failed)
	evaluation.Tables = e.Tables
	if e.Replace {
		return e.replaced(t, group, results, failed, evaluation)
	}
	b := table.NewDictBuilder()
	view := &table.View{At: make([]uint32, groups+1)}
	for g := 1; g <= groups; g++ {
		view.At[g] = b.Add(results[g]) // where it failed there is nothing to be left: a blank
	}
	made := &table.Column{Name: strings.TrimSpace(e.Name), Codes: &table.Codes{At: group}, View: view, Dict: b.Dict()}
	n := t.Rows()
	effect := Effect{Balance: Balance{Before: n, After: n}, Columns: []ColumnEffect{added(t, made)}, Evaluation: evaluation}
	out, err := shaped(t, append(slices.Clone(t.Columns()), made), &effect)
	if err != nil {
		return nil, err
	}
	return &Result{Table: out, Effect: effect}, nil
}

// tables gives the tables the formula looks into, and notes which revisions they are.
func (e *Formula) tables(in Inputs) formula.Tables {
	if in.Tables == nil {
		return nil
	}
	return func(name string) (*table.Table, error) {
		t, revision, err := in.Tables(name, e.Tables[name])
		if err == nil {
			if e.Tables == nil {
				e.Tables = map[string]int64{}
			}
			e.Tables[name] = revision
		}
		return t, err
	}
}

// evaluate works the formula out for a row of each combination.
func (e *Formula) evaluate(ctx context.Context, f *formula.Formula, first []uint32) (results, failed []string, err error) {
	results, failed = make([]string, len(first)), make([]string, len(first))
	work, ctx := errgroup.WithContext(ctx)
	workers := runtime.GOMAXPROCS(0)
	for w := range workers {
		work.Go(func() error {
			evaluate := f.Evaluator()
			cells := make([]*string, len(f.Columns()))
			for g := max(len(first)*w/workers, 1); g < len(first)*(w+1)/workers; g++ {
				if g%1024 == 0 && ctx.Err() != nil {
					return ctx.Err()
				}
				for i, c := range f.Columns() {
					cells[i] = nil
					if v, ok := c.Value(first[g]); ok {
						cells[i] = &v
					}
				}
				var err error
				if results[g], err = evaluate(cells); err != nil {
					results[g], failed[g] = "", err.Error()
				}
			}
			return nil
		})
	}
	return results, failed, work.Wait()
}

// replaced puts the results in the place of a column's cells.
func (e *Formula) replaced(t *table.Table, group []uint32, results, failed []string, evaluation *Evaluation) (*Result, error) {
	c, at, err := column(t, e.Name)
	if err != nil {
		return nil, err
	}
	fill := newFilling(t, c)
	codes := make([]uint32, len(results))
	for g := 1; g < len(results); g++ {
		if failed[g] == "" {
			codes[g] = fill.add(results[g])
		}
	}
	fill.each(func(base, code uint32) uint32 {
		if to := codes[group[base]]; to != 0 {
			return to
		}
		return code
	})
	r := fill.result(at)
	r.Effect.Evaluation = evaluation
	return r, nil
}

// worked picks what shows best what the formula does.
func worked(f *formula.Formula, first []uint32, rows []int, results, failed []string) *Evaluation {
	out := &Evaluation{Names: []string{}, Worked: []Worked{}}
	for _, c := range f.Columns() {
		out.Names = append(out.Names, c.Name)
	}
	var bad, good []int
	for g := 1; g < len(first); g++ {
		switch {
		case rows[g] == 0:
		case failed[g] != "":
			out.Failed += rows[g]
			bad = append(bad, g)
		default:
			good = append(good, g)
		}
	}
	byRows := func(a, b int) int { return cmp.Or(cmp.Compare(rows[b], rows[a]), cmp.Compare(a, b)) }
	slices.SortFunc(bad, byRows)
	slices.SortFunc(good, byRows)
	chosen := bad[:min(len(bad), 8)]
	chosen = append(slices.Clone(chosen), good[:min(len(good), maxWorked-len(chosen)-6)]...)
	if rare := good[min(len(good), maxWorked-6):]; len(rare) > 0 {
		chosen = append(chosen, rare[max(len(rare)-6, 0):]...)
	}
	for _, g := range chosen {
		w := Worked{From: []string{}, To: results[g], Why: failed[g], Rows: rows[g]}
		for _, c := range f.Columns() {
			v, _ := c.Value(first[g])
			w.From = append(w.From, v)
		}
		out.Worked = append(out.Worked, w)
	}
	return out
}
