package arrow

import (
	"fmt"
	"sync/atomic"

	"github.com/apache/arrow-go/v18/arrow/memory"
)

// Limited is an allocator that refuses, by a panic that Guard catches, to hold more than
// memoryLimit: sizes in a file are only claims.
type Limited struct {
	memory.Allocator
	held atomic.Int64
}

// NewLimited makes an allocator over the runtime's.
func NewLimited() *Limited { return &Limited{Allocator: memory.NewGoAllocator()} }

func (l *Limited) hold(n int) {
	if n < 0 || l.held.Add(int64(n)) > memoryLimit {
		panic(fmt.Sprintf("it asks for more than %d MiB at once", memoryLimit>>20))
	}
}

// Allocate gives memory within the limit.
func (l *Limited) Allocate(size int) []byte {
	l.hold(size)
	return l.Allocator.Allocate(size)
}

// Reallocate changes the size of memory within the limit.
func (l *Limited) Reallocate(size int, b []byte) []byte {
	l.hold(max(size, 0))
	l.held.Add(-int64(len(b)))
	return l.Allocator.Reallocate(size, b)
}

// Free gives memory back.
func (l *Limited) Free(b []byte) {
	l.held.Add(-int64(len(b)))
	l.Allocator.Free(b)
}
