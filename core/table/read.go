package table

import (
	"math"
	"runtime"
	"strings"
	"sync"

	"grandledger/core/reading"
)

// Read holds how the distinct values of a dictionary read under a reading, by code.
type Read struct {
	Reading reading.Reading
	OK      []bool    // the value is of the reading
	At      []float64 // where it lies, NaN where it is not read; nil unless the reading measures
}

// ReadAs reads all values on the first call for a reading and remembers it, O(bytes of the
// values) on all cores and 9 bytes a value.
func (d *Dict) ReadAs(r reading.Reading) *Read {
	made, _ := d.reads.LoadOrStore(r, &readOnce{})
	once := made.(*readOnce)
	once.Do(func() { once.read = d.readAs(r) })
	return once.read
}

type readOnce struct {
	sync.Once
	read *Read
}

func (d *Dict) readAs(r reading.Reading) *Read {
	n := d.Len() + 1
	out := &Read{Reading: r, OK: make([]bool, n)}
	if r.Measures() {
		out.At = make([]float64, n)
		out.At[Missing] = math.NaN()
	}
	parts := runtime.GOMAXPROCS(0)
	var work sync.WaitGroup
	for part := range parts {
		work.Go(func() {
			read := r.Reader()
			for code := max(n*part/parts, 1); code < n*(part+1)/parts; code++ {
				at, ok := read(d.Value(uint32(code)))
				out.OK[code] = ok
				switch {
				case out.At == nil:
				case ok:
					out.At[code] = at
				default:
					out.At[code] = math.NaN()
				}
			}
		})
	}
	work.Wait()
	return out
}

// Proposal is the reading that the values of the column suggest, counted over all base rows,
// so that narrowing a table or setting rows aside changes no reading. Worked out on the first
// call: O(base rows), and O(bytes of the values) for each kind worth trying.
func (c *Column) Proposal() *reading.Proposal {
	made, _ := c.Dict.proposals.LoadOrStore(parts{c.Codes, c.View}, &proposalOnce{})
	once := made.(*proposalOnce)
	once.Do(func() {
		rows := count(c, nil)
		blank := make([]bool, len(rows))
		for _, code := range c.Dict.Blank() {
			blank[code] = true
		}
		var codes []uint32
		for code := uint32(1); code < uint32(len(rows)); code++ {
			if rows[code] > 0 && !blank[code] {
				codes = append(codes, code)
			}
		}
		once.proposal = reading.Propose(reading.Values{N: len(codes), At: func(i int) (string, int) {
			return c.Dict.Value(codes[i]), int(rows[codes[i]])
		}})
	})
	return once.proposal
}

// parts tells columns of one dictionary apart.
type parts struct {
	codes *Codes
	view  *View
}

type proposalOnce struct {
	sync.Once
	proposal *reading.Proposal
}

// Effective is how the column is read: as somebody said, or as its values suggest.
func (c *Column) Effective() reading.Reading {
	if c.Reading.Declared() {
		return c.Reading
	}
	return c.Proposal().Reading
}

// Sampled is the reading in force, or where none is declared what about so many of the distinct values suggest: for what needs to know what a column is
// before anything else, at the cost of those values alone.
func (c *Column) Sampled(most int) reading.Reading {
	if c.Reading.Declared() || c.Dict.Len() <= most {
		return c.Effective()
	}
	rows := count(c, nil)
	step := c.Dict.Len() / most
	var codes []uint32
	for code := 1; code < len(rows); code += step {
		if rows[code] > 0 && strings.TrimSpace(c.Dict.Value(uint32(code))) != "" {
			codes = append(codes, uint32(code))
		}
	}
	return reading.Propose(reading.Values{N: len(codes), At: func(i int) (string, int) { return c.Dict.Value(codes[i]), int(rows[codes[i]]) }}).Reading
}

// Read is how the values read under the reading in force.
func (c *Column) Read() *Read { return c.Dict.ReadAs(c.Effective()) }
