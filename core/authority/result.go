package authority

import (
	"strconv"

	"grandledger/core/linkage"
	"grandledger/core/table"
)

// Decided is what was decided of a value, beside what the rule says: the entry taken, or none.
type Decided struct {
	State State
	Entry int // row of the register, where it is identified
}

// Stands is where an answer stands, and with which candidate: what was decided, or what the rule says where nothing was. The best candidate stands beside an undecided one too; ok is false where
// there is none.
func (a *Answers) Stands(answer int, decided map[int]Decided) (state State, c Candidate, ok bool) {
	of := a.Of[answer]
	if d, somebody := decided[answer]; somebody {
		if d.State != Identified {
			return d.State, Candidate{}, false
		}
		for _, c := range of.Candidates {
			if c.Entry == d.Entry {
				return Identified, c, true
			}
		}
		return Identified, Candidate{Entry: d.Entry, Probability: 1}, true
	}
	if of.State == NotListed || len(of.Candidates) == 0 {
		return of.State, Candidate{}, false
	}
	return of.State, of.Candidates[0], true
}

// Columns gives the columns identifier, standard, state and weight for the rows of the table: of each the best candidate, whether it is identified or still undecided.
// Cost: O(rows).
func (a *Answers) Columns(rows int, decided map[int]Decided) []*table.Column {
	var builders [4]*table.DictBuilder
	var of [4][]uint32 // the codes of each answer
	for i := range builders {
		builders[i] = table.NewDictBuilder()
		of[i] = make([]uint32, len(a.Of)+1)
	}
	for n := range a.Of {
		state, c, ok := a.Stands(n, decided)
		of[2][n] = builders[2].Add(string(state))
		if ok {
			of[0][n], of[1][n] = builders[0].Add(a.Register.Identifier(c.Entry)), builders[1].Add(a.Register.Name(c.Entry))
			of[3][n] = builders[3].Add(strconv.FormatFloat(c.Weight, 'f', 2, 64))
		}
	}
	var out []*table.Column
	for i, name := range []string{"identifier", "standard", "state", "weight"} {
		codes := make([]uint32, rows)
		for row := range codes {
			codes[row] = of[i][a.group[row]]
		}
		out = append(out, &table.Column{Name: name, Codes: &table.Codes{At: codes}, Dict: builders[i].Dict()})
	}
	return out
}

// Result is the linkage behind the answers: what was compared, and what it weighs.
func (a *Answers) Result() *linkage.Result { return a.result }
