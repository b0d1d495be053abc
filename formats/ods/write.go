package ods

import (
	"archive/zip"
	"bufio"
	"context"
	"encoding/xml"
	"io"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/kind"
)

// MaxRows is how many rows common programs show of a sheet, the names among them.
const MaxRows = 1_048_576

const namespaces = `xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" ` +
	`xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" ` +
	`xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" xmlns:number="urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0" office:version="1.3"`

// Write writes a table as a workbook of one sheet. Numbers, dates, true and false are
// written as such where a whole column is of the kind; their text is kept to the letter.
// All else is text.
//
// Cost: O(cells), streamed.
func Write(ctx context.Context, w io.Writer, t *table.Table) error {
	if t.Rows() >= MaxRows || len(t.Columns()) > 16384 {
		return problem.New("Write CSV, Parquet or Arrow", "a sheet holds at most %d rows and %d columns", MaxRows-1, 16384)
	}
	z := zip.NewWriter(w)
	// The type comes first and uncompressed. (OpenDocument 1.3, part 2, 3.3)
	mime, err := z.CreateHeader(&zip.FileHeader{Name: "mimetype", Method: zip.Store})
	if err != nil {
		return err
	}
	if _, err := io.WriteString(mime, "application/vnd.oasis.opendocument.spreadsheet"); err != nil {
		return err
	}
	manifest, err := z.Create("META-INF/manifest.xml")
	if err != nil {
		return err
	}
	_, err = io.WriteString(manifest, xml.Header+`<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.3">`+
		`<manifest:file-entry manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/>`+
		`<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>`)
	if err != nil {
		return err
	}
	content, err := z.Create("content.xml")
	if err != nil {
		return err
	}
	b := bufio.NewWriterSize(content, 1<<16)
	if err := sheetOf(ctx, b, t); err != nil {
		return err
	}
	if err := b.Flush(); err != nil {
		return err
	}
	return z.Close()
}

func sheetOf(ctx context.Context, b *bufio.Writer, t *table.Table) error {
	b.WriteString(xml.Header + `<office:document-content ` + namespaces + `><office:automatic-styles>` +
		`<number:date-style style:name="iso"><number:year number:style="long"/><number:text>-</number:text><number:month number:style="long"/><number:text>-</number:text><number:day number:style="long"/></number:date-style>` +
		`<style:style style:name="day" style:family="table-cell" style:data-style-name="iso"/></office:automatic-styles>` +
		`<office:body><office:spreadsheet><table:table table:name="Sheet1"><table:table-row>`)
	kinds := make([]kind.Kind, len(t.Columns()))
	for i, c := range t.Columns() {
		kinds[i], _ = kind.Of(t, c)
		cell(b, c.Name, kind.Text)
	}
	b.WriteString("</table:table-row>\n")
	for row := range t.Rows() {
		if row%4096 == 0 {
			if err := ctx.Err(); err != nil {
				return err
			}
		}
		b.WriteString("<table:table-row>")
		for i, c := range t.Columns() {
			v, _ := c.Value(t.BaseRow(row))
			cell(b, v, kinds[i])
		}
		if _, err := b.WriteString("</table:table-row>\n"); err != nil {
			return err
		}
	}
	_, err := b.WriteString(`</table:table></office:spreadsheet></office:body></office:document-content>`)
	return err
}

// cell writes one cell. Errors of the writer are met by who flushes it.
func cell(b *bufio.Writer, v string, k kind.Kind) {
	switch {
	case v == "":
		b.WriteString(`<table:table-cell/>`)
		return
	case k == kind.Whole || k == kind.Float || k == kind.Decimal:
		b.WriteString(`<table:table-cell office:value-type="float" office:value="` + v + `"><text:p>` + v)
	case k == kind.YesNo:
		b.WriteString(`<table:table-cell office:value-type="boolean" office:boolean-value="` + v + `"><text:p>` + v)
	case k == kind.Date:
		b.WriteString(`<table:table-cell table:style-name="day" office:value-type="date" office:date-value="` + v + `"><text:p>` + v)
	default:
		b.WriteString(`<table:table-cell office:value-type="string"><text:p>`)
		text(b, v)
	}
	b.WriteString(`</text:p></table:table-cell>`)
}

// text writes text so that all its white space comes back.
func text(b *bufio.Writer, v string) {
	for v != "" {
		at := strings.IndexAny(v, " \t\n\r")
		if at < 0 {
			at = len(v)
		}
		xml.EscapeText(b, []byte(v[:at]))
		if at == len(v) {
			return
		}
		switch v[at] {
		case ' ':
			b.WriteString(`<text:s/>`)
		case '\t':
			b.WriteString(`<text:tab/>`)
		case '\n':
			b.WriteString(`<text:line-break/>`)
		case '\r':
			b.WriteString("&#xD;")
		}
		v = v[at+1:]
	}
}
