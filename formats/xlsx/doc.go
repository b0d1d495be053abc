// Package xlsx reads and writes workbooks (ECMA-376, Office Open XML), through excelize.
//
// Cells are read by their stored values: a formula by its last result, a date as an ISO
// 8601 date whatever it is shown as, a number as it is stored, with the decimals its cell
// shows where that loses nothing (12.5 shown as 12.50 is read so). Merged cells hold
// their value in the first of them only, and are told.
//
// Before anything is unpacked the sizes in the archive's directory are held against the
// limits; large parts are unpacked to temporary files, which are removed.
package xlsx

// Limits of what is read.
const (
	maxUnpacked = 8 << 30   // bytes of all parts together
	maxSmall    = 256 << 20 // bytes of the parts that are held in memory
	inMemory    = 16 << 20  // sheets and texts above this are unpacked to a file
)

// MaxRows is how many rows a sheet can hold, the names among them.
const MaxRows = 1_048_576
