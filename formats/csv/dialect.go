package csv

import (
	"bytes"
	"fmt"
	"strings"

	"grandledger/core/problem"
	"grandledger/formats/intake"
)

// Dialect is how a delimited text is written.
type Dialect struct {
	Encoding  string `json:"encoding"`          // one of intake.Encodings
	Delimiter string `json:"delimiter"`         // 1 to 8 ASCII characters
	Quote     string `json:"quote"`             // one ASCII character, or empty for none
	Names     int    `json:"names"`             // how many rows name the columns: 0, 1 or more
	Above     int    `json:"above,omitempty"`   // lines above the names or the first row that are passed over
	Comment   string `json:"comment,omitempty"` // lines that begin so are passed over; empty for none
}

// Delimiters lists the delimiters that are tried, the likeliest first.
var Delimiters = []string{",", ";", "\t", "|", ":", "||", "::", "^", "~"}

// Limits of a dialect.
const (
	maxNames     = 5
	maxAbove     = 10_000
	maxDelimiter = 8
)

func (d Dialect) check() error {
	if !ascii(d.Delimiter) || d.Delimiter == "" || len(d.Delimiter) > maxDelimiter || strings.ContainsAny(d.Delimiter, "\r\n") {
		return problem.New("Use a mark such as , or ; or a tab", "the delimiter %q is not one of 1 to %d plain characters", d.Delimiter, maxDelimiter)
	}
	if len(d.Quote) > 1 || d.Quote != "" && d.Quote[0] == d.Delimiter[0] || !ascii(d.Quote) || d.Quote == "\n" || d.Quote == "\r" {
		return problem.New(`Use " or ' or none`, "the quotation mark %q cannot be used", d.Quote)
	}
	if d.Names < 0 || d.Names > maxNames || d.Above < 0 || d.Above > maxAbove {
		return problem.New(fmt.Sprintf("Name the columns by at most %d rows, below at most %d lines", maxNames, maxAbove),
			"%d rows of names below %d lines cannot be read", d.Names, d.Above)
	}
	if len(d.Comment) > maxDelimiter || strings.ContainsAny(d.Comment, "\r\n") {
		return problem.New("Use a mark such as # or none", "%q cannot begin comment lines", d.Comment)
	}
	_, err := intake.Decoder(d.Encoding)
	return err
}

func ascii(s string) bool {
	for i := range len(s) {
		if s[i] >= 128 {
			return false
		}
	}
	return true
}

// Sniff works out the dialect from the first bytes of a file. It refuses files that
// are empty or are no text.
func Sniff(sample []byte) (Dialect, error) {
	d := Dialect{Delimiter: ",", Quote: `"`, Names: 1}
	var err error
	if d.Encoding, err = intake.SniffEncoding(sample); err != nil {
		return d, err
	}
	text := intake.Decode(sample, d.Encoding)
	if len(bytes.TrimSpace(text)) == 0 {
		return d, problem.New("Choose a file with at least a header row", "the file is empty")
	}
	if bytes.HasPrefix(text, []byte("#")) {
		d.Comment = "#"
	}
	d.Delimiter = sniffDelimiter(text, d)
	d.Above = intake.Above(d.first(text, 200, true))
	if d.Above > 0 { // only a row of names stands out among narrow lines
		return d, nil
	}
	if rows := d.first(text, 1, false); len(rows) > 0 && !intake.LooksLikeNames(rows[0]) {
		d.Names = 0
	}
	return d, nil
}

// Fits says whether most of the first rows of a sample have one number of cells, and more
// than one.
func (d Dialect) Fits(sample []byte) bool {
	rows := d.first(intake.Decode(sample, d.Encoding), d.Above+100, true)
	widths := map[int]int{}
	most := 0
	for _, r := range rows[min(d.Above, len(rows)):] {
		widths[len(r)]++
		if widths[len(r)] > widths[most] {
			most = len(r)
		}
	}
	return most > 1 && widths[most]*10 >= 8*(len(rows)-d.Above)
}

// sniffDelimiter takes the delimiter under which most of the first rows have one same
// number of cells, more cells counting for more.
func sniffDelimiter(text []byte, d Dialect) string {
	best, bestScore := ",", 0.0
	for _, delimiter := range Delimiters {
		d.Delimiter = delimiter
		widths := map[int]int{}
		rows := d.first(text, 100, false)
		for _, r := range rows {
			widths[len(r)]++
		}
		for width, n := range widths {
			if width < 2 {
				continue
			}
			score := float64(n) / float64(len(rows)) * (1 + float64(min(width, 50))/100)
			if twice := delimiter == best+best && n == len(rows); score > bestScore || twice {
				best, bestScore = delimiter, score
			}
		}
	}
	return best
}

// first cuts up to n rows off a text that may end anywhere; all keeps empty and comment
// lines, so that lines can be counted.
func (d Dialect) first(text []byte, n int, all bool) [][]string {
	s := newSplitter(d, lineEnd(text))
	rows := [][]string{}
	for at := 0; at < len(text) && len(rows) < n; {
		s.reset(-1)
		if s.comment(text, at) {
			if at = s.lineAfter(text, at); all {
				rows = append(rows, nil)
			}
			continue
		}
		end, whole := s.record(text, at, true)
		if !whole && len(rows) > 0 {
			break
		}
		if !s.empty || all {
			rows = append(rows, s.cells(text))
		}
		at = end
	}
	return rows
}
