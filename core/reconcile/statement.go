package reconcile

import (
	"fmt"
	"slices"
	"strings"
)

// Class is a class of difference between two ledgers: what it is called, how many sets or items it has, and by how much it makes ours exceed theirs.
type Class struct {
	Name       string `json:"class"`
	Count      int    `json:"count"`
	Difference string `json:"difference"`

	minor int64
}

// Statement walks from our balance to theirs: every item of both sides is in one class, and what no class explains is nothing.
type Statement struct {
	Ours        string  `json:"ours"`   // the sum of our items
	Theirs      string  `json:"theirs"` // of theirs
	Difference  string  `json:"difference"`
	Classes     []Class `json:"classes"`
	Unexplained string  `json:"unexplained"`
	Items       [2]int  `json:"items"` // of each side
	Settled     [2]int  `json:"settled"`
	Offered     [2]int  `json:"offered"`
	Open        [2]int  `json:"open"`
	Unread      [2]int  `json:"unread"`  // lines whose amount does not read, which are no items
	Untried     int     `json:"untried"` // items whose sums of several were too many to try
}

// The classes, in their order.
const (
	agreed    = "settled, the amounts agree"
	differs   = "settled, the amounts differ"
	offered   = "offered, to be looked at"
	twiceOurs = "posted twice in our books"
	twice     = "posted twice in theirs"
	withThem  = "in our books alone, outstanding with them"
	withUs    = "in theirs alone, not in our books"
)

// Statement sums up what settling found. It is an error of this package, and refused, if an item is in no class or in two, or the classes do not add up to the difference.
func (r *Result) Statement() (*Statement, error) {
	w := r.world
	s := &Statement{Ours: w.amount(r.sides[0].total), Theirs: w.amount(r.sides[1].total), Difference: w.amount(r.sides[0].total - r.sides[1].total), Untried: r.Untried}
	classes := map[string]*Class{}
	add := func(name string, minor int64) {
		c := classes[name]
		if c == nil {
			c = &Class{Name: name}
			classes[name] = c
		}
		c.Count++
		c.minor += minor
	}
	seen := [2]int{}
	for i := range r.Sets {
		set := &r.Sets[i]
		difference := int64(0)
		for side, list := range [2][]int32{set.Ours, set.Theirs} {
			for _, at := range list {
				if int(r.sets[side][at]) != i+1 {
					return nil, fmt.Errorf("item %d of side %d is in two sets", at, side)
				}
				difference += int64(1-2*side) * r.sides[side].items[at].amount
			}
			seen[side] += len(list)
			if set.Settled {
				s.Settled[side] += len(list)
			} else {
				s.Offered[side] += len(list)
			}
		}
		switch {
		case !set.Settled:
			add(offered, difference)
		case difference == 0:
			add(agreed, 0)
		default:
			add(differs, difference)
		}
	}
	for side := range r.sides {
		for i, set := range r.sets[side] {
			if set != 0 {
				continue
			}
			seen[side]++
			s.Open[side]++
			minor := int64(1-2*side) * r.sides[side].items[i].amount
			switch {
			case strings.HasPrefix(r.reason[side][i], "posted twice"):
				add([2]string{twiceOurs, twice}[side], minor)
			default:
				add([2]string{withThem, withUs}[side], minor)
			}
		}
		s.Items[side], s.Unread[side] = len(r.sides[side].items), len(r.sides[side].bad)
		if seen[side] != len(r.sides[side].items) {
			return nil, fmt.Errorf("side %d has %d items, %d are in classes", side, len(r.sides[side].items), seen[side])
		}
	}
	left := r.sides[0].total - r.sides[1].total
	for _, name := range []string{agreed, differs, offered, twiceOurs, twice, withThem, withUs} {
		if c := classes[name]; c != nil {
			c.Difference = w.amount(c.minor)
			left -= c.minor
			s.Classes = append(s.Classes, *c)
		}
	}
	s.Unexplained = w.amount(left)
	if left != 0 {
		return nil, fmt.Errorf("the classes leave %s unexplained", s.Unexplained)
	}
	return s, nil
}

// Line is what became of an item.
type Line struct {
	Side       int // 0 for ours
	Row        int // from 0
	State      State
	Set        int // from 1; 0 for none
	Pass       int
	Reason     string
	Difference string // of its set: ours less theirs
}

// Lines gives every item of both sides, ours first, in the order of their rows.
func (r *Result) Lines(to func(Line) error) error {
	for side := range r.sides {
		for i := range r.sides[side].items {
			l := Line{Side: side, Row: int(r.sides[side].items[i].row), State: Open, Reason: r.reason[side][i]}
			if at := r.sets[side][i]; at != 0 {
				set := &r.Sets[at-1]
				l.State, l.Set, l.Pass, l.Reason = Offered, int(at), set.Pass, set.Reason
				if set.Settled {
					l.State = Settled
				}
				l.Difference = r.world.amount(set.Difference)
			}
			if err := to(l); err != nil {
				return err
			}
		}
	}
	return nil
}

// Unread lists the lines of a side whose amount does not read.
func (r *Result) Unread(side int) []Unread { return slices.Clone(r.sides[side].bad) }
