// Package survivorship makes one value of the cells of each group of rows, by a rule: the first,
// the most frequent, the sum, all joined. Blank cells say nothing; a group whose cells are all
// blank keeps that of its first row, and one whose cells agree keeps what they say under every
// rule that picks a value.
package survivorship

import (
	"runtime"
	"slices"
	"sync"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Rule says how one value is made of several.
type Rule string

// The rules. Of equals the first is picked.
const (
	First         Rule = "first"
	Last          Rule = "last"
	Longest       Rule = "longest"        // the most letters
	Frequent      Rule = "frequent"       // in the most rows
	Smallest      Rule = "smallest"       // in the order of the column: by what it is read as, then by alphabet
	Largest       Rule = "largest"        // the same from the other end
	Sum           Rule = "sum"            // exact
	Mean          Rule = "mean"           // to four more decimals than the cells have, half to even
	Median        Rule = "median"         // of an even number of cells, the mean of the two in the middle
	Count         Rule = "count"          // cells that say something
	CountDistinct Rule = "count-distinct" // different values among them
	Join          Rule = "join"           // all values with a separator between, in the order of the rows
	JoinDistinct  Rule = "join-distinct"  // each once
	List          Rule = "list"           // all values as a list; cells that are lists give their items
	ListDistinct  Rule = "list-distinct"  // each once
)

// MaxValue is how many bytes a value that is made can have.
const MaxValue = 16 << 20

// Rules lists all rules.
var Rules = []Rule{First, Last, Longest, Frequent, Smallest, Largest, Sum, Mean, Median, Count, CountDistinct, Join, JoinDistinct, List, ListDistinct}

// Numbers says whether the rule asks for a column of numbers.
func (r Rule) Numbers() bool { return r == Sum || r == Mean || r == Median }

// Picks says whether the value is one of the cells as it stands.
func (r Rule) Picks() bool {
	return slices.Contains([]Rule{First, Last, Longest, Frequent, Smallest, Largest}, r)
}

// Groups lists the rows of groups by position: those of group g are Rows[Starts[g]:Starts[g+1]],
// in order, at least one.
type Groups struct{ Starts, Rows []uint32 }

// Len is the number of groups.
func (g Groups) Len() int { return len(g.Starts) - 1 }

// Of lists the rows of a group.
func (g Groups) Of(group int) []uint32 { return g.Rows[g.Starts[group]:g.Starts[group+1]] }

// Made is a column with one value for each group.
type Made struct {
	Dict    *table.Dict
	Codes   []uint32 // by group
	Differ  int      // groups whose cells, blanks aside, are not all the same
	Changed int      // groups whose value is not the cell of their first row
	Dropped int      // cells that say something which the value of their group does not come from
	Unread  int      // of them, those that are no numbers where numbers are asked for
}

// Make works a column out. It is refused where the rule asks for numbers and the column is not
// read so. Cost: O(rows) on all cores; O(distinct log distinct) besides for the smallest and the
// largest, and O(bytes of the values made) where values are made.
func Make(t *table.Table, c *table.Column, g Groups, rule Rule, separator string) (*Made, error) {
	refuse := func(remedy, what string, args ...any) (*Made, error) {
		p := problem.New(remedy, what, args...)
		p.Column = c.Name
		return nil, p
	}
	if !slices.Contains(Rules, rule) {
		return refuse("Use one of "+listed(), "there is no rule %q to make one value of several", rule)
	}
	if rule.Numbers() {
		if r := c.Effective(); r.Kind != reading.Number {
			return refuse("Read it as numbers first, or choose another rule", "the %s of %s cannot be worked out, as it is read as %s", rule, c.Name, r.Words())
		}
	}
	m := &making{c: c, codes: t.LogicalCodes(c), groups: g, blank: blanks(c), rule: rule, separator: separator}
	m.prepare()
	out := &Made{Dict: c.Dict, Codes: make([]uint32, g.Len())}
	if !m.run(out) {
		return refuse("Choose a key with smaller groups, or another rule", "a value of %s would be longer than %d MiB, or all of them longer than 4 GiB", c.Name, MaxValue>>20)
	}
	return out, nil
}

func listed() string {
	words := string(Rules[0])
	for _, r := range Rules[1:] {
		words += ", " + string(r)
	}
	return words
}

// blanks says of each code whether its value is blank; Missing is.
func blanks(c *table.Column) []bool {
	out := make([]bool, c.Dict.Len()+1)
	out[table.Missing] = true
	for _, code := range c.Dict.Blank() {
		out[code] = true
	}
	return out
}

// making is a column being worked out.
type making struct {
	c         *table.Column
	codes     []uint32
	groups    Groups
	blank     []bool
	rule      Rule
	separator string

	ranks   []uint32 // of the smallest and the largest
	lengths []int    // of the longest
	numbers *numbers // of sums, means and medians
	items   [][]string
}

// atOnce is how many groups one goroutine makes values for before they are given codes.
const atOnce = 1 << 14

// run makes the values. Groups are shared out in stretches; where values are made, they are given
// codes in the order of the groups, so that the result does not depend on the number of cores. It is
// false where a value, or all of them, would be too long.
func (m *making) run(out *Made) bool {
	workers := make([]*worker, min(runtime.GOMAXPROCS(0), 1+m.groups.Len()/atOnce))
	for i := range workers {
		workers[i] = &worker{making: m, out: out.Codes, count: map[uint32]int{}}
	}
	var b *table.DictBuilder
	var codes []uint32
	if !m.rule.Picks() {
		b = table.NewDictBuilder()
	}
	for at := 0; at < m.groups.Len(); {
		var all sync.WaitGroup
		for _, w := range workers {
			from, to := at, min(at+atOnce, m.groups.Len())
			all.Go(func() { w.stretch(from, to) })
			at = to
		}
		all.Wait()
		if b == nil {
			continue
		}
		for _, w := range workers {
			if w.long || !b.Room(codes, len(w.text)) {
				return false
			}
			codes = b.Encode(codes, w.text, nil, w.spans)
		}
	}
	for _, w := range workers {
		out.Differ += w.differ
		out.Changed += w.changed
		out.Dropped += w.dropped
		out.Unread += w.unread
	}
	if b != nil {
		out.Dict, out.Codes = b.Finish(codes), codes
	}
	return true
}
