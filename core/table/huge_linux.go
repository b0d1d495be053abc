package table

import (
	"unsafe"

	"golang.org/x/sys/unix"
)

// hugeFrom is the size of an array from which it is worth asking for huge pages.
const hugeFrom = 4 << 20

// huge asks the system to hold an array, which is read at random, in huge pages: half of
// the waiting for memory is otherwise for the tables that say where its pages are. It is
// advice; nothing depends on whether it is taken.
func huge[T any](array []T) []T {
	size := cap(array) * int(unsafe.Sizeof(*new(T)))
	if size < hugeFrom {
		return array
	}
	const page = 2 << 20
	bytes := unsafe.Slice((*byte)(unsafe.Pointer(unsafe.SliceData(array))), size)
	from := int(-uintptr(unsafe.Pointer(unsafe.SliceData(bytes))) & (page - 1))
	to := from + (size-from)&^(page-1)
	if from < to {
		_ = unix.Madvise(bytes[from:to], unix.MADV_HUGEPAGE)
	}
	return array
}
