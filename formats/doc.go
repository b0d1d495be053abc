// Package formats brings tables in from files of any kind and writes them out. It finds out
// what a file is (Sniff), shows how it would be read (Look), reads it (Read) and writes
// tables by the ending of a file's name (Write). The folders below hold one format each;
// what they share is in intake (reading), grid (cells without types) and kind (writing).
package formats

import (
	"grandledger/formats/csv"
	"grandledger/formats/fixed"
	"grandledger/formats/grid"
	"grandledger/formats/json"
	"grandledger/formats/xml"
)

// The formats that can be read.
const (
	Delimited = "delimited"
	Fixed     = "fixed"
	JSON      = "json" // also JSON Lines
	Workbook  = "workbook"
	OpenDoc   = "opendocument"
	Parquet   = "parquet"
	Arrow     = "arrow"
	XML       = "xml"
	HTML      = "html"
	Statement = "statement" // of a bank: camt.053, MT940, OFX
)

// How files can be packed.
const (
	Gzip = "gzip"
	Zstd = "zstd"
	Zip  = "zip"
)

// How says how a file is read. It is kept with the table, so that the next delivery can be
// read the same way. Only the part of its format is set.
type How struct {
	Format  string        `json:"format"`
	Packed  string        `json:"packed,omitempty"`
	Pieces  []string      `json:"pieces,omitempty"` // files of an archive, or else sheets; stacked where there are several
	Text    *csv.Dialect  `json:"text,omitempty"`   // delimited
	Fixed   *fixed.Layout `json:"fixed,omitempty"`
	Grid    *grid.Range   `json:"grid,omitempty"` // workbook, opendocument, html; the sheet is in Pieces
	JSON    *json.Shape   `json:"json,omitempty"`
	XML     *xml.Shape    `json:"xml,omitempty"`
	Columns []Choice      `json:"columns,omitempty"` // which columns, under which names, in which order; none: all as they come
}

// Choice is a column to bring in.
type Choice struct {
	From string `json:"from"`
	As   string `json:"as"`
}

// FileColumn names the column that says which file or sheet a row came from, where there
// are several.
const FileColumn = "file"
