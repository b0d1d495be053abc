// Package intake is what the readers of all formats share: names of columns made usable,
// repairs counted and told, cells gathered into columns, limits.
package intake

import (
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Limits of what any format may hold.
const (
	MaxColumns = 16384
	MaxCell    = 16 << 20 // bytes of one cell
	MaxName    = 200      // bytes of a column's name; longer ones are cut
	MaxCells   = 1 << 31  // of a table; a small file can claim any number of empty ones
)

// Options says what is read and whom to tell.
type Options struct {
	File     string                      // name for messages and provenance
	Size     int64                       // bytes to come, 0 where not known; sizes the buffers
	Progress func(bytes int64, rows int) // called now and then; may be nil
	Settling func(done, total int)       // called at the end for each column whose values are settled; may be nil
	Rows     int                         // stop after so many rows; 0 is all of them
}

// TooManyColumns is the refusal of a file with more columns than MaxColumns.
func TooManyColumns(n int) error {
	return problem.New("Check the delimiter or the layout, or leave columns out",
		"the file has %d columns or more; at most %d can be read", n, MaxColumns)
}

// Room refuses a table with more rows than can be held, or more than MaxCells cells.
func Room(rows, columns int) error {
	if rows > table.MaxRows || rows*columns > MaxCells {
		return problem.New("Split the file, or leave columns out", "the file has more than can be held: %d rows of %d columns, at most %d cells", rows, columns, MaxCells)
	}
	return nil
}
