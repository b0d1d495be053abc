package xlsx

import (
	"archive/zip"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"

	"grandledger/core/problem"
)

// Sheet is a sheet of a workbook.
type Sheet struct {
	Name   string `json:"name"`
	Hidden bool   `json:"hidden,omitempty"`
	part   string
}

// Book is an open workbook.
type Book struct {
	Sheets []Sheet
	file   *excelize.File
	parts  *zip.Reader
	exact  bool // some cells show a fixed number of decimals
}

// Open opens a workbook. Close it afterwards.
func Open(src io.ReaderAt, size int64) (*Book, error) {
	if err := check(src, size); err != nil {
		return nil, err
	}
	parts, err := zip.NewReader(src, size)
	if err != nil {
		return nil, broken(err)
	}
	if err := measure(parts); err != nil {
		return nil, err
	}
	f, err := excelize.OpenReader(io.NewSectionReader(src, 0, size), excelize.Options{UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: inMemory})
	if err != nil {
		if f != nil {
			f.Close()
		}
		return nil, broken(err)
	}
	b := &Book{file: f, parts: parts}
	if err := b.list(); err != nil {
		f.Close()
		return nil, err
	}
	b.plain()
	return b, nil
}

// Close closes the workbook and removes its temporary files.
func (b *Book) Close() error { return b.file.Close() }

// check tells a workbook under a password, which is a compound file, from an archive.
func check(src io.ReaderAt, size int64) error {
	head := make([]byte, min(size, 4096))
	if _, err := src.ReadAt(head, 0); err != nil && err != io.EOF {
		return err
	}
	if !strings.HasPrefix(string(head), "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1") {
		return nil
	}
	tail := make([]byte, min(size, 1<<20))
	if _, err := src.ReadAt(tail, size-int64(len(tail))); err != nil && err != io.EOF {
		return err
	}
	// Stream names of compound files are in UTF-16. ([MS-OFFCRYPTO] 1.3.3)
	name := "E\x00n\x00c\x00r\x00y\x00p\x00t\x00e\x00d\x00P\x00a\x00c\x00k\x00a\x00g\x00e"
	if strings.Contains(string(head), name) || strings.Contains(string(tail), name) {
		return problem.New("Open it, save it without a password, and bring it in again", "the workbook is protected by a password")
	}
	return problem.New("Save it as .xlsx, .ods or CSV", "the workbook is in the old format of before 2007")
}

func broken(err error) error {
	return problem.New("Save it again as .xlsx, or ask for it again", "the workbook cannot be opened: %v", err)
}

// measure refuses archives that would unpack to more than the limits.
func measure(parts *zip.Reader) error {
	all, small := uint64(0), uint64(0)
	for _, f := range parts.File {
		all += f.UncompressedSize64
		if low := strings.ToLower(f.Name); !strings.HasPrefix(low, "xl/worksheets/sheet") && low != "xl/sharedstrings.xml" || f.UncompressedSize64 <= inMemory {
			small += f.UncompressedSize64
		}
		if f.UncompressedSize64 > maxUnpacked || all > maxUnpacked || small > maxSmall {
			return problem.New("Save the sheet as CSV", "the workbook would unpack to more than can be held: %d MiB of parts, %d of them in memory", all>>20, small>>20)
		}
	}
	return nil
}

// list finds the sheets and the parts they are in.
func (b *Book) list() error {
	var rels struct {
		Relationship []struct {
			ID     string `xml:"Id,attr"`
			Target string `xml:"Target,attr"`
		}
	}
	if err := b.decode("xl/_rels/workbook.xml.rels", &rels); err != nil {
		return err
	}
	for _, s := range b.file.WorkBook.Sheets.Sheet {
		sheet := Sheet{Name: s.Name, Hidden: s.State != "" && s.State != "visible"}
		for _, r := range rels.Relationship {
			if r.ID == s.ID {
				sheet.part = strings.TrimPrefix(path.Join("/xl", r.Target), "/")
				if strings.HasPrefix(r.Target, "/") {
					sheet.part = strings.TrimPrefix(r.Target, "/")
				}
			}
		}
		if strings.HasPrefix(sheet.part, "xl/worksheets/") { // not a sheet that is a chart
			b.Sheets = append(b.Sheets, sheet)
		}
	}
	if len(b.Sheets) == 0 {
		return problem.New("Choose another workbook", "the workbook has no sheet of cells")
	}
	return nil
}

func (b *Book) decode(name string, into any) error {
	f, err := b.parts.Open(name)
	if err != nil {
		return broken(err)
	}
	defer f.Close()
	if err := xml.NewDecoder(f).Decode(into); err != nil {
		return broken(fmt.Errorf("%s: %w", name, err))
	}
	return nil
}

// sheet finds a sheet by name; the empty name is the first.
func (b *Book) sheet(name string) (Sheet, error) {
	if name == "" {
		return b.Sheets[0], nil
	}
	i := slices.IndexFunc(b.Sheets, func(s Sheet) bool { return s.Name == name })
	if i < 0 {
		var have []string
		for _, s := range b.Sheets {
			have = append(have, fmt.Sprintf("%q", s.Name))
		}
		return Sheet{}, problem.New("It has "+strings.Join(have, ", "), "the workbook has no sheet %q", name)
	}
	return b.Sheets[i], nil
}

// inspect goes through the part of a sheet to its end, so that one that is cut off or
// broken is refused and not read in half, and counts the merged areas.
func (b *Book) inspect(s Sheet) (merged []string, err error) {
	f, err := b.parts.Open(s.part)
	if err != nil {
		return nil, broken(err)
	}
	defer f.Close()
	d := xml.NewDecoder(f)
	for {
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return merged, nil
		}
		if err != nil {
			return nil, broken(fmt.Errorf("sheet %q: %w", s.Name, err))
		}
		if e, ok := token.(xml.StartElement); ok && e.Name.Local == "mergeCell" {
			for _, a := range e.Attr {
				if a.Name.Local == "ref" {
					merged = append(merged, a.Value)
				}
			}
		}
	}
}
