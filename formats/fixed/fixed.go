// Package fixed reads text whose columns have fixed widths: each line is cut at the same
// places, which count characters, and spaces around each cell are taken off.
package fixed

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// Layout is how the lines are cut.
type Layout struct {
	Encoding string `json:"encoding"` // one of intake.Encodings
	Cuts     []int  `json:"cuts"`     // where columns after the first begin, in characters from the start of the line, ascending
	Names    int    `json:"names"`    // how many lines name the columns
	Above    int    `json:"above,omitempty"`
}

const (
	maxLine  = 1 << 20
	maxNames = 5
	maxAbove = 10_000
)

func (l Layout) check() error {
	if _, err := intake.Decoder(l.Encoding); err != nil {
		return err
	}
	if len(l.Cuts) >= intake.MaxColumns {
		return intake.TooManyColumns(len(l.Cuts) + 1)
	}
	if !slices.IsSorted(l.Cuts) || len(slices.Compact(slices.Clone(l.Cuts))) < len(l.Cuts) || len(l.Cuts) > 0 && (l.Cuts[0] < 1 || l.Cuts[len(l.Cuts)-1] >= maxLine) {
		return problem.New("Give the places from left to right, each once", "the lines cannot be cut at %v", l.Cuts)
	}
	if l.Names < 0 || l.Names > maxNames || l.Above < 0 || l.Above > maxAbove {
		return problem.New(fmt.Sprintf("Name the columns by at most %d lines", maxNames), "%d lines of names below %d lines cannot be read", l.Names, l.Above)
	}
	return nil
}

// Read reads a text into a table. Lines without any character are left out, and counted.
//
// Cost: one pass; memory is a line, the dictionaries and four bytes a cell.
func Read(ctx context.Context, src io.Reader, l Layout, o intake.Options) (*table.Table, *intake.Report, error) {
	report := &intake.Report{Notes: []intake.Note{}}
	t, err := read(ctx, src, l, o, report)
	return t, report, problem.In(o.File, err)
}

func read(ctx context.Context, src io.Reader, l Layout, o intake.Options, report *intake.Report) (*table.Table, error) {
	if err := l.check(); err != nil {
		return nil, err
	}
	counter := &intake.Counting{R: src}
	lines := bufio.NewScanner(intake.DecodeAll(counter, l.Encoding))
	lines.Buffer(make([]byte, 64<<10), maxLine)
	var names [][]string
	var rows *intake.Rows
	blank, passed := 0, 0
	cells := make([]string, len(l.Cuts)+1)
	for number := 0; lines.Scan(); number++ {
		line := lines.Bytes()
		if number == 0 {
			line = bytes.TrimPrefix(line, intake.Mark)
		}
		if passed < l.Above {
			passed++
			continue
		}
		if len(bytes.TrimSpace(line)) == 0 {
			blank++
			continue
		}
		l.cut(string(line), cells)
		if len(names) < l.Names {
			names = append(names, slices.Clone(cells))
			continue
		}
		if rows == nil {
			rows = l.open(names, o, report)
		}
		for i, cell := range cells {
			if err := rows.Set(i, cell); err != nil {
				return nil, err
			}
		}
		if err := rows.End(ctx); err == intake.ErrEnough {
			break
		} else if err != nil {
			return nil, err
		}
		if o.Progress != nil && number%4096 == 0 {
			o.Progress(counter.Total(), rows.Len())
		}
	}
	if err := lines.Err(); err == bufio.ErrTooLong {
		return nil, problem.New("Read it as delimited text", "a line is longer than %d KiB", maxLine>>10)
	} else if err != nil {
		return nil, err
	}
	if rows == nil {
		rows = l.open(names, o, report)
	}
	report.Bytes = counter.Total()
	report.Note(intake.Tallied{Count: blank}, "an empty line was left out", "empty lines were left out")
	return rows.Table(o, report)
}

func (l Layout) open(names [][]string, o intake.Options, report *intake.Report) *intake.Rows {
	cells := make([]string, len(l.Cuts)+1)
	if l.Names > 0 {
		copy(cells, intake.JoinNames(names))
	}
	return intake.NewRows(intake.Names(cells, l.Names > 0, report), o.Rows)
}

// Cells cuts a line.
func (l Layout) Cells(line string) []string {
	cells := make([]string, len(l.Cuts)+1)
	l.cut(line, cells)
	return cells
}

// cut cuts a line into cells.
func (l Layout) cut(line string, cells []string) {
	at, from := 0, 0 // characters and bytes passed
	for i, cut := range l.Cuts {
		to := from
		for ; at < cut && to < len(line); at++ {
			_, n := utf8.DecodeRuneInString(line[to:])
			to += n
		}
		cells[i] = strings.TrimSpace(line[from:to])
		from = to
	}
	cells[len(cells)-1] = strings.TrimSpace(line[from:])
}

// Lines gives the first lines of a sample as text, for showing where to cut.
func Lines(sample []byte, encoding string, n int) []string {
	text := strings.ReplaceAll(string(bytes.ToValidUTF8(intake.Decode(sample, encoding), []byte("\uFFFD"))), "\r\n", "\n")
	lines := strings.Split(text, "\n")
	if len(lines) > 1 {
		lines = lines[:len(lines)-1] // the last may be cut off, or is empty
	}
	return lines[:min(len(lines), n)]
}

// Sniff proposes cuts: before every column of characters that begins behind one where
// nearly all lines have a space. It finds none where that makes no columns.
func Sniff(lines []string) []int {
	width := 0
	for _, line := range lines {
		width = max(width, utf8.RuneCountInString(line))
	}
	filled := make([]int, min(width, 4096))
	whole := 0
	for _, line := range lines {
		if strings.TrimSpace(line) == "" {
			continue
		}
		whole++
		at := 0
		for _, r := range line {
			if at < len(filled) && r != ' ' {
				filled[at]++
			}
			at++
		}
	}
	var cuts []int
	for at := 1; at < len(filled); at++ {
		if filled[at-1]*50 <= whole && filled[at]*50 > whole {
			cuts = append(cuts, at)
		}
	}
	if len(cuts) > 0 && strings.TrimSpace(first(lines, cuts[0])) == "" {
		cuts = cuts[1:] // an indent is no column
	}
	return cuts
}

// first gives the first characters of all lines.
func first(lines []string, n int) string {
	var b strings.Builder
	for _, line := range lines {
		for i, r := range []rune(line) {
			if i < n {
				b.WriteRune(r)
			}
		}
	}
	return b.String()
}
