// Package problem is the one shape in which Grand Ledger says what is wrong with
// somebody's input: what happened, in which file, row and column, and what to do. A
// command prints it as one line; the API sends it as a problem document (RFC 9457).
package problem

import (
	"errors"
	"fmt"
	"strings"
)

// Problem is an error about input. Only What must be set; Row counts from 1.
type Problem struct {
	What   string
	File   string
	Row    int
	Column string
	Remedy string
}

// New makes a problem with a remedy.
func New(remedy, what string, args ...any) *Problem {
	return &Problem{What: fmt.Sprintf(what, args...), Remedy: remedy}
}

// Error is the problem on one line: file, row, column: what; remedy.
func (p *Problem) Error() string {
	var at []string
	if p.File != "" {
		at = append(at, p.File)
	}
	if p.Row > 0 {
		at = append(at, fmt.Sprintf("row %d", p.Row))
	}
	if p.Column != "" {
		at = append(at, fmt.Sprintf("column %q", p.Column))
	}
	line := p.What
	if len(at) > 0 {
		line = strings.Join(at, ", ") + ": " + line
	}
	if p.Remedy != "" {
		line += ". " + p.Remedy
	}
	return line
}

// In puts the name of the file on a problem that names none; other errors stay as they are.
func In(file string, err error) error {
	var p *Problem
	if errors.As(err, &p) && p.File == "" {
		p.File = file
	}
	return err
}
