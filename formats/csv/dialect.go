package csv

import (
	"bytes"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Dialect is how a delimited text is written.
type Dialect struct {
	Encoding  string `json:"encoding"`  // one of Encodings
	Delimiter string `json:"delimiter"` // one ASCII character
	Quote     string `json:"quote"`     // one ASCII character, or empty for none
	Header    bool   `json:"header"`    // the first row names the columns
}

// Encodings lists the encodings that can be read, by their IANA names.
var Encodings = []string{"utf-8", "windows-1252", "iso-8859-1", "utf-16le", "utf-16be"}

// Delimiters lists the delimiters that are tried, the likeliest first.
var Delimiters = []string{",", ";", "\t", "|", ":"}

func (d Dialect) check() error {
	if len(d.Delimiter) != 1 || d.Delimiter[0] >= 128 || d.Delimiter == "\n" || d.Delimiter == "\r" {
		return problem.New("Use one character such as , or ; or a tab", "the delimiter %q is not one plain character", d.Delimiter)
	}
	if len(d.Quote) > 1 || d.Quote == d.Delimiter || d.Quote != "" && d.Quote[0] >= 128 {
		return problem.New(`Use " or ' or none`, "the quotation mark %q cannot be used", d.Quote)
	}
	if _, err := d.decoder(); err != nil {
		return err
	}
	return nil
}

// decoder is nil for UTF-8, whose bytes are taken as they are.
func (d Dialect) decoder() (*encoding.Decoder, error) {
	switch d.Encoding {
	case "utf-8":
		return nil, nil
	case "windows-1252":
		return charmap.Windows1252.NewDecoder(), nil
	case "iso-8859-1":
		return charmap.ISO8859_1.NewDecoder(), nil
	case "utf-16le":
		return unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewDecoder(), nil
	case "utf-16be":
		return unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM).NewDecoder(), nil
	}
	return nil, problem.New("Use utf-8, windows-1252, iso-8859-1, utf-16le or utf-16be", "the encoding %q is not known", d.Encoding)
}

// signatures are the first bytes of files that are not delimited text.
var signatures = []struct{ start, what, remedy string }{
	{"PK\x03\x04", "a zip archive or a workbook", "Save the sheet as CSV, or unpack the archive, and bring in the file inside"},
	{"%PDF", "a PDF document", "Ask for the table as CSV; a PDF holds pages, not rows"},
	{"\x1f\x8b", "gzip-compressed", "Unpack it and bring in the file inside"},
	{"\x28\xb5\x2f\xfd", "Zstandard-compressed", "Unpack it and bring in the file inside"},
	{"PAR1", "a Parquet file", "Export it as CSV"},
	{"\xd0\xcf\x11\xe0", "an old office document", "Save the sheet as CSV"},
	{"\x89PNG", "a picture", "Bring in a text file with a row on each line"},
	{"\xff\xd8\xff", "a picture", "Bring in a text file with a row on each line"},
	{"\x7fELF", "a program", "Bring in a text file with a row on each line"},
	{"SQLite format 3", "a database file", "Export the table as CSV"},
}

// Sniff works out the dialect from the first bytes of a file. It refuses files that
// are empty or are no text.
func Sniff(sample []byte) (Dialect, error) {
	d := Dialect{Delimiter: ",", Quote: `"`, Header: true}
	if len(bytes.TrimSpace(bytes.TrimPrefix(sample, []byte("\xef\xbb\xbf")))) == 0 {
		return d, problem.New("Choose a file with at least a header row", "the file is empty")
	}
	for _, s := range signatures {
		if bytes.HasPrefix(sample, []byte(s.start)) {
			return d, problem.New(s.remedy, "the file is %s, not delimited text", s.what)
		}
	}
	var err error
	if d.Encoding, err = sniffEncoding(sample); err != nil {
		return d, err
	}
	text := d.decode(sample)
	d.Delimiter = sniffDelimiter(text, d)
	if rows := d.first(text, 2); len(rows) > 0 {
		d.Header = looksLikeHeader(rows[0])
	}
	return d, nil
}

func sniffEncoding(sample []byte) (string, error) {
	switch {
	case bytes.HasPrefix(sample, []byte("\xff\xfe")):
		return "utf-16le", nil
	case bytes.HasPrefix(sample, []byte("\xfe\xff")):
		return "utf-16be", nil
	}
	if n := bytes.Count(sample, []byte{0}); n*10 > len(sample) {
		odd := 0
		for i := 1; i < len(sample); i += 2 {
			if sample[i] == 0 {
				odd++
			}
		}
		switch {
		case odd*10 > n*9:
			return "utf-16le", nil
		case odd*10 < n:
			return "utf-16be", nil
		}
		return "", problem.New("Export it as text (CSV)", "the file is not text: %d of its first %d bytes are NUL", n, len(sample))
	}
	whole := sample
	for i := 1; i < utf8.UTFMax && i <= len(whole) && len(sample) >= utf8.UTFMax; i++ {
		if utf8.RuneStart(sample[len(sample)-i]) {
			whole = sample[:len(sample)-i] // the sample may end inside a character
			break
		}
	}
	if utf8.Valid(sample) || utf8.Valid(whole) {
		return "utf-8", nil
	}
	return "windows-1252", nil
}

// decode turns a sample into UTF-8 without a byte order mark.
func (d Dialect) decode(sample []byte) []byte {
	if dec, _ := d.decoder(); dec != nil {
		if text, err := dec.Bytes(sample); err == nil {
			sample = text
		}
	}
	return bytes.TrimPrefix(sample, []byte("\xef\xbb\xbf"))
}

// sniffDelimiter takes the delimiter under which most of the first rows have one same
// number of cells, more cells counting for more.
func sniffDelimiter(text []byte, d Dialect) string {
	best, bestScore := ",", 0.0
	for _, delimiter := range Delimiters {
		d.Delimiter = delimiter
		widths := map[int]int{}
		rows := d.first(text, 100)
		for _, r := range rows {
			widths[len(r)]++
		}
		for width, n := range widths {
			if width < 2 {
				continue
			}
			score := float64(n) / float64(len(rows)) * (1 + float64(min(width, 50))/100)
			if score > bestScore {
				best, bestScore = delimiter, score
			}
		}
	}
	return best
}

// first cuts up to n rows off a text that may end anywhere.
func (d Dialect) first(text []byte, n int) [][]string {
	s := newSplitter(d, lineEnd(text))
	rows := [][]string{}
	for at := 0; at < len(text) && len(rows) < n; {
		s.reset(-1)
		end, whole := s.record(text, at, true)
		if !whole && len(rows) > 0 {
			break
		}
		if !s.empty {
			rows = append(rows, s.cells(text))
		}
		at = end
	}
	return rows
}

// looksLikeHeader doubts a first row in which some cell is a number or a date, or none
// holds anything.
func looksLikeHeader(row []string) bool {
	held := false
	for _, cell := range row {
		if _, number := table.ParseNumber(cell); number {
			return false
		}
		if _, date := table.ParseDate(cell); date {
			return false
		}
		held = held || cell != ""
	}
	return held
}
