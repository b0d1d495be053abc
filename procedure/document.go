package procedure

import (
	"fmt"
	"html/template"
	"io"
	"strings"
	"time"

	"grandledger/core/entry"
	"grandledger/core/text"
)

// Line is an entry of a journal as it is read by people.
type Line struct {
	Number int
	Words  string
	State  string // posted, reversed or superseded
	At     time.Time
	Effect entry.Effect
	Notes  []string
	Reason string // why, in the steward's words
}

// Did says the effect of an entry in a sentence.
func (l Line) Did() string {
	b := l.Effect.Balance
	var said []string
	cells := 0
	for _, c := range l.Effect.Columns {
		cells += c.Cells
	}
	switch {
	case l.Effect.Shape != nil:
		said = append(said, fmt.Sprintf("%d columns became %d", len(l.Effect.Shape.Before), len(l.Effect.Shape.After)))
	case cells > 0:
		said = append(said, text.Grouped(cells)+" cells rewritten")
	}
	for _, r := range l.Effect.Readings {
		said = append(said, fmt.Sprintf("%s rows read, %s do not", text.Grouped(r.Read), text.Grouped(r.NotRead)))
	}
	for _, part := range []struct {
		rows int
		what string
	}{{b.Added, "added"}, {b.SetAside, "set aside"}, {b.Merged, "merged"}} {
		if part.rows > 0 {
			said = append(said, text.Grouped(part.rows)+" rows "+part.what)
		}
	}
	return strings.Join(append(said, text.Grouped(b.After)+" rows stand"), ", ") + "."
}

// Balance writes the row account of the entry.
func (l Line) Balance() string {
	b := l.Effect.Balance
	return fmt.Sprintf("%s + %s − %s − %s = %s", text.Grouped(b.Before), text.Grouped(b.Added), text.Grouped(b.SetAside), text.Grouped(b.Merged), text.Grouped(b.After))
}

// Markdown writes a journal as a document. Text of the data cannot become marks of it.
func Markdown(w io.Writer, name string, lines []Line) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# Journal of %s\n\nEach line balances: rows before + added − set aside − merged = rows after.\n", plain(name))
	for _, l := range lines {
		title := fmt.Sprintf("Entry %d", l.Number)
		if l.Number == 0 {
			title = "Opening"
		}
		if l.State != "posted" {
			title += ", " + l.State
		}
		fmt.Fprintf(&b, "\n## %s\n\n%s. %s\n\n- Balance: %s\n- Posted: %s\n", title, plain(l.Words), l.Did(), l.Balance(), l.At.UTC().Format("2006-01-02 15:04 UTC"))
		if l.Reason != "" {
			fmt.Fprintf(&b, "- Reason: %s\n", plain(l.Reason))
		}
		for _, note := range l.Notes {
			fmt.Fprintf(&b, "- Noted: %s\n", plain(note))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// plain keeps the marks of Markdown in a text from being marks, and the text on one line.
func plain(s string) string {
	return strings.NewReplacer("\n", " ", "\r", " ", `\`, `\\`, "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`, "]", `\]`, "<", `\<`, ">", `\>`, "#", `\#`, "|", `\|`).Replace(s)
}

var page = template.Must(template.New("journal").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Journal of {{.Name}}</title>
<style>body{font:15px/1.5 Georgia,serif;max-width:46rem;margin:2rem auto;padding:0 1rem;color:#1c2733}h2{font-size:1.1rem;margin:1.6rem 0 .2rem}p{margin:.2rem 0}.f{color:#55606b;font-size:.9rem}.off{text-decoration:line-through}</style>
</head><body><h1>Journal of {{.Name}}</h1><p class="f">Each line balances: rows before + added − set aside − merged = rows after.</p>
{{range .Lines}}<h2>{{if .Number}}Entry {{.Number}}{{else}}Opening{{end}}{{if ne .State "posted"}}, {{.State}}{{end}}</h2>
<p{{if ne .State "posted"}} class="off"{{end}}>{{.Words}}. {{.Did}}</p><p class="f">{{.Balance}} · posted {{.At.UTC.Format "2006-01-02 15:04 UTC"}}</p>
{{if .Reason}}<p><em>{{.Reason}}</em></p>
{{end}}{{range .Notes}}<p class="f">{{.}}</p>
{{end}}{{end}}</body></html>
`))

// HTML writes a journal as a page of its own, without scripts or anything from outside.
func HTML(w io.Writer, name string, lines []Line) error {
	return page.Execute(w, struct {
		Name  string
		Lines []Line
	}{name, lines})
}
