// Package csv reads and writes delimited text (RFC 4180 and its common relatives).
//
// Reading is exact and forgiving, and says what it forgave: rows with too few or too
// many cells, quotation marks that are not doubled, bytes that are not of the
// encoding, names used twice are repaired, counted and listed in the Report. What
// cannot be repaired without guessing (a quotation mark that never closes) is refused
// with its row and column.
//
// A quotation mark is special only as the first character of a cell. Inside a quoted
// cell a doubled mark is one mark, and a mark that neither ends the cell nor is
// doubled is taken as it stands. Cells keep every other byte, line ends included.
//
// The text is read in blocks. The two halves of a block are split side by side, the
// second from a guessed line start; the guess is checked against where the first half
// really ended and the second is split again where it was wrong. Columns are then
// encoded side by side, each in row order, so the result does not depend on timing.
package csv

// maxExtra is how many columns beyond the header over-long rows may open.
const maxExtra = 100
