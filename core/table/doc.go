// Package table holds the columnar table everything in Grand Ledger works on.
//
// A column is a dictionary of distinct values and one code per row. Whatever is
// worked out about a value (a transform, a parse, a fold) is worked out once per
// distinct value and spread to the rows by code.
//
// All parts are immutable once built, and a table is a thin frame around them:
//
//	Codes      one physical code per base row; the same for the life of a source column
//	View       physical code -> dictionary code; how an entry rewrites values without
//	           touching the codes of millions of rows
//	Dict       the distinct values, in order of first appearance; code 0 is "missing"
//	Selection  which base rows stand in the table, in order; nil is all of them
//
// Revisions share every part an entry did not touch, so undo is dropping a frame, and
// the store writes only parts it has not seen (it compares pointers).
//
// Missing (there is no cell: a join found no partner) and blank (the cell is empty
// text) are told apart: missing is code 0 in every dictionary, blank is the value "".
package table

// GCPercent is the garbage collector's target (see runtime/debug.SetGCPercent) that suits a
// process which works on tables: they are few large arrays without pointers, which cost
// nothing to mark, so collecting often is cheap and keeps the peak near what is in use.
const GCPercent = 15
