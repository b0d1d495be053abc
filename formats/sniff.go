package formats

import (
	"archive/zip"
	"bytes"
	"io"
	"path"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/formats/csv"
	"grandledger/formats/fixed"
	"grandledger/formats/grid"
	"grandledger/formats/html"
	"grandledger/formats/intake"
	"grandledger/formats/json"
	"grandledger/formats/ods"
	"grandledger/formats/statement"
	"grandledger/formats/xlsx"
	"grandledger/formats/xml"
)

// signatures are the first bytes of files that hold no table.
var signatures = []struct{ start, what, remedy string }{
	{"%PDF", "a PDF document", "Ask for the table as CSV; a PDF holds pages, not rows"},
	{"\x89PNG", "a picture", "Bring in a file with rows"},
	{"\xff\xd8\xff", "a picture", "Bring in a file with rows"},
	{"GIF8", "a picture", "Bring in a file with rows"},
	{"\x7fELF", "a program", "Bring in a file with rows"},
	{"MZ\x90", "a program", "Bring in a file with rows"},
	{"SQLite format 3", "a database file", "Export the table as CSV"},
	{"BZh", "bzip2-compressed", "Unpack it and bring in the file inside"},
	{"\xfd7zXZ", "xz-compressed", "Unpack it and bring in the file inside"},
	{"7z\xbc\xaf", "a 7z archive", "Unpack it and bring in the file inside"},
	{"Rar!", "a RAR archive", "Unpack it and bring in the file inside"},
}

// Choices is what a file leaves to choose.
type Choices struct {
	Files   []string     `json:"files,omitempty"`   // of an archive
	Sheets  []string     `json:"sheets,omitempty"`  // of a workbook, or tables of a page
	Records []json.Found `json:"records,omitempty"` // paths at which records may be
	Lists   []string     `json:"lists,omitempty"`   // members of records that are lists
	Lines   []string     `json:"lines,omitempty"`   // the first lines, to cut them
}

// Sniff finds out what a file is and proposes how to read it. Refusals are
// *problem.Problem.
//
// Cost: the first 256 KiB, the directory of an archive, the first rows of a sheet.
func Sniff(s Source) (How, error) {
	how, err := sniff(s, "", nil)
	return how, problem.In(s.Name, err)
}

func sniff(s Source, packed string, pieces []string) (How, error) {
	how := How{Packed: packed, Pieces: pieces}
	piece := ""
	if packed == Zip && len(pieces) > 0 {
		piece = pieces[0]
	}
	sample, err := s.sample(packed, piece)
	if err != nil {
		return how, err
	}
	if packed == "" {
		packing, names, err := s.packing(sample)
		if err != nil {
			return how, err
		}
		if packing == Zip {
			pieces = names[:1]
		}
		if packing != "" {
			return sniff(s, packing, pieces)
		}
	}
	for _, sig := range signatures {
		if bytes.HasPrefix(sample, []byte(sig.start)) {
			return how, problem.New(sig.remedy, "the file is %s, not a table", sig.what)
		}
	}
	name := s.Name
	if piece != "" {
		name = piece
	}
	switch {
	case bytes.HasPrefix(sample, []byte("PAR1")), bytes.HasPrefix(sample, []byte("PARE")):
		how.Format = Parquet
		return how, nil
	case bytes.HasPrefix(sample, []byte("ARROW1")), bytes.HasPrefix(sample, []byte("\xff\xff\xff\xff")) && len(sample) > 8:
		how.Format = Arrow
		return how, nil
	case bytes.HasPrefix(sample, []byte("PK\x03\x04")), bytes.HasPrefix(sample, []byte("\xd0\xcf\x11\xe0")):
		return sniffWorkbook(s, how, piece)
	}
	return how, sniffText(&how, sample, strings.ToLower(path.Ext(strings.TrimSuffix(strings.TrimSuffix(name, ".gz"), ".zst"))))
}

// sniffWorkbook tells the two kinds of workbook and proposes the rest.
func sniffWorkbook(s Source, how How, piece string) (How, error) {
	spread, done, err := s.spread(how.Packed, piece)
	if err != nil {
		return how, err
	}
	defer done.Close()
	how.Format = Workbook
	if isOpenDoc(spread) {
		how.Format = OpenDoc
	}
	return how, how.propose(s)
}

// Propose fills in what is not yet said about how a format is read, by the piece that is
// looked at first.
func (h *How) Propose(s Source) error { return problem.In(s.Name, h.propose(s)) }

func (h *How) propose(s Source) error {
	piece := h.piece()
	switch h.Format {
	case Workbook, OpenDoc:
		if h.Grid != nil {
			return nil
		}
		spread, done, err := s.spread(h.Packed, piece)
		if err != nil {
			return err
		}
		defer done.Close()
		sheet := ""
		if h.Packed != Zip && len(h.Pieces) > 0 {
			sheet = h.Pieces[0]
		}
		first, err := firstRows(spread, h.Format, sheet)
		if err != nil {
			return err
		}
		above, names := grid.Sniff(first)
		h.Grid = &grid.Range{Above: above, Names: names}
		return nil
	case Parquet, Arrow:
		return nil
	}
	sample, err := s.sample(h.Packed, piece)
	if err != nil {
		return err
	}
	return h.proposeText(sample)
}

func firstRows(s Source, format, sheet string) ([][]string, error) {
	if format == OpenDoc {
		return ods.First(s.At, s.Size, sheet, sniffRows)
	}
	b, err := xlsx.Open(s.At, s.Size)
	if err != nil {
		return nil, err
	}
	defer b.Close()
	return b.First(sheet, sniffRows)
}

// sniffRows is how many rows of a sheet are looked at.
const sniffRows = 200

// proposeText fills in what is not yet said about how a text is read.
func (h *How) proposeText(sample []byte) error {
	encoding, err := intake.SniffEncoding(sample)
	if err != nil {
		return err
	}
	switch {
	case h.Format == HTML && h.Grid == nil:
		h.Grid = &grid.Range{Names: 1}
		if tables, err := html.Tables(bytes.NewReader(sample)); err == nil {
			t := tables[html.Largest(tables)]
			for _, other := range tables {
				if len(h.Pieces) > 0 && other.Name == h.Pieces[0] {
					t = other
				}
			}
			h.Grid.Above, h.Grid.Names = grid.Sniff(t.Rows())
		}
	case h.Format == XML && h.XML == nil:
		h.XML = &xml.Shape{}
		if found := xml.Find(sample); len(found) > 0 {
			h.XML.Records = found[0].Path
		}
	case h.Format == JSON && h.JSON == nil:
		h.JSON = &json.Shape{}
		if found := json.Find(sample); len(found) > 0 {
			h.JSON.Records = found[0].Path
		}
	case h.Format == Fixed && h.Fixed == nil:
		lines := fixed.Lines(sample, encoding, sniffRows)
		h.Fixed = &fixed.Layout{Encoding: encoding, Names: 1}
		for above := range min(6, len(lines)/4+1) { // a title above the names hides where they are cut
			if cuts := fixed.Sniff(lines[above:]); len(cuts) > len(h.Fixed.Cuts) {
				h.Fixed.Cuts, h.Fixed.Above = cuts, above
			}
		}
		if h.Fixed.Above < len(lines) && !intake.LooksLikeNames(h.Fixed.Cells(lines[h.Fixed.Above])) {
			h.Fixed.Names = 0
		}
	case h.Format == Delimited && h.Text == nil:
		d, err := csv.Sniff(sample)
		h.Text = &d
		return err
	}
	return nil
}

func isOpenDoc(s Source) bool {
	z, err := zip.NewReader(io.NewSectionReader(s.At, 0, s.Size), s.Size)
	return err == nil && slices.ContainsFunc(z.File, func(f *zip.File) bool { return f.Name == "content.xml" })
}

// sniffText proposes how to read a text. ending is that of the file's name.
func sniffText(how *How, sample []byte, ending string) error {
	encoding, err := intake.SniffEncoding(sample)
	if err != nil {
		return err
	}
	text := intake.Decode(sample, encoding)
	start := bytes.ToLower(bytes.TrimSpace(text))
	switch {
	case statement.Is(text):
		how.Format = Statement
		return nil
	case bytes.HasPrefix(start, []byte("<")) && (bytes.Contains(start, []byte("<table")) || bytes.Contains(start, []byte("<html")) || bytes.HasPrefix(start, []byte("<!doctype html"))):
		how.Format = HTML
	case bytes.HasPrefix(start, []byte("<")):
		how.Format = XML
	case ending == ".json" || ending == ".jsonl" || ending == ".ndjson" || bytes.HasPrefix(start, []byte("{")) || bytes.HasPrefix(start, []byte("[{")) || bytes.HasPrefix(start, []byte("[[")):
		how.Format = JSON
	default:
		how.Format = Delimited
	}
	if err := how.proposeText(sample); err != nil || how.Format != Delimited {
		return err
	}
	if ending == ".csv" || ending == ".tsv" { // a list of names of two words each is no table of fixed width
		return nil
	}
	if lines := fixed.Lines(sample, encoding, sniffRows); len(lines) >= 3 && !how.Text.Fits(sample) && len(fixed.Sniff(lines)) > 0 {
		how.Format, how.Text = Fixed, nil
		return how.proposeText(sample)
	}
	return nil
}

// choices lists what a file leaves to choose, when it is read in a way.
func choices(s Source, how How) (c Choices, err error) {
	sample, err := s.sample("", "")
	if err != nil {
		return c, err
	}
	if how.Packed == Zip {
		if _, c.Files, err = s.packing(sample); err != nil {
			return c, err
		}
	}
	piece := how.piece()
	switch how.Format {
	case Workbook, OpenDoc:
		spread, done, err := s.spread(how.Packed, piece)
		if err != nil {
			return c, err
		}
		defer done.Close()
		c.Sheets, err = sheets(spread, how.Format)
		return c, err
	}
	if how.Packed != "" {
		if sample, err = s.sample(how.Packed, piece); err != nil {
			return c, err
		}
	}
	switch how.Format {
	case HTML:
		tables, err := html.Tables(bytes.NewReader(sample))
		if err == nil {
			for _, t := range tables {
				c.Sheets = append(c.Sheets, t.Name)
			}
		}
	case JSON:
		c.Records = json.Find(sample)
	case XML:
		for _, f := range xml.Find(sample) {
			c.Records = append(c.Records, json.Found(f))
		}
	case Fixed:
		if how.Fixed != nil {
			c.Lines = fixed.Lines(sample, how.Fixed.Encoding, 40)
		}
	}
	return c, nil
}

func sheets(s Source, format string) (names []string, err error) {
	if format == OpenDoc {
		return ods.Sheets(s.At, s.Size)
	}
	b, err := xlsx.Open(s.At, s.Size)
	if err != nil {
		return nil, err
	}
	defer b.Close()
	for _, sheet := range b.Sheets {
		names = append(names, sheet.Name)
	}
	return names, nil
}
