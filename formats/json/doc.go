// Package json reads JSON (RFC 8259) and JSON Lines into tables, and writes them.
//
// A record is an object. Its members become columns, those of objects within it columns
// by path ("vessel.name"), lists become cells that hold the list as compact JSON text.
// Numbers keep their text exactly as written; text loses its quotation marks and escapes;
// true and false are text; null is no cell, as is a member that is not there. A record
// that is no object is one cell of the column "value", one that is a list gives columns
// by place. Where a member comes twice the last one counts, and it is told.
//
// The items of one list can be made rows (Shape.Spread): the other cells of the record
// are repeated on each.
//
// Lines are parsed in blocks on all cores like delimited text (package csv); the records of
// a list inside a document are parsed one after the other. Nothing but a block is held.
package json

// Limits of what is read.
const (
	maxDepth  = 200       // objects and lists within one another
	maxSpread = 1_000_000 // items of one list made rows
)

// Shape says where the records are.
type Shape struct {
	Records string `json:"records,omitempty"` // path to their list inside a document; empty: the whole is lines or a list
	Spread  string `json:"spread,omitempty"`  // path of the list inside a record whose items become rows
}
