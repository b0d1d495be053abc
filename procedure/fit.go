package procedure

import (
	"encoding/json"
	"slices"

	"grandledger/core/entry"
	"grandledger/core/formula"
)

// Fit gives the steps for a table whose columns are called otherwise; names says what each is
// called there. The steps get numbers below 0, by which they know one another, as they have no
// numbers in a journal yet.
func (p Table) Fit(names map[string]string) ([]Step, error) {
	numbers := map[int]int{}
	for i, s := range p.Steps {
		numbers[s.Entry] = -1 - i
	}
	out := make([]Step, len(p.Steps))
	for i, s := range p.Steps {
		e, err := entry.Decode(s.Kind, s.Params)
		if err != nil {
			return nil, stepped(s, err)
		}
		e = entry.Renumbered(entry.Mapped(e, names), numbers)
		if f, ok := entry.Inner(e).(*entry.Formula); ok {
			f.Tables = nil // as they stand where it is done
		}
		params, err := json.Marshal(e)
		if err != nil {
			return nil, err
		}
		out[i] = Step{Entry: numbers[s.Entry], Kind: s.Kind, Params: params, Words: e.Words()}
	}
	return out, nil
}

// Needs lists the columns the steps speak of that none of them makes.
func (p Table) Needs() ([]string, error) {
	var needs, made []string
	for _, s := range p.Steps {
		e, err := entry.Decode(s.Kind, s.Params)
		if err != nil {
			return nil, stepped(s, err)
		}
		for _, name := range entry.Reads(e) {
			if !slices.Contains(needs, name) && !slices.ContainsFunc(made, func(m string) bool { return m == name || formula.Word(m) == name }) &&
				!slices.ContainsFunc(needs, func(n string) bool { return formula.Word(n) == name }) {
				needs = append(needs, name)
			}
		}
		made = append(made, entry.Makes(e)...)
	}
	return needs, nil
}
