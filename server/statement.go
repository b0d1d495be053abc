package server

import (
	"context"
	"encoding/csv"
	"fmt"
	"html/template"
	"io"
	"mime"
	"net/http"
	"strconv"
	"strings"

	"grandledger/api"
	"grandledger/core/reconcile"
	"grandledger/core/text"
)

// ExportReconciliation gives the statement as CSV or as a page to print, or every item with what became of it as CSV.
func (s *Server) ExportReconciliation(ctx context.Context, r api.ExportReconciliationRequestObject) (api.ExportReconciliationResponseObject, error) {
	w, err := s.settled(ctx, r.Reconciliation)
	if err != nil {
		return nil, err
	}
	switch r.Params.What {
	case api.ExportReconciliationParamsWhatItems:
		return exported{w.of.Name + ", items.csv", "text/csv; charset=utf-8", w.itemsCSV}, nil
	case api.ExportReconciliationParamsWhatPage:
		return exported{w.of.Name + ".html", "text/html; charset=utf-8", w.page}, nil
	}
	return exported{w.of.Name + ", statement.csv", "text/csv; charset=utf-8", w.statementCSV}, nil
}

type exported struct {
	name, kind string
	write      func(io.Writer) error
}

// VisitExportReconciliationResponse writes the file.
func (e exported) VisitExportReconciliationResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", e.kind)
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": e.name}))
	return e.write(w)
}

// guarded puts an apostrophe before what a spreadsheet would run as a formula.
func guarded(v string) string {
	if v != "" && strings.ContainsRune("=+@\t\r", rune(v[0])) {
		return "'" + v
	}
	return v
}

func (w *settled) statementCSV(to io.Writer) error {
	c := csv.NewWriter(to)
	_ = c.Write([]string{"line", "count", "amount"})
	st := w.statement
	_ = c.Write([]string{guarded("balance of " + w.sides[0].Name), strconv.Itoa(st.Items[0]), st.Ours})
	for _, class := range st.Classes {
		_ = c.Write([]string{class.Name, strconv.Itoa(class.Count), class.Difference})
	}
	_ = c.Write([]string{guarded("balance of " + w.sides[1].Name), strconv.Itoa(st.Items[1]), st.Theirs})
	_ = c.Write([]string{"unexplained", "", st.Unexplained})
	c.Flush()
	return c.Error()
}

func (w *settled) itemsCSV(to io.Writer) error {
	c := csv.NewWriter(to)
	_ = c.Write([]string{"side", "row", "state", "set", "pass", "reason", "difference"})
	err := w.result.Lines(func(l reconcile.Line) error {
		set, pass := "", ""
		if l.Set > 0 {
			set, pass = strconv.Itoa(l.Set), strconv.Itoa(l.Pass)
		}
		return c.Write([]string{[2]string{"ours", "theirs"}[l.Side], strconv.Itoa(l.Row + 1), string(l.State), set, pass, guarded(l.Reason), l.Difference})
	})
	if err != nil {
		return err
	}
	c.Flush()
	return c.Error()
}

// printed is the statement as a page, with the open items of each class. It holds no script and reaches for nothing.
var printed = template.Must(template.New("statement").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>{{.Name}}</title>
<style>body{font:14px/1.5 Georgia,serif;max-width:48em;margin:2em auto;color:#1d2733}table{width:100%;border-collapse:collapse}td,th{padding:.2em .4em;border-bottom:1px solid #cfd8d0;text-align:left}.n{text-align:right;font-variant-numeric:tabular-nums}.t{font-weight:bold;border-bottom:3px double}</style>
<h1>{{.Name}}</h1><p>{{.Ours}} against {{.Theirs}}{{with .Signed}}; closed by {{.}}{{end}}{{with .Note}}: {{.}}{{end}}.</p>
<table><tr><td>Balance of {{.Ours}}<td class="n"><td class="n">{{.Statement.Ours}}{{range .Statement.Classes}}<tr><td>{{.Name}}<td class="n">{{.Count}}<td class="n">{{.Difference}}{{end}}
<tr class="t"><td>Balance of {{.Theirs}}<td class="n"><td class="n">{{.Statement.Theirs}}<tr><td>Unexplained<td class="n"><td class="n">{{.Statement.Unexplained}}</table>
{{range .Lists}}<h2>{{.Class}}</h2><table><tr><th>Date<th>Reference<th>Text<th>Why<th class="n">Amount{{range .Items}}<tr><td>{{.Date}}<td>{{.Reference}}<td>{{.Text}}<td>{{.Why}}<td class="n">{{.Amount}}{{end}}</table>{{if .More}}<p>and {{.More}} more</p>{{end}}{{end}}</html>`))

// maxPrinted is how many items of a class are printed.
const maxPrinted = 2000

type printedItem struct{ Date, Reference, Text, Why, Amount string }

type printedList struct {
	Class string
	Items []printedItem
	More  string
}

func (w *settled) page(to io.Writer) error {
	page := struct {
		Name, Ours, Theirs, Signed, Note string
		Statement                        *reconcile.Statement
		Lists                            []printedList
	}{Name: w.of.Name, Ours: w.sides[0].Name, Theirs: w.sides[1].Name, Statement: w.statement}
	if w.closing != nil {
		page.Signed, page.Note = w.closing.Signed, w.closing.Note
	}
	for _, class := range reconcile.Classes[:len(reconcile.Classes)-1] { // all but what agrees
		groups := w.result.Groups(class)
		if len(groups) == 0 {
			continue
		}
		list := printedList{Class: class}
		for _, g := range groups[:min(len(groups), maxPrinted)] {
			for _, it := range append(w.items(0, g.Ours), w.items(1, g.Theirs)...) {
				list.Items = append(list.Items, printedItem{it.Date, it.Reference, it.Text, g.Reason, it.Amount})
			}
		}
		if more := len(groups) - maxPrinted; more > 0 {
			list.More = text.Grouped(more)
		}
		page.Lists = append(page.Lists, list)
	}
	if err := printed.Execute(to, page); err != nil {
		return fmt.Errorf("writing the statement: %w", err)
	}
	return nil
}
