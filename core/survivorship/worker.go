package survivorship

import (
	"encoding/json"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode/utf8"

	"grandledger/core/reading"
	"grandledger/core/table"
)

// prepare works out what is asked of each distinct value.
func (m *making) prepare() {
	d := m.c.Dict
	switch m.rule {
	case Smallest, Largest:
		m.ranks = m.c.Ranks()
	case Longest:
		m.lengths = make([]int, d.Len()+1)
		for code := uint32(1); code <= uint32(d.Len()); code++ {
			m.lengths[code] = utf8.RuneCountInString(d.Value(code))
		}
	case Sum, Mean, Median:
		m.numbers = newNumbers(m.c, len(m.codes))
	case List, ListDistinct:
		if r := m.c.Effective(); r.Kind == reading.List {
			m.items = make([][]string, d.Len()+1)
			for code := uint32(1); code <= uint32(d.Len()); code++ {
				m.items[code], _ = r.Items(d.Value(code))
			}
		}
	}
}

// worker makes values for one goroutine.
type worker struct {
	*making
	out   []uint32
	said  []uint32 // codes of the group that are not blank, row by row
	once  []uint32 // each once, in order
	seen  []uint32 // by code: the group it was last seen in, from 1
	count []uint32 // by code: how often in the group, of the most frequent
	text  []byte
	spans []uint64
	long  bool // a value is too long, or all are
	done  sync.WaitGroup

	differ, changed, dropped, unread int
}

// stretch makes the values of the groups from one on to another.
func (w *worker) stretch(from, to int) {
	w.text, w.spans = w.text[:0], w.spans[:0]
	for group := from; group < to; group++ {
		cells := w.together[w.groups.Starts[group]:w.groups.Starts[group+1]]
		first := cells[0]
		w.said = w.said[:0]
		for _, code := range cells {
			if !w.blank(code) {
				w.said = append(w.said, code)
			}
		}
		w.distinct(uint32(group + 1))
		if len(w.once) > 1 {
			w.differ++
		}
		if w.rule.Picks() {
			code := first
			if len(w.once) > 0 {
				code = w.pick()
			}
			w.out[group] = code
			if code != first {
				w.changed++
			}
			for _, other := range w.said {
				if other != code {
					w.dropped++
				}
			}
			continue
		}
		from := len(w.text)
		w.make(first)
		if len(w.text)-from > MaxValue || len(w.text) > math.MaxUint32 {
			w.long = true
			return
		}
	}
}

// linear is how many values of a group are looked through before they are marked where they lie.
const linear = 16

// distinct lists the codes of the group each once.
func (w *worker) distinct(group uint32) {
	w.once = w.once[:0]
	if len(w.said) <= linear {
		for _, code := range w.said {
			if !slices.Contains(w.once, code) {
				w.once = append(w.once, code)
			}
		}
		return
	}
	if w.seen == nil {
		w.seen = make([]uint32, w.c.Dict.Len()+1)
	}
	for _, code := range w.said {
		if w.seen[code] != group {
			w.seen[code] = group
			w.once = append(w.once, code)
		}
	}
}

// pick chooses one of the codes of the group.
func (w *worker) pick() uint32 {
	best := w.once[0]
	switch {
	case len(w.once) == 1:
		return best
	case w.rule == Frequent:
		if w.count == nil {
			w.count = make([]uint32, w.c.Dict.Len()+1)
		}
		for _, code := range w.once {
			w.count[code] = 0
		}
		for _, code := range w.said {
			w.count[code]++
		}
	}
	for _, code := range w.once[1:] {
		better := false
		switch w.rule {
		case Longest:
			better = w.lengths[code] > w.lengths[best]
		case Frequent:
			better = w.count[code] > w.count[best]
		case Smallest:
			better = w.ranks[code] < w.ranks[best]
		case Largest:
			better = w.ranks[code] > w.ranks[best]
		}
		if better {
			best = code
		}
	}
	return best
}

// make writes the value of the group, of which first is the cell of the first row.
func (w *worker) make(first uint32) {
	from := len(w.text)
	d := w.c.Dict
	switch w.rule {
	case Count:
		w.text = strconv.AppendInt(w.text, int64(len(w.said)), 10)
	case CountDistinct:
		w.text = strconv.AppendInt(w.text, int64(len(w.once)), 10)
	case List, ListDistinct:
		w.list()
	default:
		switch {
		case len(w.said) == 0 && first == table.Missing:
			w.spans = append(w.spans, table.Absent)
			return
		case len(w.said) == 0:
			w.text = append(w.text, d.Value(first)...)
		case w.rule == Join:
			w.join(w.said)
		case w.rule == JoinDistinct:
			w.join(w.once)
		default:
			w.number()
		}
	}
	if first == table.Missing || string(w.text[from:]) != d.Value(first) {
		w.changed++
	}
	w.spans = append(w.spans, uint64(from)<<32|uint64(len(w.text)-from))
}

func (w *worker) join(codes []uint32) {
	for i, code := range codes {
		if i > 0 {
			w.text = append(w.text, w.separator...)
		}
		if w.text = append(w.text, w.c.Dict.Value(code)...); len(w.text) > math.MaxUint32 {
			return
		}
	}
}

// list writes the values of the group as a list in JSON.
func (w *worker) list() {
	items := []string{}
	codes := w.said
	if w.rule == ListDistinct {
		codes = w.once
	}
	for _, code := range codes {
		of := []string{w.c.Dict.Value(code)}
		if w.items != nil && w.items[code] != nil {
			of = w.items[code]
		}
		for _, item := range of {
			if w.rule == List || !slices.Contains(items, item) {
				items = append(items, item)
			}
		}
	}
	var out strings.Builder
	e := json.NewEncoder(&out)
	e.SetEscapeHTML(false)
	_ = e.Encode(items) // strings always can be
	w.text = append(w.text, strings.TrimSuffix(out.String(), "\n")...)
}
