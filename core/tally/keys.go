package tally

import (
	"cmp"
	"context"
	"runtime"
	"slices"

	"golang.org/x/sync/errgroup"

	"grandledger/core/duplicate"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Together says what the columns of a table are to one another. Every figure is over all
// rows; which pairs of columns are worth counting is seen from a sample of them.
type Together struct {
	Keys    []Key        `json:"keys"`    // fewest offenders first
	Depends []Dependency `json:"depends"` // by the column that determines
	Same    []Same       `json:"same"`
}

// Key is a column, or a pair, by which rows can be told apart, or nearly. Numbers with
// decimals are in no pair.
type Key struct {
	Columns []string `json:"columns"`
	Shared  int      `json:"shared"` // rows that share their key with another row
	Blank   int      `json:"blank"`  // rows whose key is blank throughout
}

// Dependency says that the value of one column determines that of another.
type Dependency struct {
	From       string `json:"from"`
	To         string `json:"to"`
	Values     int    `json:"values"`     // distinct values of From
	Exceptions int    `json:"exceptions"` // rows that would have to change for it to hold throughout
}

// Same are two columns that hold the same in nearly every row.
type Same struct {
	A       string `json:"a"`
	B       string `json:"b"`
	Differ  int    `json:"differ"`  // rows in which they do not
	Holding int    `json:"holding"` // rows in which at least one holds something
}

const (
	nearKey    = 0.05   // share of rows that may offend against a key
	nearHolds  = 0.01   // share of rows that may be exceptions to a dependency
	nearSame   = 0.05   // share of rows that may differ between two columns
	sampleRows = 20_000 // rows looked at to see which pairs are worth counting
	maxAtOnce  = 60     // columns of which all pairs are looked at; of more, the first
)

// TogetherOf looks at all columns and pairs of columns. The exceptions to a dependency are
// the measure g3 of Kivinen and Mannila (Approximate inference of functional dependencies
// from relations, 1995).
//
// Cost: O(sample) for each pair, and O(rows) for each that the sample does not rule out, on
// all cores.
func TogetherOf(ctx context.Context, t *table.Table) (*Together, error) {
	p := &pairing{rows: t.Rows()}
	for _, c := range t.Columns()[:min(len(t.Columns()), maxAtOnce)] {
		p.add(t, c)
	}
	out := &Together{Keys: []Key{}, Depends: []Dependency{}, Same: []Same{}}
	if p.rows < 2 {
		return out, nil
	}
	single := make([]bool, len(p.columns))
	for i, c := range p.columns {
		if key := p.single(t, c); p.near(key) {
			single[i] = true
			out.Keys = append(out.Keys, key)
		}
	}
	type found struct {
		key     *Key
		depends []Dependency
		same    *Same
	}
	var pairs [][2]int
	for i := range p.columns {
		for j := i + 1; j < len(p.columns); j++ {
			pairs = append(pairs, [2]int{i, j})
		}
	}
	all := make([]found, len(pairs))
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(runtime.GOMAXPROCS(0))
	for n, pair := range pairs {
		work.Go(func() error {
			if err := ctx.Err(); err != nil {
				return err
			}
			a, b := p.columns[pair[0]], p.columns[pair[1]]
			f := &all[n]
			if !single[pair[0]] && !single[pair[1]] {
				f.key, f.depends = p.pair(a, b)
			}
			f.same = p.same(a, b)
			return nil
		})
	}
	if err := work.Wait(); err != nil {
		return nil, err
	}
	for _, f := range all {
		if f.key != nil {
			out.Keys = append(out.Keys, *f.key)
		}
		out.Depends = append(out.Depends, f.depends...)
		if f.same != nil {
			out.Same = append(out.Same, *f.same)
		}
	}
	slices.SortStableFunc(out.Keys, func(a, b Key) int {
		return cmp.Or(cmp.Compare(a.Shared+a.Blank, b.Shared+b.Blank), cmp.Compare(len(a.Columns), len(b.Columns)))
	})
	slices.SortStableFunc(out.Depends, func(a, b Dependency) int { return cmp.Compare(a.From, b.From) })
	return out, nil
}

// pairing holds what all pairs ask of the columns.
type pairing struct {
	rows    int
	columns []*paired
}

type paired struct {
	*table.Column
	codes, sample []uint32 // by row, and of the sampled rows; blank cells are Missing
	measure       bool     // a number with decimals: with anything else it tells rows apart by chance
	distinct      int
	most          int // rows of the most frequent value, blanks among them
}

func (p *pairing) add(t *table.Table, c *table.Column) {
	counts := t.Counts(c)
	one := &paired{Column: c, codes: t.LogicalCodes(c)}
	if r := c.Effective(); r.Kind == reading.Number && !r.Whole {
		one.measure = true
	}
	blank := c.Dict.Blank()
	rows := int(counts[table.Missing])
	for _, code := range blank {
		rows += int(counts[code])
	}
	if rows > int(counts[table.Missing]) {
		one.codes = slices.Clone(one.codes)
		is := make([]bool, len(counts))
		for _, code := range blank {
			is[code] = true
		}
		for i, code := range one.codes {
			if is[code] {
				one.codes[i] = table.Missing
			}
		}
	}
	one.most = rows
	is := map[uint32]bool{}
	for _, code := range blank {
		is[code] = true
	}
	for code := 1; code < len(counts); code++ {
		if counts[code] > 0 && (len(blank) == 0 || !is[uint32(code)]) {
			one.distinct++
			one.most = max(one.most, int(counts[code]))
		}
	}
	step := max(p.rows/sampleRows, 1)
	for row := 0; row < p.rows; row += step {
		one.sample = append(one.sample, one.codes[row])
	}
	p.columns = append(p.columns, one)
}

func (p *pairing) near(k Key) bool {
	return float64(k.Shared+k.Blank) <= nearKey*float64(p.rows)
}

// single counts the rows that one column does not tell apart.
func (p *pairing) single(t *table.Table, c *paired) Key {
	k := Key{Columns: []string{c.Name}}
	counts := t.Counts(c.Column)
	k.Blank = int(counts[table.Missing])
	for _, code := range c.Dict.Blank() {
		k.Blank += int(counts[code])
	}
	k.Shared = p.rows - k.Blank
	for code := 1; code < len(counts); code++ {
		if counts[code] == 1 {
			k.Shared--
		}
	}
	for _, code := range c.Dict.Blank() {
		if counts[code] == 1 {
			k.Shared++
		}
	}
	return k
}

// pair finds whether two columns together are a key, and whether one determines the other.
func (p *pairing) pair(a, b *paired) (*Key, []Dependency) {
	if a.distinct < 2 || b.distinct < 2 {
		return nil, nil
	}
	s := count(a.sample, b.sample)
	// What the sample rules out: as many pairs of equal rows, or of exceptions, stand in all rows.
	n := len(a.sample)
	mayKey := !a.measure && !b.measure && a.distinct*b.distinct >= p.rows/2 && float64(s.shared+s.blank) <= 2*nearKey*float64(n)
	mayAB := p.tells(a, b) && float64(s.fromA) <= 3*nearHolds*float64(n)+3
	mayBA := p.tells(b, a) && float64(s.fromB) <= 3*nearHolds*float64(n)+3
	if !mayKey && !mayAB && !mayBA {
		return nil, nil
	}
	f := s
	if n < p.rows {
		f = count(a.codes, b.codes)
	}
	var key *Key
	if k := (Key{Columns: []string{a.Name, b.Name}, Shared: f.shared, Blank: f.blank}); mayKey && p.near(k) {
		key = &k
	}
	var depends []Dependency
	if mayAB && float64(f.fromA) <= nearHolds*float64(p.rows) {
		depends = append(depends, Dependency{a.Name, b.Name, a.distinct, f.fromA})
	}
	if mayBA && float64(f.fromB) <= nearHolds*float64(p.rows) {
		depends = append(depends, Dependency{b.Name, a.Name, b.distinct, f.fromB})
	}
	return key, depends
}

// tells says whether it would mean anything that one column determines another: it has
// values that come again, and the other is not nearly always the same.
func (p *pairing) tells(from, to *paired) bool {
	return from.distinct*2 <= p.rows && float64(p.rows-to.most) >= 5*nearHolds*float64(p.rows)
}

// counted is what one pass over two columns finds.
type counted struct {
	shared, blank int
	fromA, fromB  int // exceptions to a determining b, and the other way
}

func count(a, b []uint32) counted {
	pair, m := duplicate.Number(b, a)
	rows, ofA, ofB := make([]uint32, m+1), make([]uint32, m+1), make([]uint32, m+1)
	var out counted
	for row, g := range pair {
		if a[row] == table.Missing && b[row] == table.Missing {
			out.blank++
			continue
		}
		rows[g]++
		ofA[g], ofB[g] = a[row], b[row]
	}
	for _, n := range rows {
		if n > 1 {
			out.shared += int(n)
		}
	}
	out.fromA, out.fromB = exceptions(rows, ofA), exceptions(rows, ofB)
	return out
}

// exceptions counts the rows outside the most frequent pair of each value, rows without a
// value left out.
func exceptions(rows, of []uint32) int {
	most := map[uint32]uint32{}
	total := 0
	for g, n := range rows {
		if n > 0 && of[g] != table.Missing {
			total += int(n)
			most[of[g]] = max(most[of[g]], n)
		}
	}
	for _, n := range most {
		total -= int(n)
	}
	return total
}

// same counts the rows in which two columns hold the same.
func (p *pairing) same(a, b *paired) *Same {
	if a.distinct < 2 || b.distinct < 2 || a.distinct*2 < b.distinct || b.distinct*2 < a.distinct {
		return nil
	}
	to := map[uint32]uint32{} // of the sample first: values of a in b
	look := func(code uint32) uint32 {
		there, ok := to[code]
		if !ok {
			if there, ok = b.Dict.Find(a.Dict.Value(code)); !ok {
				there = ^uint32(0)
			}
			to[code] = there
		}
		return there
	}
	differ, holding := 0, 0
	over := func(x, y []uint32) {
		differ, holding = 0, 0
		for row, code := range x {
			if code == table.Missing && y[row] == table.Missing {
				continue
			}
			holding++
			if code == table.Missing || look(code) != y[row] {
				differ++
			}
		}
	}
	if over(a.sample, b.sample); float64(differ) > 2*nearSame*float64(holding) {
		return nil
	}
	if over(a.codes, b.codes); holding == 0 || float64(differ) > nearSame*float64(holding) {
		return nil
	}
	return &Same{a.Name, b.Name, differ, holding}
}
