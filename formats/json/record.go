package json

import (
	"bytes"
	"fmt"
	"strings"

	"grandledger/core/table"
	"grandledger/formats/intake"
)

// part parses records into spans by column (see table.DictBuilder.Encode).
type part struct {
	scanner
	spread string // path of the list whose items become rows; empty for none

	root    *node
	columns []*leaf
	place   map[string]int // of a column, by its path
	arena   []byte
	rows    int   // of the block
	records int   // of the block
	met     int   // objects that are rows, since the beginning
	twice   []int // rows in which a name comes twice

	cells []cell // of the record at hand, while one list of it is spread
	list  span   // the list to spread in the record at hand; to is 0 where it has none
	under *node  // where the items of that list belong
	again bool   // a name came twice in the record at hand
	item  bool   // an item of that list is at hand; lists within it stay cells
}

type span struct{ from, to int }

type cell struct {
	column int
	span   uint64
}

// leaf is a column: its path, and a span for each row up to the last that has a cell.
type leaf struct {
	path  string
	spans []uint64
}

// node is an object or list item in the tree of paths. Members keep the order in which they first came,
// and the next one is guessed to follow the last, which is nearly always right.
type node struct {
	path    string
	members []*member
	byName  map[string]*member
	column  int // the column of values that stand here themselves; -1 until there is one
	seen    int // the last row object in which it was met
}

type member struct {
	name  string // as written, escapes and all
	token []byte // the name in its quotation marks and the colon behind, as most writers put them
	node  *node
}

func newPart(spread string) *part {
	return &part{root: &node{column: -1}, place: map[string]int{}, spread: spread}
}

// reset begins a new block.
func (p *part) reset(text []byte) {
	p.text, p.arena, p.rows, p.records, p.twice = text, p.arena[:0], 0, 0, p.twice[:0]
	for _, c := range p.columns {
		c.spans = c.spans[:0]
	}
}

// record parses one record and gives the place behind it. On a flaw the record has left no
// trace but, at most, columns without cells.
func (p *part) record(at int) (int, *flaw) {
	p.met++
	p.cells, p.list, p.again = p.cells[:0], span{}, false
	arena := len(p.arena)
	at, f := p.value(p.root, at, 0)
	if f != nil {
		p.arena = p.arena[:arena]
		p.undo()
		return at, f
	}
	p.records++
	if p.again {
		p.twice = append(p.twice, p.rows)
	}
	if p.spread == "" {
		p.rows++
		return at, nil
	}
	return at, p.items()
}

// undo takes back the cells of the row at hand.
func (p *part) undo() {
	for _, c := range p.columns {
		c.spans = c.spans[:min(len(c.spans), p.rows)]
	}
}

// items ends a record by a row for each item of the list that is spread, at least one.
func (p *part) items() *flaw {
	whole, n := p.cells, 0
	p.cells = nil
	at := p.list.from + 1
	for p.list.to > 0 {
		at = p.space(at)
		if p.text[at] == ']' {
			break
		}
		if n++; n > maxSpread {
			return &flaw{p.list.from, fmt.Sprintf("a list has more than %d items", maxSpread)}
		}
		p.cells = append(p.cells[:0], whole...)
		p.met++
		p.item = true
		end, f := p.value(p.under, at, 1)
		p.item = false
		if f != nil {
			return f
		}
		p.keep()
		if at = p.space(end); p.text[at] == ',' {
			at++
		}
	}
	p.cells = append(p.cells, whole...)
	if n == 0 {
		p.keep()
	}
	p.cells = whole[:0]
	return nil
}

// keep makes the gathered cells a row.
func (p *part) keep() {
	for _, c := range p.cells {
		p.file(c.column, c.span)
	}
	p.rows++
}

// value parses a value that belongs to a node.
func (p *part) value(n *node, at, depth int) (int, *flaw) {
	if at >= len(p.text) {
		return at, short
	}
	switch c := p.text[at]; {
	case c == '{':
		return p.object(n, at, depth)
	case c == '"':
		end, plain, f := p.str(at + 1)
		if f != nil {
			return end, f
		}
		if plain {
			p.set(n, uint64(at+1)<<32|uint64(end-at-1))
		} else {
			from := len(p.arena)
			p.arena = unescape(p.arena, p.text[at+1:end])
			p.set(n, table.Side|uint64(from)<<32|uint64(len(p.arena)-from))
		}
		return end + 1, nil
	case c == '[':
		if n == p.root {
			return p.places(at, depth)
		}
		end, loose, f := p.inside(at, depth)
		if f != nil {
			return end, f
		}
		switch {
		case p.spread != "" && n.path == p.spread && !p.item:
			p.list, p.under = span{at, end}, n
		case loose:
			from := len(p.arena)
			p.arena = compact(p.arena, p.text[at:end])
			p.set(n, table.Side|uint64(from)<<32|uint64(len(p.arena)-from))
		default:
			p.set(n, uint64(at)<<32|uint64(end-at))
		}
		return end, nil
	case c == '-' || '0' <= c && c <= '9':
		end, f := p.number(at)
		if f == nil {
			p.set(n, uint64(at)<<32|uint64(end-at))
		}
		return end, f
	}
	end, f := p.word(at)
	switch {
	case f != nil:
	case p.text[at] == 'n':
		p.column(n) // no cell, but a column
	default:
		p.set(n, uint64(at)<<32|uint64(end-at))
	}
	return end, f
}

// object parses the members of an object. One without members is a cell "{}".
func (p *part) object(n *node, at, depth int) (int, *flaw) {
	if depth >= maxDepth {
		return at, &flaw{at, fmt.Sprintf("objects and lists are more than %d deep in one another", maxDepth)}
	}
	begin, guess := at, 0
	at++
	for first := true; ; first = false {
		at = p.space(at)
		if at >= len(p.text) {
			return at, short
		}
		if p.text[at] == '}' {
			switch {
			case !first:
				return at, &flaw{at, "a comma stands before the end of an object or a list"}
			case n != p.root:
				p.arena = append(p.arena, "{}"...)
				p.set(n, table.Side|uint64(len(p.arena)-2)<<32|2)
			}
			return at + 1, nil
		}
		var m *node
		var f *flaw
		if guess < len(n.members) && bytes.HasPrefix(p.text[at:], n.members[guess].token) {
			m = n.members[guess].node
			at += len(n.members[guess].token)
			guess++
		} else {
			if p.text[at] != '"' {
				return at, &flaw{at, "a name in quotation marks is missing"}
			}
			end, _, f := p.str(at + 1)
			if f != nil {
				return end, f
			}
			if m = n.member(p.text[at+1:end], &guess); m == nil {
				return at, &flaw{begin, fmt.Sprintf("the records have more than %d different members", intake.MaxColumns)}
			}
			if at, f = p.colon(p.space(end + 1)); f != nil {
				return at, f
			}
		}
		if m.seen == p.met {
			p.again = true
		}
		m.seen = p.met
		if at, f = p.value(m, p.space(at), depth+1); f != nil {
			return at, f
		}
		var done bool
		if at, done, f = p.after(at, '}'); done || f != nil {
			return at, f
		}
	}
}

// places parses a record that is a list: its items are columns by place.
func (p *part) places(at, depth int) (int, *flaw) {
	at++
	for i := 0; ; i++ {
		at = p.space(at)
		if at >= len(p.text) {
			return at, short
		}
		if p.text[at] == ']' && i == 0 {
			return at + 1, nil
		}
		guess := i
		m := p.root.member(fmt.Appendf(nil, "column %d", i+1), &guess)
		if m == nil {
			return at, &flaw{at, fmt.Sprintf("a record has more than %d items", intake.MaxColumns)}
		}
		var f *flaw
		if at, f = p.value(m, at, depth+1); f != nil {
			return at, f
		}
		var done bool
		if at, done, f = p.after(at, ']'); done || f != nil {
			return at, f
		}
	}
}

// after passes over the comma behind an item, or over the end of what holds it.
func (p *part) after(at int, end byte) (next int, done bool, f *flaw) {
	at = p.space(at)
	switch {
	case at >= len(p.text):
		return at, false, short
	case p.text[at] == ',':
		return at + 1, false, nil
	case p.text[at] == end:
		return at + 1, true, nil
	}
	return at, false, &flaw{at, "a comma or the end of an object or a list is missing"}
}

// member finds a member by its name, which is guessed to be at a place; nil where there
// are too many.
func (n *node) member(name []byte, guess *int) *node {
	if *guess < len(n.members) && n.members[*guess].name == string(name) {
		*guess++
		return n.members[*guess-1].node
	}
	if n.byName == nil {
		n.byName = map[string]*member{}
	}
	if m := n.byName[string(name)]; m != nil {
		for i, other := range n.members[:min(len(n.members), 64)] {
			if other == m {
				*guess = i + 1
			}
		}
		return m.node
	}
	if len(n.members) >= intake.MaxColumns {
		return nil
	}
	m := &member{name: string(name), token: []byte(`"` + string(name) + `":`), node: &node{path: n.join(name), column: -1}}
	n.members = append(n.members, m)
	n.byName[m.name] = m
	*guess = len(n.members)
	return m.node
}

// join makes the path of a member; a full stop within a name is written as \. there.
func (n *node) join(name []byte) string {
	text := name
	if bytes.IndexByte(name, '\\') >= 0 {
		text = unescape(nil, name)
	}
	if n.path == "" && !strings.Contains(string(text), ".") {
		return string(text)
	}
	text = bytes.ReplaceAll(text, []byte("."), []byte(`\.`))
	if n.path == "" {
		return string(text)
	}
	return n.path + "." + string(text)
}

// column gives the column of a node, making it where it is new.
func (p *part) column(n *node) int {
	if n.column < 0 {
		path := n.path
		if n == p.root {
			path = "value"
		}
		column, known := p.place[path]
		if !known {
			column = len(p.columns)
			p.place[path] = column
			p.columns = append(p.columns, &leaf{path: path})
		}
		n.column = column
	}
	return n.column
}

// set gives the row at hand a cell at a node.
func (p *part) set(n *node, s uint64) {
	column := p.column(n)
	if p.spread != "" {
		p.cells = append(p.cells, cell{column, s})
		return
	}
	p.file(column, s)
}

// file puts a cell under its column.
func (p *part) file(column int, s uint64) {
	c := p.columns[column]
	for len(c.spans) < p.rows {
		c.spans = append(c.spans, table.Absent)
	}
	if len(c.spans) > p.rows {
		c.spans[p.rows] = s
		return
	}
	c.spans = append(c.spans, s)
}
