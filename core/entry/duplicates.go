package entry

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Duplicates sets aside rows by what they repeat on a key of columns: the repeats, so that one row
// of each group stays, or what the other way round is asked for.
type Duplicates struct {
	Key []string `json:"key"`
	// As says how cells of a key column are compared, where not to the letter.
	As map[string]duplicate.As `json:"as,omitempty"`
	// Apart says that blank cells never match; otherwise only rows blank throughout repeat nothing.
	Apart bool `json:"apart,omitempty"`
	Choice
	Ties []Choice       `json:"ties,omitempty"` // each decides where those before it leave rows equal
	Only duplicate.Only `json:"only,omitempty"`
	// Chosen are rows that stay whatever the rule, each known by its cells; where a group has such
	// rows no other row of it stays.
	Chosen []map[string]string `json:"chosen,omitempty"`
}

// Choice says which row of a group stays.
type Choice struct {
	Keep  duplicate.Keep `json:"keep"`
	By    string         `json:"by,omitempty"`    // the column of newest, oldest, highest, lowest and prefer
	Order []string       `json:"order,omitempty"` // of prefer: the values, the best first
}

// maxChosen is how many rows one entry can keep by hand.
const maxChosen = 10_000

// Words names the key and the row that stays.
func (e *Duplicates) Words() string {
	of := "the same " + e.key()
	switch e.Only {
	case duplicate.Repeats:
		return "Keep only the rows of which others have " + of
	case duplicate.Firsts:
		return "Keep only the " + e.row() + " row of those with " + of
	case duplicate.Unique:
		return "Keep only the rows of which no other has " + of
	}
	words := "Set aside repeats of " + e.key() + ", keeping the " + e.row() + " row of each group"
	if len(e.Chosen) > 0 {
		words += fmt.Sprintf(", and %d chosen by hand", len(e.Chosen))
	}
	return words
}

// key names the columns, and how they are compared.
func (e *Duplicates) key() string {
	names := slices.Clone(e.Key)
	for i, name := range names {
		switch e.As[name] {
		case duplicate.Folded:
			names[i] += " (case, spacing, punctuation and accents aside)"
		case duplicate.Words:
			names[i] += " (words in any order)"
		case duplicate.Read:
			names[i] += " (as it is read)"
		}
	}
	return listing(names)
}

func (e *Duplicates) row() string {
	if e.Only == duplicate.Firsts && e.Keep == duplicate.First {
		return "first"
	}
	words := e.words()
	for _, c := range e.Ties {
		words += ", then the " + c.words()
	}
	return words
}

func (c Choice) words() string {
	switch {
	case c.Keep == duplicate.Prefer:
		return "preferred (" + c.By + " “" + strings.Join(c.Order, "” before “") + "”)"
	case c.By != "":
		return string(c.Keep) + " by " + c.By
	}
	return string(c.Keep)
}

// Cost: O(rows x key columns); see duplicate.
func (e *Duplicates) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	rule, err := e.Rule(t)
	if err != nil {
		return nil, err
	}
	key, err := Keys(t, e.Key, e.As)
	if err != nil {
		return nil, err
	}
	kept, aside, unread := duplicate.Find(t, key, e.Apart).Split(t, rule)
	r := &Result{Table: t}
	r.Effect.Balance = Balance{Before: t.Rows(), SetAside: len(aside.Rows), After: len(kept.Rows)}
	r.Effect.Unread = unread
	if len(aside.Rows) > 0 {
		r.Table, r.Aside = t.Select(kept), aside
	}
	return r, nil
}

// Keys makes a key of columns and of how each is compared.
func Keys(t *table.Table, names []string, as map[string]duplicate.As) ([]duplicate.Key, error) {
	if len(names) == 0 {
		return nil, problem.New("Choose the columns that make two rows the same", "no key column was chosen")
	}
	var key []duplicate.Key
	for _, name := range names {
		c, _, err := column(t, name)
		if err != nil {
			return nil, err
		}
		key = append(key, duplicate.Key{Column: c, As: as[name]})
	}
	for name, how := range as {
		if !slices.Contains(names, name) || !slices.Contains([]duplicate.As{duplicate.Exact, duplicate.Folded, duplicate.Words, duplicate.Read}, how) {
			p := problem.New("Compare columns of the key, folded, by their words, as they are read or to the letter", "%q cannot be compared as %q", name, how)
			p.Column = name
			return nil, p
		}
	}
	return key, nil
}

// Rule is what stays, if the table can be asked so.
func (e *Duplicates) Rule(t *table.Table) (duplicate.Rule, error) {
	rule := duplicate.Rule{Only: e.Only}
	if !slices.Contains([]duplicate.Only{duplicate.OneEach, duplicate.Repeats, duplicate.Firsts, duplicate.Unique}, e.Only) {
		return rule, problem.New("Keep one row of each, repeats, firsts or unique", "there is nothing to keep called %q", e.Only)
	}
	for _, c := range append([]Choice{e.Choice}, e.Ties...) {
		choice, err := c.in(t)
		if err != nil {
			return rule, err
		}
		rule.Choices = append(rule.Choices, choice)
	}
	var err error
	if len(e.Chosen) > 0 {
		rule.Chosen, err = e.chosen(t)
	}
	return rule, err
}

// in is the choice, if the table can be asked so.
func (c Choice) in(t *table.Table) (duplicate.Choice, error) {
	out := duplicate.Choice{Keep: c.Keep, Order: c.Order}
	kind := reading.Number
	switch c.Keep {
	case duplicate.First, duplicate.Last, duplicate.Fullest:
		return out, nil
	case duplicate.Newest, duplicate.Oldest:
		kind = reading.Date
	case duplicate.Highest, duplicate.Lowest:
	case duplicate.Prefer:
		if len(c.Order) == 0 {
			return out, problem.New("Name at least one value, the best first", "no value of %s is preferred", c.By)
		}
	default:
		return out, problem.New("Keep the first, last, newest, oldest, highest, lowest, fullest or preferred row", "there is no rule to keep a row called %q", c.Keep)
	}
	by, _, err := column(t, c.By)
	if err != nil {
		return out, err
	}
	if read := by.Effective(); c.Keep != duplicate.Prefer && read.Kind != kind {
		p := problem.New("Read it as "+map[reading.Kind]string{reading.Date: "dates", reading.Number: "numbers"}[kind]+" first, or keep a row by another rule",
			"the %s row cannot be told by %s, which is read as %s", c.Keep, c.By, read.Words())
		p.Column = c.By
		return out, p
	}
	out.By = by
	return out, nil
}

// chosen finds the rows chosen by hand: the first that holds the cells of each. On another
// delivery a row may hold something else; it is then not found, and the rule decides. Cost: O(rows).
func (e *Duplicates) chosen(t *table.Table) ([]bool, error) {
	if len(e.Chosen) > maxChosen {
		return nil, problem.New("Choose a rule, or several entries", "more than %d rows are chosen by hand", maxChosen)
	}
	type wanted struct {
		columns []*table.Column
		codes   []uint32
	}
	byFirst := map[string]map[uint32][]wanted{} // by column and code of a cell
	for _, cells := range e.Chosen {
		var w wanted
		found := len(cells) > 0
		names := slices.Sorted(maps.Keys(cells))
		for _, name := range names {
			c, _, err := column(t, name)
			if err != nil {
				return nil, err
			}
			code, ok := c.Dict.Find(cells[name])
			found = found && ok
			w.columns, w.codes = append(w.columns, c), append(w.codes, code)
		}
		if !found {
			continue
		}
		// It is looked for by its rarest cell.
		rarest := 0
		for i, c := range w.columns {
			if t.Counts(c)[w.codes[i]] < t.Counts(w.columns[rarest])[w.codes[rarest]] {
				rarest = i
			}
		}
		name := w.columns[rarest].Name
		if byFirst[name] == nil {
			byFirst[name] = map[uint32][]wanted{}
		}
		code := w.codes[rarest]
		byFirst[name][code] = append(byFirst[name][code], w)
	}
	out := make([]bool, t.Rows())
	for _, name := range slices.Sorted(maps.Keys(byFirst)) {
		c, _, _ := t.Column(name)
		for row, code := range t.LogicalCodes(c) {
			waiting := byFirst[name][code]
			at := slices.IndexFunc(waiting, func(w wanted) bool {
				for i, c := range w.columns {
					if c.Code(t.BaseRow(row)) != w.codes[i] {
						return false
					}
				}
				return true
			})
			if at >= 0 && !out[row] {
				out[row] = true
				byFirst[name][code] = slices.Delete(slices.Clone(waiting), at, at+1)
			}
		}
	}
	return out, nil
}
