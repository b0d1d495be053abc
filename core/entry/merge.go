package entry

import (
	"cmp"
	"context"
	"fmt"
	"slices"

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
	kept, merged := merging(t, groups)
	if len(merged) == 0 {
		return nil, problem.New("Choose fewer columns, or others", "no two rows have the same %s", listing(e.Key))
	}
	m := &merge{t: t, out: t.Select(kept), groups: groups}
	m.effect.Balance = Balance{Before: t.Rows(), Merged: len(merged), After: len(kept.Rows)}
	for _, c := range t.Columns() {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if err := m.column(c.Name, e.rule(c.Name), e.separator()); err != nil {
			return nil, err
		}
	}
	return &Result{Table: m.out, Effect: m.effect}, nil
}

// merging tells the first rows of groups from the others, as base rows.
func merging(t *table.Table, groups survivorship.Groups) (kept *table.Selection, merged []uint32) {
	kept = &table.Selection{Rows: make([]uint32, 0, groups.Len())}
	for group := range groups.Len() {
		rows := groups.Of(group)
		kept.Rows = append(kept.Rows, t.BaseRow(int(rows[0])))
		for _, row := range rows[1:] {
			merged = append(merged, t.BaseRow(int(row)))
		}
	}
	return kept, merged
}

// merge is a table whose rows become one for each group, column by column.
type merge struct {
	t, out *table.Table
	groups survivorship.Groups
	effect Effect
}

// column makes the values of a column, and notes what that did.
func (m *merge) column(name string, rule survivorship.Rule, separator string) error {
	c, at, err := column(m.t, name)
	if err != nil {
		return err
	}
	made, err := survivorship.Make(m.t, c, m.groups, rule, separator)
	if err != nil {
		return err
	}
	next := c
	if made.Changed > 0 {
		next = m.placed(c, made)
		m.out = m.out.With(at, next)
	}
	m.effect.Unread += made.Unread
	if made.Differ == 0 && made.Changed == 0 && made.Dropped == 0 {
		return nil
	}
	counts := m.out.Counts(next)
	e := ColumnEffect{Column: name, Cells: made.Changed, Dropped: made.Dropped, Differ: made.Differ, DistinctBefore: distinct(m.t.Counts(c)), DistinctAfter: distinct(counts)}
	if !rule.Picks() {
		e.Top = tally.Top(next, counts, 20)
	}
	m.effect.Columns = append(m.effect.Columns, e)
	return nil
}

// placed puts the values made into the first rows of the groups. Rows that do not stand keep their
// cells, as they may be returned.
func (m *merge) placed(c *table.Column, made *survivorship.Made) *table.Column {
	next := *c
	next.View, next.Dict = nil, made.Dict
	codes := make([]uint32, m.t.Base())
	if m.t.Selection() != nil {
		next.Dict, codes = withOthers(m.t, c, made.Dict)
	} else if made.Dict == c.Dict {
		for base := range codes {
			codes[base] = c.Code(uint32(base))
		}
	}
	for group, code := range made.Codes {
		codes[m.t.BaseRow(int(m.groups.Of(group)[0]))] = code
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
	for group := range groups.Len() {
		rows := groups.Of(group)
		if t.BaseRow(int(rows[0])) != base {
			continue
		}
		var out []From
		for _, row := range rows {
			b := t.BaseRow(int(row))
			v, ok := c.Value(b)
			out = append(out, From{b, v, ok})
		}
		return e.rule(name), out, nil
	}
	return "", nil, fmt.Errorf("base row %d begins no group", base)
}
