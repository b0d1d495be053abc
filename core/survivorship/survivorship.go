// Package survivorship makes one value of the cells of each group of rows, by a rule: the first,
// the most frequent, the sum, all joined. Blank cells say nothing; a group whose cells are all
// blank keeps that of its first row, and one whose cells agree keeps what they say under every
// rule that picks a value.
package survivorship

import (
	"runtime"
	"slices"

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

// Groups says which rows are together, by position.
type Groups struct {
	Group  []uint32 // of each row, from 0 in the order of their first rows
	First  []uint32 // row of each group
	Starts []uint32 // of each group, how many rows the groups before it have; last, all rows
}

// Len is the number of groups.
func (g Groups) Len() int { return len(g.First) }

// Of lists the rows of a group. Cost: O(rows).
func (g Groups) Of(group int) []uint32 {
	var out []uint32
	for row, of := range g.Group {
		if int(of) == group {
			out = append(out, uint32(row))
		}
	}
	return out
}

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
	m := &making{c: c, codes: t.LogicalCodes(c), groups: g, blanks: c.Dict.Blank(), rule: rule, separator: separator}
	out := &Made{Dict: c.Dict, Codes: make([]uint32, g.Len())}
	if rule == First || rule == Last {
		m.pass(out, t.Counts(c))
		return out, nil
	}
	m.prepare()
	m.gather()
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

// making is a column being worked out.
type making struct {
	c         *table.Column
	codes     []uint32 // by row
	together  []uint32 // the same, group by group
	groups    Groups
	blanks    []uint32 // codes of blank values, which are few
	rule      Rule
	separator string

	ranks   []uint32 // of the smallest and the largest
	lengths []int    // of the longest
	numbers *numbers // of sums, means and medians
	items   [][]string
}

// blank says whether a cell says nothing.
func (m *making) blank(code uint32) bool {
	return code == table.Missing || len(m.blanks) > 0 && slices.Contains(m.blanks, code)
}

// pass picks the first or the last value of every group in passes over the rows as they stand, so
// that only what is asked of the groups, which are fewer, lies far apart.
func (m *making) pass(out *Made, counts []uint32) {
	blanks := counts[table.Missing] > 0
	for _, code := range m.blanks {
		blanks = blanks || counts[code] > 0
	}
	picked := out.Codes
	if !blanks && m.rule == First {
		for group, row := range m.groups.First {
			picked[group] = m.codes[row]
		}
	} else {
		for row, code := range m.codes {
			if group := m.groups.Group[row]; !m.blank(code) && (m.rule == Last || picked[group] == table.Missing) {
				picked[group] = code
			}
		}
	}
	differs := make([]uint8, len(picked))
	for row, code := range m.codes {
		group := m.groups.Group[row]
		other := uint8(0) // without a branch, as it would be guessed wrongly half the time
		if picked[group] != code {
			other = 1
		}
		if blanks && other == 1 && m.blank(code) {
			continue
		}
		differs[group] |= other
		out.Dropped += int(other)
	}
	for group, code := range picked {
		first := m.codes[m.groups.First[group]]
		if code == table.Missing { // nothing is said in it
			picked[group] = first
			continue
		}
		if differs[group] == 1 {
			out.Differ++
		}
		if code != first {
			out.Changed++
		}
	}
}

// gather puts the codes of each group side by side: writing to as many places as there are groups
// costs less than reading the rows of each group from all over the column.
func (m *making) gather() {
	m.together = make([]uint32, len(m.codes))
	next := slices.Clone(m.groups.Starts)
	for row, code := range m.codes {
		group := m.groups.Group[row]
		m.together[next[group]] = code
		next[group]++
	}
}

// atOnce is how many groups one goroutine makes values for before they are given codes.
const atOnce = 1 << 12

// run makes the values. Groups are shared out in stretches, and while the values of some are given
// codes those of the next are made; codes are given in the order of the groups, so that the result
// does not depend on the number of cores. It is false where a value, or all of them, would be too
// long.
func (m *making) run(out *Made) bool {
	var waves [2][]*worker
	for i := range waves {
		for range min(runtime.GOMAXPROCS(0), 1+m.groups.Len()/atOnce) {
			waves[i] = append(waves[i], &worker{making: m, out: out.Codes})
		}
	}
	at := 0
	begin := func(wave []*worker) {
		for _, w := range wave {
			from, to := at, min(at+atOnce, m.groups.Len())
			w.done.Go(func() { w.stretch(from, to) })
			at = to
		}
	}
	b, codes := table.NewDictBuilder(), make([]uint32, 0, m.groups.Len())
	begin(waves[0])
	for now := 0; ; now = 1 - now {
		for _, w := range waves[now] {
			w.done.Wait()
		}
		last := at == m.groups.Len()
		if !last {
			begin(waves[1-now])
		}
		for _, w := range waves[now] {
			if w.long || !m.rule.Picks() && !b.Room(codes, len(w.text)) {
				for _, other := range waves[1-now] {
					other.done.Wait()
				}
				return false
			}
			codes = b.Encode(codes, w.text, nil, w.spans)
		}
		if last {
			break
		}
	}
	for _, w := range append(waves[0], waves[1]...) {
		out.Differ += w.differ
		out.Changed += w.changed
		out.Dropped += w.dropped
		out.Unread += w.unread
	}
	if !m.rule.Picks() {
		out.Dict, out.Codes = b.Finish(codes), codes
	}
	return true
}
