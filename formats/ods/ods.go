// Package ods reads and writes OpenDocument spreadsheets (OASIS OpenDocument 1.3, part 3),
// with the archive and XML packages of the standard library, as no kept library reads them.
//
// Cells are read by their stored values: numbers as they are written in the file, dates
// by ISO 8601, true and false, text with its line breaks; formulas by their last result.
// Merged cells hold their value in the first of them only, and are told. Repeated empty
// rows and cells at the end of a sheet, of which there may be a million, cost nothing.
package ods

import (
	"archive/zip"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/grid"
	"grandledger/formats/intake"
)

// Limits of what is read.
const (
	maxUnpacked = 8 << 30 // bytes of the content
	maxRepeat   = 1 << 20 // how often one row of values may be repeated
)

// Sheets lists the sheets by name.
func Sheets(src io.ReaderAt, size int64) (names []string, err error) {
	err = walk(src, size, func(d *xml.Decoder, e xml.StartElement) (bool, error) {
		names = append(names, attr(e, "name"))
		return true, d.Skip()
	})
	return names, err
}

// Read reads a range of a sheet into a table; the empty name is the first sheet. Refusals
// are *problem.Problem.
//
// Cost: one pass over the content up to the end of the sheet.
func Read(ctx context.Context, src io.ReaderAt, size int64, r grid.Range, o intake.Options) (t *table.Table, report *intake.Report, err error) {
	report = &intake.Report{Bytes: size, Notes: []intake.Note{}}
	have := []string{}
	found := false
	err = walk(src, size, func(d *xml.Decoder, e xml.StartElement) (bool, error) {
		name := attr(e, "name")
		have = append(have, strconv.Quote(name))
		if found || r.Sheet != "" && name != r.Sheet {
			return true, d.Skip()
		}
		found = true
		s := &sheet{d: d}
		if t, err = grid.Read(ctx, s.next, r, o, report); err != nil {
			return false, err
		}
		if s.merged > 0 {
			report.Notes = append(report.Notes, intake.Note{Count: s.merged, What: fmt.Sprintf("merged cells hold their value in the first of them only: %d areas", s.merged)})
		}
		return false, nil
	})
	if err == nil && !found {
		err = problem.New("It has "+strings.Join(have, ", "), "the workbook has no sheet %q", r.Sheet)
	}
	return t, report, problem.In(o.File, err)
}

// First gives the first rows of a sheet.
func First(src io.ReaderAt, size int64, name string, n int) (rows [][]string, err error) {
	err = walk(src, size, func(d *xml.Decoder, e xml.StartElement) (bool, error) {
		if name != "" && attr(e, "name") != name {
			return true, d.Skip()
		}
		s := &sheet{d: d}
		for len(rows) < n {
			cells, err := s.next()
			if err == io.EOF {
				break
			}
			if err != nil {
				return false, err
			}
			rows = append(rows, cells)
		}
		return false, nil
	})
	return rows, err
}

func broken(err error) error {
	var p *problem.Problem
	if err == nil || errors.As(err, &p) || errors.Is(err, context.Canceled) {
		return err
	}
	return problem.New("Save it again as .ods, or ask for it again", "the workbook cannot be opened: %v", err)
}

// walk opens the content and calls f at the start of each sheet, which it must go through;
// it ends when f says so.
func walk(src io.ReaderAt, size int64, f func(d *xml.Decoder, e xml.StartElement) (more bool, err error)) error {
	z, err := zip.NewReader(src, size)
	if err != nil {
		return broken(err)
	}
	if m, err := z.Open("META-INF/manifest.xml"); err == nil {
		text, _ := io.ReadAll(io.LimitReader(m, 1<<20))
		m.Close()
		if strings.Contains(string(text), "encryption-data") {
			return problem.New("Open it, save it without a password, and bring it in again", "the workbook is protected by a password")
		}
	}
	content, err := z.Open("content.xml")
	if err != nil {
		return broken(err)
	}
	defer content.Close()
	if st, err := content.Stat(); err == nil && st.Size() > maxUnpacked {
		return problem.New("Save the sheet as CSV", "the workbook would unpack to %d MiB", st.Size()>>20)
	}
	d := xml.NewDecoder(content)
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return broken(err)
		}
		if e, ok := token.(xml.StartElement); ok && e.Name.Local == "table" {
			if more, err := f(d, e); err != nil || !more {
				return broken(err)
			}
		}
	}
}

func attr(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// sheet goes through the rows of a sheet.
type sheet struct {
	d      *xml.Decoder
	merged int
	row    []string // the row to give again
	again  int      // how often
	empty  int      // empty rows to give before it
}

// next gives the cells of the next row. Empty rows are given only where a row with a value
// follows, so those that fill up a sheet are not.
func (s *sheet) next() ([]string, error) {
	for {
		switch {
		case s.row != nil && s.empty > 0:
			s.empty--
			return nil, nil
		case s.again > 0:
			s.again--
			return s.row, nil
		}
		s.row = nil
		token, err := s.d.Token()
		if err != nil {
			return nil, broken(err)
		}
		switch e := token.(type) {
		case xml.EndElement:
			if e.Name.Local == "table" {
				return nil, io.EOF
			}
		case xml.StartElement:
			switch e.Name.Local {
			case "table-row":
				if err := s.read(e); err != nil {
					return nil, err
				}
			case "table": // a table within a cell's drawing
				if err := s.d.Skip(); err != nil {
					return nil, broken(err)
				}
			}
		}
	}
}

func repeated(e xml.StartElement, of string) int {
	n, err := strconv.Atoi(attr(e, of))
	if err != nil || n < 1 {
		return 1
	}
	return n
}

// read takes one row element.
func (s *sheet) read(row xml.StartElement) error {
	times := repeated(row, "number-rows-repeated")
	var cells []string
	blank := 0
	for {
		token, err := s.d.Token()
		if err != nil {
			return broken(err)
		}
		if e, ok := token.(xml.EndElement); ok && e.Name.Local == "table-row" {
			break
		}
		e, ok := token.(xml.StartElement)
		if !ok {
			continue
		}
		n := repeated(e, "number-columns-repeated")
		if attr(e, "number-columns-spanned") > "1" || attr(e, "number-rows-spanned") > "1" {
			s.merged++
		}
		v, err := s.cell(e)
		if err != nil {
			return err
		}
		if v == "" {
			blank += n
			continue
		}
		if len(cells)+blank+n > intake.MaxColumns {
			return intake.TooManyColumns(len(cells) + blank + n)
		}
		for range blank {
			cells = append(cells, "")
		}
		blank = 0
		for range n {
			cells = append(cells, v)
		}
	}
	if len(cells) == 0 {
		s.empty += min(times, maxRepeat)
		return nil
	}
	if times > maxRepeat {
		return problem.New("Save the sheet as CSV", "one row stands for %d equal rows; at most %d are read", times, maxRepeat)
	}
	s.row, s.again = cells, times
	return nil
}

// cell takes one cell element: the stored value, or else its text.
func (s *sheet) cell(e xml.StartElement) (string, error) {
	text, err := s.text()
	if err != nil {
		return "", err
	}
	switch attr(e, "value-type") {
	case "float", "currency", "percentage":
		return attr(e, "value"), nil
	case "boolean":
		return attr(e, "boolean-value"), nil
	case "date":
		day, clock, _ := strings.Cut(attr(e, "date-value"), "T")
		if clock == "" || clock == "00:00:00" {
			return day, nil
		}
		return day + " " + clock, nil
	case "time":
		return attr(e, "time-value"), nil
	case "string":
		if v := attr(e, "string-value"); v != "" {
			return v, nil
		}
	}
	return text, nil
}

// text gathers the paragraphs of a cell up to its end. Annotations are not part of it.
func (s *sheet) text() (string, error) {
	var out strings.Builder
	paragraphs := 0
	for depth := 1; depth > 0; {
		token, err := s.d.Token()
		if err != nil {
			return "", broken(err)
		}
		switch e := token.(type) {
		case xml.CharData:
			if paragraphs > 0 && depth > 1 {
				out.Write(e)
			}
		case xml.EndElement:
			depth--
		case xml.StartElement:
			depth++
			switch e.Name.Local {
			case "p":
				if paragraphs++; paragraphs > 1 {
					out.WriteByte('\n')
				}
			case "s":
				out.WriteString(strings.Repeat(" ", min(repeated(e, "c"), 1000)))
			case "tab":
				out.WriteByte('\t')
			case "line-break":
				out.WriteByte('\n')
			case "annotation":
				if err := s.d.Skip(); err != nil {
					return "", broken(err)
				}
				depth--
			}
		}
		if out.Len() > intake.MaxCell {
			return "", problem.New("Leave the column out", "a cell is longer than %d MiB", intake.MaxCell>>20)
		}
	}
	return out.String(), nil
}
