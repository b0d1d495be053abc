package table

import (
	"runtime"
	"sync"
)

// rewriteAtOnce is how many values one goroutine rewrites before they are given codes.
const rewriteAtOnce = 1 << 15

// Rewrite gives the column with every value replaced by what a function makes of it. Two
// values that become one share a code afterwards. Values that are left alone must come back
// as they are. Missing cells stay missing. each gives a function for one goroutine, which is told
// the code of the value too. recode gives for each code the code of what the value has become,
// in the dictionary of the new column.
//
// Cost: one call per distinct value, on all cores, and a new View; no row is touched.
func (c *Column) Rewrite(each func() func(code uint32, value string) string) (next *Column, recode []uint32) {
	n := c.Dict.Len()
	recode = make([]uint32, 1, n+1)
	codes := recode[1:1]
	b := NewDictBuilder()
	workers := min(runtime.GOMAXPROCS(0), 1+n/rewriteAtOnce)
	waves := [2][]*rewriter{}
	for i := range waves {
		for range workers {
			waves[i] = append(waves[i], &rewriter{dict: c.Dict, to: each()})
		}
	}
	// While the values of one wave are given codes, those of the next are rewritten.
	now, ahead := waves[0], waves[1]
	at := begin(now, 1)
	for {
		for _, w := range now {
			w.done.Wait()
		}
		at = begin(ahead, at)
		for _, w := range now {
			if !b.Room(codes, len(w.text)) {
				panic("table: a dictionary holds at most 4 GiB of distinct text")
			}
			codes = b.Encode(codes, w.text, nil, w.spans)
		}
		if len(codes) == n {
			break
		}
		now, ahead = ahead, now
	}
	out := *c
	out.Dict = b.Finish(codes)
	recode = recode[:n+1]
	out.View = &View{At: recode}
	if c.View != nil {
		out.View.At = make([]uint32, len(c.View.At))
		for p, code := range c.View.At {
			out.View.At[p] = recode[code]
		}
	}
	return &out, recode
}

// Each is what Rewrite takes for a function that several goroutines can share.
func Each(to func(value string) string) func() func(code uint32, value string) string {
	return func() func(uint32, string) string { return func(_ uint32, v string) string { return to(v) } }
}

// rewriter rewrites values that follow on one another, for one goroutine.
type rewriter struct {
	dict  *Dict
	to    func(code uint32, value string) string
	text  []byte
	spans []uint64
	done  sync.WaitGroup
}

// begin begins to rewrite the values from a code on and gives the code of the first that is left.
func begin(wave []*rewriter, from int) int {
	for _, w := range wave {
		begin, end := from, min(from+rewriteAtOnce, w.dict.Len()+1)
		w.done.Go(func() { w.run(begin, end) })
		from = end
	}
	return from
}

func (w *rewriter) run(from, to int) {
	w.text, w.spans = w.text[:0], w.spans[:0]
	for code := from; code < to; code++ {
		v := w.to(uint32(code), w.dict.Value(uint32(code)))
		w.spans = append(w.spans, uint64(len(w.text))<<32|uint64(len(v)))
		w.text = append(w.text, v...)
	}
}
