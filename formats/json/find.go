package json

import (
	"bytes"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/formats/intake"
)

// begin finds out how the records stand and gives where the first begins.
func (r *reader) begin() (int, error) {
	w := &walker{reader: r}
	c, err := w.next()
	if err != nil {
		return 0, err
	}
	if r.shape.Records != "" {
		if err := w.seek(segments(r.shape.Records)); err != nil {
			return 0, err
		}
		if c, err = w.next(); err != nil {
			return 0, err
		}
		if c != '[' {
			return 0, problem.New("Choose another path", "at %q is no list of records", r.shape.Records)
		}
	}
	if c == '[' {
		r.listed = true
		w.at++
	}
	return w.at, nil
}

// segments splits a path at its full stops; \. is one within a name.
func segments(path string) []string {
	parts := strings.Split(strings.ReplaceAll(path, `\.`, "\x00"), ".")
	for i := range parts {
		parts[i] = strings.ReplaceAll(parts[i], "\x00", ".")
	}
	return parts
}

// walker goes through a document byte by byte, whatever the length of what it passes.
type walker struct {
	*reader
	at int
}

// peek gives the byte at hand.
func (w *walker) peek() (byte, error) {
	for w.at == len(w.Buf) {
		if w.Ended {
			return 0, problem.New("Choose a file with records, or ask for it again", "the file ends before its records")
		}
		if _, err := w.Next(w.at); err != nil {
			return 0, err
		}
		w.at = 0
	}
	return w.Buf[w.at], nil
}

// next passes over white space and gives the byte at hand.
func (w *walker) next() (byte, error) {
	for {
		c, err := w.peek()
		if err != nil || c != ' ' && c != '\n' && c != '\r' && c != '\t' {
			return c, err
		}
		w.at++
	}
}

// seek goes to the value at a path.
func (w *walker) seek(path []string) error {
	for _, name := range path {
		if c, err := w.next(); err != nil {
			return err
		} else if c != '{' {
			return problem.New("Choose another path", "there is no %q, since what should hold it is no object", name)
		}
		w.at++
		for {
			c, err := w.next()
			if err != nil {
				return err
			}
			if c == ',' {
				w.at++
				continue
			}
			if c != '"' {
				return problem.New("Choose another path", "there is no %q in the document", name)
			}
			key, err := w.key()
			if err != nil {
				return err
			}
			if c, err = w.next(); err != nil {
				return err
			}
			if c != ':' {
				return problem.New("Ask for the file again", "a colon is missing after the name %q", key)
			}
			w.at++
			if key == name {
				break
			}
			if err := w.skip(); err != nil {
				return err
			}
		}
	}
	return nil
}

// key reads the name at hand.
func (w *walker) key() (string, error) {
	var raw []byte
	w.at++
	for {
		c, err := w.peek()
		if err != nil {
			return "", err
		}
		w.at++
		if c == '"' {
			break
		}
		raw = append(raw, c)
		if c == '\\' {
			if c, err = w.peek(); err != nil {
				return "", err
			}
			raw = append(raw, c)
			w.at++
		}
		if len(raw) > 1<<16 {
			return "", problem.New("Ask for the file again", "a name is longer than 64 KiB")
		}
	}
	s := scanner{append(raw, '"')}
	if _, _, f := s.str(0); f != nil {
		return "", problem.New("Ask for the file again", "%s", f.what)
	}
	return string(unescape(nil, raw)), nil
}

// skip passes over a value without judging what is inside it.
func (w *walker) skip() error {
	if _, err := w.next(); err != nil {
		return err
	}
	depth, text := 0, false
	for {
		c, err := w.peek()
		if err != nil {
			return err
		}
		switch {
		case text && c == '\\':
			w.at++
			if _, err := w.peek(); err != nil {
				return err
			}
		case c == '"':
			text = !text
		case text:
		case c == '{' || c == '[':
			depth++
		case (c == '}' || c == ']' || c == ',') && depth == 0:
			return nil
		case c == '}' || c == ']':
			depth--
		}
		w.at++
	}
}

// Found is a path with what was seen there.
type Found struct {
	Path  string `json:"path"`
	Items int    `json:"items"` // in the first bytes of the file
}

// Find looks at the first bytes of a file for where the records may be: lists of objects
// inside a document, those with the most items first. It finds nothing where the file
// is itself a list or lines.
func Find(sample []byte) []Found {
	s := scanner{bytes.TrimPrefix(sample, intake.Mark)}
	at := s.space(0)
	if at >= len(s.text) || s.text[at] != '{' {
		return nil
	}
	var found []Found
	end, f := s.lists(at, "", 0, &found)
	if f == nil && s.space(end) < len(s.text) {
		return nil // another value follows: lines
	}
	slices.SortStableFunc(found, func(a, b Found) int { return b.Items - a.Items })
	return found
}

// lists walks over an object and notes the lists of objects within it, as far as the text
// goes.
func (s *scanner) lists(at int, path string, depth int, found *[]Found) (int, *flaw) {
	at++
	for {
		at = s.space(at)
		if at >= len(s.text) || s.text[at] == '}' {
			return at + 1, nil
		}
		if s.text[at] == ',' {
			at++
			continue
		}
		if s.text[at] != '"' {
			return at, short
		}
		end, _, f := s.str(at + 1)
		if f != nil {
			return end, f
		}
		within := (&node{path: path}).join(s.text[at+1 : end])
		at = s.space(end + 1)
		if at, f = s.colon(at); f != nil {
			return at, f
		}
		if at = s.space(at); at >= len(s.text) {
			return at, short
		}
		switch {
		case s.text[at] == '{' && depth < 8:
			at, f = s.lists(at, within, depth+1, found)
		case s.text[at] == '[':
			from := at
			at, _, f = s.value(at, depth+1)
			if n := s.objects(from); n > 0 {
				*found = append(*found, Found{within, n})
			}
		default:
			at, _, f = s.value(at, depth+1)
		}
		if f != nil {
			return at, f
		}
	}
}

// objects counts the objects in a list, as far as the text goes.
func (s *scanner) objects(at int) int {
	at++
	for n := 0; ; n++ {
		at = s.space(at)
		if at < len(s.text) && s.text[at] == ',' {
			at = s.space(at + 1)
		}
		if at >= len(s.text) || s.text[at] != '{' {
			return n
		}
		var f *flaw
		if at, _, f = s.value(at, 0); f != nil {
			return n + 1
		}
	}
}
