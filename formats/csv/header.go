package csv

import (
	"bytes"

	"grandledger/formats/intake"
)

// header passes over the lines above the names, reads the names or makes them, and gives
// where the rows start.
func (r *reader) header() (int, error) {
	at := 0
	for range r.d.Above {
		for {
			if nl := bytes.IndexByte(r.Buf[at:], r.newline); nl >= 0 {
				at += nl + 1
				break
			}
			if r.Ended {
				at = len(r.Buf)
				break
			}
			if room, err := r.Next(at); err != nil {
				return 0, err
			} else if !room {
				return 0, r.tooLong(0, -1)
			}
			at = 0
		}
	}
	lines := make([][]string, max(r.d.Names, 1))
	for i := range lines {
		cells, end, err := r.line(&at)
		if err != nil {
			return 0, err
		}
		lines[i] = cells
		if i < r.d.Names {
			at = end
		}
	}
	cells := lines[0]
	if r.d.Names > 1 {
		cells = intake.JoinNames(lines)
	}
	if len(cells) > intake.MaxColumns {
		return 0, intake.TooManyColumns(len(cells))
	}
	if r.d.Names == 0 {
		cells = make([]string, len(cells))
	}
	r.names = intake.Names(cells, r.d.Names > 0, &r.report)
	for _, name := range r.names {
		r.columns = append(r.columns, intake.NewColumn(name, 0))
	}
	return at, nil
}

// line cuts the first line that holds something from a place on, which it moves to where
// that line begins, and gives its cells and where the next one begins.
func (r *reader) line(at *int) (cells []string, end int, err error) {
	s := newSplitter(r.d, r.newline)
	for {
		s.reset(-1)
		end, whole := s.record(r.Buf, *at, r.Ended)
		switch {
		case !whole && r.Ended:
			return nil, 0, r.unclosed(s, 0)
		case !whole:
			room, err := r.Next(*at)
			if err != nil {
				return nil, 0, err
			}
			if !room {
				return nil, 0, r.tooLong(0, -1)
			}
			*at = 0
		case s.comment(r.Buf, *at):
			r.comments++
			*at = s.lineAfter(r.Buf, *at)
		case s.empty && (end < len(r.Buf) || !r.Ended):
			r.blank++
			*at = end
		default:
			return s.cells(r.Buf), end, nil
		}
	}
}
