package entry

import (
	"context"
	"slices"

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
	Apart bool           `json:"apart,omitempty"`
	Keep  duplicate.Keep `json:"keep"`         // which row of a group stays
	By    string         `json:"by,omitempty"` // the column of newest, oldest, highest and lowest
	Only  duplicate.Only `json:"only,omitempty"`
}

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
	return "Set aside repeats of " + e.key() + ", keeping the " + e.row() + " row of each group"
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
	switch {
	case e.Only == duplicate.Firsts && e.Keep == duplicate.First:
		return "first"
	case e.By != "":
		return string(e.Keep) + " by " + e.By
	}
	return string(e.Keep)
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
	rule := duplicate.Rule{Keep: e.Keep, Only: e.Only}
	if !slices.Contains([]duplicate.Only{duplicate.OneEach, duplicate.Repeats, duplicate.Firsts, duplicate.Unique}, e.Only) {
		return rule, problem.New("Keep one row of each, repeats, firsts or unique", "there is nothing to keep called %q", e.Only)
	}
	kind := reading.Number
	switch e.Keep {
	case duplicate.First, duplicate.Last, duplicate.Fullest:
		return rule, nil
	case duplicate.Newest, duplicate.Oldest:
		kind = reading.Date
	case duplicate.Highest, duplicate.Lowest:
	default:
		return rule, problem.New("Keep the first, last, newest, oldest, highest, lowest or fullest row", "there is no rule to keep a row called %q", e.Keep)
	}
	by, _, err := column(t, e.By)
	if err != nil {
		return rule, err
	}
	if read := by.Effective(); read.Kind != kind {
		p := problem.New("Read it as "+map[reading.Kind]string{reading.Date: "dates", reading.Number: "numbers"}[kind]+" first, or keep a row by another rule",
			"the %s row cannot be told by %s, which is read as %s", e.Keep, e.By, read.Words())
		p.Column = e.By
		return rule, p
	}
	rule.By = by
	return rule, nil
}
