package store

import (
	"container/list"
	"sync"

	"golang.org/x/sync/singleflight"
)

// cacheBytes is how much memory loaded tables may take before the one used longest ago
// is let go. Tables that share parts are counted each for itself, so this is a bound.
const cacheBytes = 4 << 30

// cache keeps loaded revisions. Revisions never change, so nothing is ever stale.
type cache struct {
	mu    sync.Mutex
	byRev map[int64]*list.Element
	order *list.List // most recently used first
	bytes int
	once  singleflight.Group
}

func newCache() *cache { return &cache{byRev: map[int64]*list.Element{}, order: list.New()} }

func (c *cache) get(revision int64) *Loaded {
	c.mu.Lock()
	defer c.mu.Unlock()
	e := c.byRev[revision]
	if e == nil {
		return nil
	}
	c.order.MoveToFront(e)
	return e.Value.(*Loaded)
}

func (c *cache) put(l *Loaded) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.byRev[l.Revision] != nil {
		return
	}
	c.byRev[l.Revision] = c.order.PushFront(l)
	c.bytes += l.bytes
	for c.bytes > cacheBytes && c.order.Len() > 1 {
		last := c.order.Remove(c.order.Back()).(*Loaded)
		delete(c.byRev, last.Revision)
		c.bytes -= last.bytes
	}
}
