// Package join puts the columns of one table beside the matching rows of another. The
// coverage of both sides, the rows that result and why, and what fails to match come
// out of the same computation, over all rows, before anything is stored.
package join

import (
	"fmt"
	"slices"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// On is a pair of columns whose values must be equal, to the letter or as As says. A row whose key
// has a missing cell, or whose key cells are all blank, matches nothing.
type On struct {
	Left  string       `json:"left"`
	Right string       `json:"right"`
	As    duplicate.As `json:"as,omitempty"`
	// Crosswalk is one by whose standard values both are compared.
	Crosswalk string `json:"crosswalk,omitempty"`
}

// Rows says which rows the result keeps.
type Rows string

// The choices of rows.
const (
	Both  Rows = "both"  // rows found in both tables
	Left  Rows = "left"  // all rows of the left table
	Right Rows = "right" // all rows of the right table
	All   Rows = "all"   // all rows of both
)

// Bring is a column that the result has, under a name.
type Bring struct {
	Column string `json:"column"`
	As     string `json:"as"`
}

// Spec is the parameters of a join. Left and Right nil bring every column but the
// right side's key columns, with clashing names made different.
type Spec struct {
	On    []On    `json:"on"`
	Rows  Rows    `json:"rows"`
	Left  []Bring `json:"left"`
	Right []Bring `json:"right"`
	// Standards are the standard values of variants, by crosswalk.
	Standards map[string]map[string]string `json:"-"`
}

// Side is one table of a join.
type Side struct {
	Table *table.Table
	Name  string // of the table, for provenance and messages
}

// Match is which rows of two tables are partners: the computation behind a preview
// and the result alike.
type Match struct {
	spec        Spec
	left, right Side
	keyLeft     []*table.Column
	keyRight    []*table.Column
	group       []uint32 // right key group of each left row; 0 for none
	start       []uint32 // rights[start[g]:start[g+1]] are the right positions of group g
	rights      []uint32
	met         []bool // right groups that some left row matches
	Coverage    Coverage
}

// Coverage counts partners on both sides, over all rows.
type Coverage struct {
	LeftRows     int `json:"leftRows"`
	LeftMatched  int `json:"leftMatched"` // left rows with at least one partner
	RightRows    int `json:"rightRows"`
	RightMatched int `json:"rightMatched"`
	Pairs        int `json:"pairs"`     // rows that matching produces
	LeftMany     int `json:"leftMany"`  // left rows with several partners
	RightMany    int `json:"rightMany"` // right rows with several partners
	Result       int `json:"result"`    // rows of the result, by the choice of rows
}

// Find matches the rows. Cost: O(distinct of the key columns) to translate values
// from one dictionary to the other, then O(rows of both x pairs of columns).
func Find(left, right Side, spec Spec) (*Match, error) {
	m := &Match{spec: spec, left: left, right: right}
	if len(spec.On) == 0 {
		return nil, problem.New("Choose a column on each side", "no pair of columns was chosen to join on")
	}
	if !slices.Contains([]Rows{Both, Left, Right, All}, spec.Rows) {
		return nil, problem.New("Use both, left, right or all", "there is no choice of rows called %q", spec.Rows)
	}
	for _, on := range spec.On {
		l, err := side(left, on.Left)
		if err != nil {
			return nil, err
		}
		r, err := side(right, on.Right)
		if err != nil {
			return nil, err
		}
		if !slices.Contains([]duplicate.As{duplicate.Exact, duplicate.Folded, duplicate.Words, duplicate.Read}, on.As) {
			return nil, problem.New("Use folded, words or read, or leave it out", "there is no way to compare called %q", on.As)
		}
		m.keyLeft, m.keyRight = append(m.keyLeft, l), append(m.keyRight, r)
	}
	if err := m.columns(); err != nil {
		return nil, err
	}
	m.match()
	m.count()
	return m, nil
}

func side(s Side, name string) (*table.Column, error) {
	c, _, err := s.Table.Column(name)
	if err != nil {
		p := problem.New("Choose a column the table has now", "%s has no column %q", s.Name, name)
		p.Column = name
		return nil, p
	}
	return c, nil
}

// columns checks what is brought, or fills it in.
func (m *Match) columns() error {
	taken := map[string]bool{}
	if m.spec.Left == nil {
		for _, c := range m.left.Table.Columns() {
			m.spec.Left = append(m.spec.Left, Bring{c.Name, c.Name})
		}
	}
	for _, b := range m.spec.Left {
		taken[b.As] = true
	}
	if m.spec.Right == nil {
		m.spec.Right = []Bring{}
		for _, c := range m.right.Table.Columns() {
			if !slices.Contains(m.keyRight, c) {
				m.spec.Right = append(m.spec.Right, Bring{c.Name, free(taken, c.Name)})
			}
		}
	}
	seen := map[string]bool{}
	for i, b := range append(slices.Clone(m.spec.Left), m.spec.Right...) {
		from := m.left
		if i >= len(m.spec.Left) {
			from = m.right
		}
		if _, err := side(from, b.Column); err != nil {
			return err
		}
		if b.As == "" || seen[b.As] {
			p := problem.New("Give each column a name of its own", "two columns of the result are called %q, or one has no name", b.As)
			p.Column = b.Column
			return p
		}
		seen[b.As] = true
	}
	if len(seen) == 0 {
		return problem.New("Choose at least one column to bring", "the result has no column")
	}
	return nil
}

// Columns gives what the result brings from each side, filled in.
func (m *Match) Columns() (left, right []Bring) { return m.spec.Left, m.spec.Right }

func free(taken map[string]bool, name string) string {
	as := name
	for i := 2; taken[as]; i++ {
		as = fmt.Sprintf("%s (%d)", name, i)
	}
	taken[as] = true
	return as
}

func (m *Match) match() {
	n := m.right.Table.Rows()
	numbers := make([][2][]uint32, len(m.keyLeft))
	for i, on := range m.spec.On {
		numbers[i][0], numbers[i][1] = alike(m.keyLeft[i], m.keyRight[i], on, m.spec.Standards[on.Crosswalk])
	}
	ofRight, groups := keys(m.right.Table, m.keyRight, numbers, 1, nil)
	m.start = make([]uint32, groups.n+2)
	for _, g := range ofRight {
		m.start[g+1]++
	}
	m.start[1] = 0 // rows without a key belong to no group
	for g := 1; g < len(m.start); g++ {
		m.start[g] += m.start[g-1]
	}
	m.rights = make([]uint32, n)
	at := slices.Clone(m.start)
	for row, g := range ofRight {
		if g > 0 {
			m.rights[at[g]] = uint32(row)
			at[g]++
		}
	}
	m.group, _ = keys(m.left.Table, m.keyLeft, numbers, 0, groups)
}

func (m *Match) count() {
	c := &m.Coverage
	c.LeftRows, c.RightRows = m.left.Table.Rows(), m.right.Table.Rows()
	m.met = make([]bool, len(m.start))
	lefts := make([]uint32, len(m.start))
	for _, g := range m.group {
		if g > 0 {
			size := int(m.start[g+1] - m.start[g])
			c.LeftMatched++
			c.Pairs += size
			if size > 1 {
				c.LeftMany++
			}
			m.met[g] = true
			lefts[g]++
		}
	}
	for g := 1; g+1 < len(m.start); g++ {
		size := int(m.start[g+1] - m.start[g])
		if m.met[g] {
			c.RightMatched += size
		}
		if lefts[g] > 1 {
			c.RightMany += size
		}
	}
	c.Result = c.Pairs
	if m.spec.Rows == Left || m.spec.Rows == All {
		c.Result += c.LeftRows - c.LeftMatched
	}
	if m.spec.Rows == Right || m.spec.Rows == All {
		c.Result += c.RightRows - c.RightMatched
	}
}
