package entry

import (
	"cmp"
	"context"
	"fmt"
	"runtime"
	"slices"

	"golang.org/x/sync/errgroup"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/survivorship"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Merge makes one row of the rows that are equal on a key: a rule for each column says what becomes
// of its cells. The row stands where the first of them stood.
type Merge struct {
	Key     []string                `json:"key"`
	As      map[string]duplicate.As `json:"as,omitempty"`
	Apart   bool                    `json:"apart,omitempty"`
	Columns []MergeColumn           `json:"columns,omitempty"`
	// Others is the rule for every other column, the key aside; the first where it is empty.
	Others    survivorship.Rule `json:"others,omitempty"`
	Separator *string           `json:"separator,omitempty"` // between joined values; "; " where it is nil
}

// MergeColumn is the rule for a column.
type MergeColumn struct {
	Column string            `json:"column"`
	Rule   survivorship.Rule `json:"rule"`
}

// Words names the key and the rules.
func (e *Merge) Words() string {
	d := Duplicates{Key: e.Key, As: e.As}
	words := "Combine rows with the same " + d.key() + " into one"
	for i, c := range e.Columns {
		words += []string{": ", ", "}[min(i, 1)] + c.Column + " " + said[c.Rule]
	}
	if len(e.Columns) > 0 {
		return words + "; of every other column " + said[e.others()]
	}
	return words + ", of every column " + said[e.others()]
}

// said is how words name the rules.
var said = map[survivorship.Rule]string{survivorship.First: "the first value", survivorship.Last: "the last value", survivorship.Longest: "the longest value",
	survivorship.Frequent: "the most frequent value", survivorship.Smallest: "the smallest value", survivorship.Largest: "the largest value", survivorship.Sum: "added up",
	survivorship.Mean: "the mean", survivorship.Median: "the median", survivorship.Count: "how many", survivorship.CountDistinct: "how many different", survivorship.Join: "joined",
	survivorship.JoinDistinct: "different values joined", survivorship.List: "as a list", survivorship.ListDistinct: "different values as a list"}

func (e *Merge) others() survivorship.Rule { return cmp.Or(e.Others, survivorship.First) }

func (e *Merge) separator() string {
	if e.Separator == nil {
		return "; "
	}
	return *e.Separator
}

// rule is the rule for a column; of a column of the key its first cell stays, unless one is given.
func (e *Merge) rule(column string) survivorship.Rule {
	for _, c := range e.Columns {
		if c.Column == column {
			return c.Rule
		}
	}
	if slices.Contains(e.Key, column) {
		return survivorship.First
	}
	return e.others()
}

// Cost: O(rows) for the groups and for each column; see survivorship.
func (e *Merge) apply(ctx context.Context, t *table.Table, _ Inputs) (*Result, error) {
	key, err := Keys(t, e.Key, e.As)
	if err != nil {
		return nil, err
	}
	for i, c := range e.Columns {
		if _, _, err := column(t, c.Column); err != nil {
			return nil, err
		}
		if slices.ContainsFunc(e.Columns[:i], func(o MergeColumn) bool { return o.Column == c.Column }) {
			p := problem.New("Give one rule", "there are two rules for %s", c.Column)
			p.Column = c.Column
			return nil, p
		}
	}
	if len(e.separator()) > 100 {
		return nil, problem.New("Make it shorter", "the separator is longer than 100 bytes")
	}
	groups := duplicate.Find(t, key, e.Apart).Members()
	if groups.Len() == t.Rows() {
		return nil, problem.New("Choose fewer columns, or others", "no two rows have the same %s", listing(e.Key))
	}
	m := newMerge(t, groups)
	for _, c := range t.Columns() {
		rule := e.rule(c.Name)
		if rule == survivorship.First && slices.Contains(e.Key, c.Name) && e.As[c.Name] == duplicate.Exact {
			continue // rows of a group are equal in it
		}
		m.column(c.Name, rule, e.separator())
	}
	return m.result(ctx)
}

// merge is a table whose rows become one for each group, column by column.
type merge struct {
	t, out *table.Table
	groups survivorship.Groups
	effect Effect
	made   []*mergedColumn
}

// mergedColumn is a column of a merge, and what it does.
type mergedColumn struct {
	name      string
	rule      survivorship.Rule
	separator string

	at     int
	next   *table.Column
	unread int
	effect *ColumnEffect // nil where nothing differs and nothing changes
	err    error
}

// newMerge keeps the first row of each group.
func newMerge(t *table.Table, groups survivorship.Groups) *merge {
	kept := &table.Selection{Rows: make([]uint32, groups.Len())}
	for group, row := range groups.First {
		kept.Rows[group] = t.BaseRow(int(row))
	}
	m := &merge{t: t, out: t.Select(kept), groups: groups}
	m.effect.Balance = Balance{Before: t.Rows(), Merged: t.Rows() - groups.Len(), After: groups.Len()}
	return m
}

// column asks for the values of a column.
func (m *merge) column(name string, rule survivorship.Rule, separator string) {
	m.made = append(m.made, &mergedColumn{name: name, rule: rule, separator: separator})
}

func (m *merge) make(ctx context.Context, made *mergedColumn) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	c, at, err := column(m.t, made.name)
	if err != nil {
		return err
	}
	values, err := survivorship.Make(m.t, c, m.groups, made.rule, made.separator)
	if err != nil {
		return err
	}
	made.at, made.next, made.unread = at, c, values.Unread
	if values.Changed > 0 {
		made.next = m.placed(c, values)
	}
	if values.Differ == 0 && values.Changed == 0 && values.Dropped == 0 {
		return nil
	}
	made.effect = &ColumnEffect{Column: made.name, Cells: values.Changed, Dropped: values.Dropped, Differ: values.Differ, DistinctBefore: distinct(m.t.Counts(c))}
	if made.rule.Picks() {
		made.effect.DistinctAfter = different(values.Codes, c.Dict)
		return nil
	}
	counts := m.out.Counts(made.next)
	made.effect.DistinctAfter = distinct(counts)
	made.effect.Top = tally.Top(made.next, counts, 20)
	return nil
}

// different counts the distinct values of codes, of which there may be far fewer than values.
func different(codes []uint32, d *table.Dict) (n int) {
	seen := make([]uint64, d.Len()/64+1)
	for _, code := range codes {
		if bit := uint64(1) << (code % 64); code != table.Missing && seen[code/64]&bit == 0 {
			seen[code/64] |= bit
			n++
		}
	}
	return n
}

// result makes the columns side by side, those that take longest first.
func (m *merge) result(ctx context.Context) (*Result, error) {
	var work errgroup.Group
	work.SetLimit(runtime.GOMAXPROCS(0))
	for _, quick := range []bool{false, true} {
		for _, c := range m.made {
			if quick == (c.rule == survivorship.First || c.rule == survivorship.Last) {
				work.Go(func() error {
					c.err = m.make(ctx, c)
					return nil // errors are told in the order of the columns
				})
			}
		}
	}
	_ = work.Wait()
	out := m.out
	for _, c := range m.made {
		if c.err != nil {
			return nil, c.err
		}
		m.effect.Unread += c.unread
		if c.next != m.t.Columns()[c.at] {
			out = out.With(c.at, c.next)
		}
		if c.effect != nil {
			m.effect.Columns = append(m.effect.Columns, *c.effect)
		}
	}
	return &Result{Table: out, Effect: m.effect}, nil
}

// placed puts the values made into the first rows of the groups. Rows that do not stand keep their
// cells, as they may be returned; those that were merged away never are.
func (m *merge) placed(c *table.Column, made *survivorship.Made) *table.Column {
	next := *c
	next.View, next.Dict = nil, made.Dict
	var codes []uint32
	if m.t.Selection() != nil {
		next.Dict, codes = withOthers(m.t, c, made.Dict)
	} else {
		codes = make([]uint32, m.t.Base())
	}
	for group, code := range made.Codes {
		codes[m.t.BaseRow(int(m.groups.First[group]))] = code
	}
	next.Codes = &table.Codes{At: codes}
	return &next
}

// withOthers adds the values of the rows that do not stand in t to a dictionary, and gives their
// codes by base row.
func withOthers(t *table.Table, c *table.Column, d *table.Dict) (*table.Dict, []uint32) {
	codes := make([]uint32, t.Base())
	if d == c.Dict {
		for base := range codes {
			codes[base] = c.Code(uint32(base))
		}
		return d, codes
	}
	stands := make([]bool, t.Base())
	for row := range t.Rows() {
		stands[t.BaseRow(row)] = true
	}
	b := table.NewDictBuilder()
	for code := uint32(1); code <= uint32(d.Len()); code++ {
		b.Add(d.Value(code))
	}
	to := make([]uint32, c.Dict.Len()+1)
	for base := range codes {
		code := c.Code(uint32(base))
		if stands[base] || code == table.Missing {
			continue
		}
		if to[code] == 0 {
			to[code] = b.Add(c.Dict.Value(code))
		}
		codes[base] = to[code]
	}
	return b.Dict(), codes
}

// From says what a value of a merged row was made of.
type From struct {
	Base  uint32 // the row
	Value string
	Found bool // false where there is no cell
}

// Traced lists the cells that the value of a column in a merged row was made of: those of the rows of
// its group as they stood before, and the rule. Cost: O(rows x key columns).
func (e *Merge) Traced(t *table.Table, base uint32, name string) (survivorship.Rule, []From, error) {
	key, err := Keys(t, e.Key, e.As)
	if err != nil {
		return "", nil, err
	}
	c, _, err := column(t, name)
	if err != nil {
		return "", nil, err
	}
	groups := duplicate.Find(t, key, e.Apart).Members()
	for group, first := range groups.First {
		if t.BaseRow(int(first)) != base {
			continue
		}
		var out []From
		for _, row := range groups.Of(group) {
			b := t.BaseRow(int(row))
			v, ok := c.Value(b)
			out = append(out, From{b, v, ok})
		}
		return e.rule(name), out, nil
	}
	return "", nil, fmt.Errorf("base row %d begins no group", base)
}
