// Package arrow reads and writes Apache Arrow files (the IPC file and stream formats) and
// holds what Parquet shares with them: how typed values become text and back.
//
// Numbers and decimals become the text that stands for exactly them, dates and moments
// ISO 8601, structures columns by path ("vessel.name"), lists and maps compact JSON text,
// nulls cells that do not exist. Bytes that are no text become base64.
package arrow

// memoryLimit is how much the decoder may hold at once; a file that asks for more is
// refused.
const memoryLimit = 2 << 30

// batchRows is how many rows are turned at once.
const batchRows = 1 << 16
