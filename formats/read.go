package formats

import (
	"context"
	"io"
	"path"
	"strconv"

	"grandledger/core/join"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/arrow"
	"grandledger/formats/csv"
	"grandledger/formats/fixed"
	"grandledger/formats/html"
	"grandledger/formats/intake"
	"grandledger/formats/json"
	"grandledger/formats/ods"
	"grandledger/formats/parquet"
	"grandledger/formats/statement"
	"grandledger/formats/xlsx"
	"grandledger/formats/xml"
)

// piece is the file of an archive to look at first.
func (h How) piece() string {
	if h.Packed == Zip && len(h.Pieces) > 0 {
		return h.Pieces[0]
	}
	return ""
}

// sheet is the sheet that a piece stands for.
func (h How) sheet(piece string) string {
	if h.Packed == Zip && h.Grid != nil {
		return h.Grid.Sheet
	}
	return piece
}

// Read reads the files into one table. Where there are several, or several pieces, they
// are stacked, and the column FileColumn says which a row came from. Refusals are
// *problem.Problem.
//
// Cost: that of the formats, and for several pieces that of join.Stack.
func Read(ctx context.Context, sources []Source, how How, o intake.Options) (*table.Table, *intake.Report, error) {
	if len(sources) == 0 {
		return nil, nil, problem.New("Choose a file", "there is no file to read")
	}
	pieces := how.Pieces
	if len(pieces) == 0 {
		pieces = []string{""}
	}
	var parts []join.Part
	report := &intake.Report{Notes: []intake.Note{}}
	read := int64(0)
	for _, s := range sources {
		for _, piece := range pieces {
			one := intake.Options{File: s.Name, Size: s.Size, Rows: o.Rows, Settling: o.Settling}
			rows := report.Rows
			if o.Progress != nil {
				one.Progress = func(n int64, r int) { o.Progress(read+min(n, s.Size), rows+r) }
			}
			t, r, err := readPiece(ctx, s, piece, how, one)
			if err != nil {
				return nil, nil, problem.In(s.Name, err)
			}
			name := label(s.Name, piece, len(sources), len(pieces))
			for _, n := range r.Notes {
				if len(sources)*len(pieces) > 1 {
					n.What = name + ": " + n.What
				}
				report.Notes = append(report.Notes, n)
			}
			if len(parts) > 0 && !share(parts[0].Table, t) {
				p := problem.New("Bring it in as a table of its own", "it has no column in common with %s", parts[0].Name)
				p.File = name
				return nil, nil, p
			}
			report.Rows += r.Rows
			parts = append(parts, join.Part{Name: name, Table: t})
		}
		read += s.Size
	}
	report.Bytes = read
	t := parts[0].Table
	if len(parts) > 1 {
		var err error
		if t, err = join.Stack(parts, label(sources[0].Name, "", 1, 1)+" and "+strconv.Itoa(len(parts)-1)+" more", FileColumn); err != nil {
			return nil, nil, err
		}
	}
	t, err := how.Choose(t)
	if err != nil {
		return nil, nil, problem.In(sources[0].Name, err)
	}
	report.Columns = len(t.Columns())
	return t, report, nil
}

// share says whether two tables have a column of the same name.
func share(a, b *table.Table) bool {
	for _, c := range b.Columns() {
		if _, _, err := a.Column(c.Name); err == nil {
			return true
		}
	}
	return false
}

// label names a piece of what was read.
func label(file, piece string, files, pieces int) string {
	file = path.Base(file)
	switch {
	case pieces < 2:
		return file
	case files < 2:
		return piece
	}
	return file + " / " + piece
}

func readPiece(ctx context.Context, s Source, piece string, how How, o intake.Options) (*table.Table, *intake.Report, error) {
	inside := piece
	if how.Packed != Zip {
		inside = ""
	}
	if how.Format == Workbook || how.Format == OpenDoc || how.Format == Parquet || how.Format == Arrow {
		spread, done, err := s.spread(how.Packed, inside)
		if err != nil {
			return nil, nil, err
		}
		defer done.Close()
		return readSpread(ctx, spread, piece, how, o)
	}
	r, err := s.open(how.Packed, inside)
	if err != nil {
		return nil, nil, err
	}
	defer r.Close()
	if how.Packed != "" {
		r, o = counted(r, s, o)
	}
	switch how.Format {
	case Delimited:
		return csv.Read(ctx, r, how.Text, o)
	case Fixed:
		if how.Fixed != nil {
			return fixed.Read(ctx, r, *how.Fixed, o)
		}
	case JSON:
		return json.Read(ctx, r, orNew(how.JSON), o)
	case XML:
		return xml.Read(ctx, r, orNew(how.XML), o)
	case Statement:
		return statement.Read(ctx, r, o)
	case HTML:
		g := orNew(how.Grid)
		g.Sheet = how.sheet(piece)
		return html.Read(ctx, r, g, o)
	}
	return nil, nil, problem.New("Choose how it is read", "files of the format %q cannot be read", how.Format)
}

func orNew[T any](v *T) T {
	if v == nil {
		var none T
		return none
	}
	return *v
}

// counted leaves the progress of a packed file unknown but for the rows, and its size to
// the readers, which would take it for that of the text.
func counted(r io.ReadCloser, s Source, o intake.Options) (io.ReadCloser, intake.Options) {
	if progress := o.Progress; progress != nil {
		o.Progress = func(_ int64, rows int) { progress(s.Size/2, rows) }
	}
	o.Size = 0
	return r, o
}

func readSpread(ctx context.Context, s Source, piece string, how How, o intake.Options) (*table.Table, *intake.Report, error) {
	g := orNew(how.Grid)
	g.Sheet = how.sheet(piece)
	switch how.Format {
	case Workbook:
		b, err := xlsx.Open(s.At, s.Size)
		if err != nil {
			return nil, nil, err
		}
		defer b.Close()
		return b.Read(ctx, g, o)
	case OpenDoc:
		return ods.Read(ctx, s.At, s.Size, g, o)
	case Parquet:
		return parquet.Read(ctx, s.At, s.Size, o)
	}
	return arrow.Read(ctx, s.At, s.Size, o)
}

// Choose keeps the chosen columns, under their names and in their order.
func (h How) Choose(t *table.Table) (*table.Table, error) {
	if len(h.Columns) == 0 {
		return t, nil
	}
	var columns []*table.Column
	for _, choice := range h.Columns {
		c, _, err := t.Column(choice.From)
		if err != nil {
			var have []string
			for _, c := range t.Columns() {
				have = append(have, c.Name)
			}
			return nil, problem.New("It has "+list(have), "the file has no column %q", choice.From)
		}
		named := *c
		if choice.As != "" {
			named.Name = choice.As
		}
		columns = append(columns, &named)
	}
	out, err := table.New(columns, t.Base(), t.Origins()...)
	if err != nil {
		return nil, problem.New("Give each column a name of its own", "%v", err)
	}
	return out, nil
}

// Preview is the first rows of a file, how they were read and what can be chosen.
type Preview struct {
	How     How           `json:"how"`
	Choices Choices       `json:"choices"`
	Names   []string      `json:"names"` // of all columns of the file, chosen or not
	Rows    [][]string    `json:"rows"`
	Notes   []intake.Note `json:"notes"` // of the first rows only
}

const previewRows = 50

// Look reads the first rows of a file; with no how it works one out, and what a how leaves
// open it fills in.
func Look(ctx context.Context, s Source, how *How) (*Preview, error) {
	if how == nil {
		sniffed, err := Sniff(s)
		if err != nil {
			return nil, err
		}
		how = &sniffed
	}
	if err := how.Propose(s); err != nil {
		return nil, err
	}
	v := &Preview{How: *how, Names: []string{}, Rows: [][]string{}}
	var err error
	if v.Choices, err = choices(s, *how); err != nil {
		return nil, problem.In(s.Name, err)
	}
	all := *how
	all.Columns = nil
	if len(all.Pieces) > 1 {
		all.Pieces = all.Pieces[:1]
	}
	t, report, err := Read(ctx, []Source{s}, all, intake.Options{Rows: previewRows})
	if err != nil {
		return nil, err
	}
	v.Notes = report.Notes
	for _, c := range t.Columns() {
		v.Names = append(v.Names, c.Name)
	}
	for row := range min(t.Rows(), previewRows) {
		cells := make([]string, len(v.Names))
		for i, c := range t.Columns() {
			cells[i], _ = c.Value(uint32(row))
		}
		v.Rows = append(v.Rows, cells)
	}
	if how.Format == JSON {
		v.Choices.Lists = lists(t)
	}
	return v, nil
}

// lists names the columns that hold lists in the first rows.
func lists(t *table.Table) (names []string) {
	for _, c := range t.Columns() {
		for row := range min(t.Rows(), previewRows) {
			if v, ok := c.Value(uint32(row)); ok && len(v) > 1 && v[0] == '[' && v[len(v)-1] == ']' {
				names = append(names, c.Name)
				break
			}
		}
	}
	return names
}
