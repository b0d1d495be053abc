package duplicate

import (
	"cmp"
	"context"
	"maps"
	"math"
	"math/bits"
	"runtime"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Likeness says how a cell agrees with what is asked for, from not at all to the letter.
type Likeness uint8

// The degrees of likeness.
const (
	Differs Likeness = iota
	Blank            // there is no cell, or a blank one: neither for nor against
	Close            // one or two typing slips, by length; never of numbers and dates
	Form             // the same but for case, spacing, punctuation, accents and the order of words, or as it is read
	Same             // to the letter
)

// String names the degree.
func (l Likeness) String() string {
	return [...]string{"differs", "blank", "close", "form", "same"}[l]
}

// worth is what a degree counts, of the weight of its column.
var worth = [...]float64{Differs: 0, Close: 0.8, Form: 0.97, Same: 1}

// Match is a row that may be the record asked for.
type Match struct {
	Row   int     // position
	Score float64 // from 0 to 1: what agrees, rare values weighing more, of what both sides hold
	Cells map[string]Likeness
}

// Answer is what a table has of a record.
type Answer struct {
	Exact   int     // rows that agree with all that was asked for, to the letter
	Matches []Match // best first
}

// enough is the score from which a row is a match, evidence the share of all weights that must agree
// besides, so that a row which is nearly blank is none.
const (
	enough   = 0.75
	evidence = 0.5
)

// Probe answers whether a record is in a table already, exactly or nearly. It is safe for use by
// several goroutines.
type Probe struct {
	t     *table.Table
	codes map[string][]uint32
}

// NewProbe prepares a table: O(rows) for a column of which values were rewritten or rows set aside,
// and O(bytes of the distinct values) the first time for each dictionary. 4 bytes a row of the
// former, 34 a distinct value.
func NewProbe(t *table.Table) *Probe {
	p := &Probe{t, map[string][]uint32{}}
	for _, c := range t.Columns() {
		p.codes[c.Name] = t.LogicalCodes(c)
		c.Dict.Letters()
		c.Dict.Words() // and the facts
		t.Counts(c)
		if c.Effective().Measures() {
			c.Read()
		}
	}
	return p
}

// asked is one cell of the record.
type asked struct {
	column *table.Column
	codes  []uint32
	like   []Likeness // by code
	weight float64    // bits that agreement is worth
	rows   int        // that agree
}

// Find looks a record up, which gives values of some columns; blank ones ask nothing. Weights are
// the bits of a chance agreement, log2(rows/rows that agree). Cost: a look at the signature of each distinct value of
// the columns asked for and at each row, on all cores; comparing what is left.
func (p *Probe) Find(ctx context.Context, record map[string]string, n int) (*Answer, error) {
	var all []*asked
	for _, name := range slices.Sorted(maps.Keys(record)) {
		value := record[name]
		c, _, err := p.t.Column(name)
		if err != nil {
			bad := problem.New("Leave it out, or use a column the table has", "the table has no column %q", name)
			bad.Column = name
			return nil, bad
		}
		if strings.TrimSpace(value) != "" {
			all = append(all, &asked{column: c, codes: p.codes[name]})
			all[len(all)-1].compare(value, p.t.Counts(c), p.t.Rows())
		}
	}
	if len(all) == 0 {
		return nil, problem.New("Fill in at least one field", "the record is empty")
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	return p.best(all, n), nil
}

// compare finds how each value of the column agrees with one.
func (a *asked) compare(value string, counts []uint32, rows int) {
	d := a.column.Dict
	a.like = make([]Likeness, d.Len()+1)
	a.like[table.Missing] = Blank
	for _, code := range d.Blank() {
		a.like[code] = Blank
	}
	fold := text.Fold(value)
	hash := table.FoldHash(value)
	folds := d.Facts().Fold
	wordHash, words := table.WordHash(value), d.Words().Hash
	own := table.LettersOf(fold)
	letters := d.Letters()
	read, measures := (*table.Read)(nil), a.column.Effective().Measures()
	at := math.NaN()
	if measures {
		read = a.column.Read()
		if where, ok := a.column.Effective().Reader()(value); ok {
			at = where
		}
	}
	edits := 0
	if !measures && a.column.Effective().Kind != reading.YesNo {
		edits = text.Slips(int(own.Length))
	}
	parts := runtime.GOMAXPROCS(0)
	side(parts, func(part int) {
		for code := max(1, len(a.like)*part/parts); code < len(a.like)*(part+1)/parts; code++ {
			switch {
			case a.like[code] == Blank:
			case folds[code] == hash:
				a.like[code] = Form
				if d.Value(uint32(code)) == value {
					a.like[code] = Same
				}
			case words[code] == wordHash && wordHash != 0 || read != nil && read.At[code] == at:
				a.like[code] = Form
			case edits > 0 && letters[code].Near(own, edits):
				other := text.Fold(d.Value(uint32(code)))
				if sameDigits(fold, other) && text.Distance(fold, other, edits) <= edits {
					a.like[code] = Close
				}
			}
		}
	})
	for code, like := range a.like {
		if like > Blank {
			a.rows += int(counts[code])
		}
	}
	a.weight = max(math.Log2(float64(rows)/float64(max(a.rows, 1))), 0.1)
}

// sameDigits says whether two texts have the same digits, swapped at most: MV 12 is not MV 13,
// while LK-0048 may be written LK-0084.
func sameDigits(a, b string) bool {
	var count [10]int
	for i := range len(a) {
		if '0' <= a[i] && a[i] <= '9' {
			count[a[i]-'0']++
		}
	}
	for i := range len(b) {
		if '0' <= b[i] && b[i] <= '9' {
			count[b[i]-'0']--
		}
	}
	return count == [10]int{}
}

// search is a record being looked for.
type search struct {
	all   []*asked
	total float64 // weight of all columns
	n     int     // matches wanted
}

// best scores the rows that may be matches.
func (p *Probe) best(all []*asked, n int) *Answer {
	s := &search{all: all, n: n}
	telling := slices.Clone(all)
	slices.SortStableFunc(telling, func(a, b *asked) int { return cmp.Compare(b.weight, a.weight) })
	for _, a := range all {
		s.total += a.weight
	}
	// A row that agrees in none of the most telling columns has too little evidence, once the others
	// together weigh too little.
	rest, look := s.total, 0
	for look < len(telling) && rest >= evidence*s.total {
		rest -= telling[look].weight
		look++
	}
	telling = telling[:look]
	sets := make([][]uint64, look) // of codes that agree
	for i, a := range telling {
		sets[i] = make([]uint64, len(a.like)/64+1)
		for code, like := range a.like {
			if like > Blank {
				sets[i][code/64] |= 1 << (code % 64)
			}
		}
	}
	rows, parts := p.t.Rows(), runtime.GOMAXPROCS(0)
	found := make([]stretch, parts)
	side(parts, func(part int) {
		from, to := rows*part/parts, rows*(part+1)/parts
		hit := make([]uint64, (to-from)/64+1)
		for i, a := range telling {
			set := sets[i]
			for row, code := range a.codes[from:to] {
				hit[row/64] |= (set[code/64] >> (code % 64) & 1) << (row % 64)
			}
		}
		for word, of := range hit {
			for ; of != 0; of &= of - 1 {
				found[part].score(s, from+word*64+bits.TrailingZeros64(of))
			}
		}
	})
	whole := stretch{}
	for _, f := range found {
		whole.exact += f.exact
		whole.matches = append(whole.matches, f.matches...)
	}
	whole.trim(n)
	out := &Answer{Exact: whole.exact, Matches: []Match{}}
	for _, m := range whole.matches {
		m.Cells = map[string]Likeness{}
		for _, a := range all {
			m.Cells[a.column.Name] = a.like[a.codes[m.Row]]
		}
		out.Matches = append(out.Matches, m)
	}
	return out
}

// stretch is what was found among the rows of one goroutine.
type stretch struct {
	exact   int
	floor   float64 // score of the last of as many matches as are wanted
	matches []Match
}

// score scores a row and keeps it where it is a match, and one of the best so far.
func (f *stretch) score(s *search, row int) {
	sum, of, same := 0.0, 0.0, 0
	for _, a := range s.all {
		like := a.like[a.codes[row]]
		if like == Blank {
			continue
		}
		sum += worth[like] * a.weight
		of += a.weight
		if like == Same {
			same++
		}
	}
	if same == len(s.all) {
		f.exact++
	}
	if sum < evidence*s.total || sum < enough*of || sum/of <= f.floor {
		return
	}
	if f.matches = append(f.matches, Match{Row: row, Score: sum / of}); len(f.matches) > 4*s.n {
		f.trim(s.n)
		f.floor = f.matches[s.n-1].Score
	}
}

// trim puts the matches in order and keeps the best.
func (f *stretch) trim(n int) {
	slices.SortFunc(f.matches, func(a, b Match) int { return cmp.Or(cmp.Compare(b.Score, a.Score), cmp.Compare(a.Row, b.Row)) })
	f.matches = f.matches[:min(n, len(f.matches))]
}
