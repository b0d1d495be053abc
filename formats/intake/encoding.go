package intake

import (
	"bytes"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"grandledger/core/problem"
)

// Encodings lists the encodings that can be read, by their IANA names.
var Encodings = []string{"utf-8", "windows-1252", "iso-8859-1", "utf-16le", "utf-16be"}

// Decoder is nil for UTF-8, whose bytes are taken as they are.
func Decoder(name string) (*encoding.Decoder, error) {
	switch name {
	case "utf-8":
		return nil, nil
	case "windows-1252":
		return charmap.Windows1252.NewDecoder(), nil
	case "iso-8859-1":
		return charmap.ISO8859_1.NewDecoder(), nil
	case "utf-16le":
		return unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewDecoder(), nil
	case "utf-16be":
		return unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM).NewDecoder(), nil
	}
	return nil, problem.New("Use "+strings.Join(Encodings, ", "), "the encoding %q is not known", name)
}

// DecodeAll turns a text of a known encoding into UTF-8 as it is read; a byte order mark
// stays at its head.
func DecodeAll(src io.Reader, name string) io.Reader {
	if dec, _ := Decoder(name); dec != nil {
		return dec.Reader(src)
	}
	return src
}

// Mark is the byte order mark in UTF-8.
var Mark = []byte("\xef\xbb\xbf")

// Decode turns a sample, which may end inside a character, into UTF-8 without a byte
// order mark.
func Decode(sample []byte, name string) []byte {
	if dec, _ := Decoder(name); dec != nil {
		if text, err := dec.Bytes(sample); err == nil {
			sample = text
		}
	}
	return bytes.TrimPrefix(sample, Mark)
}

// SniffEncoding works out the encoding of a text from its first bytes. It refuses bytes
// that are no text.
func SniffEncoding(sample []byte) (string, error) {
	switch {
	case bytes.HasPrefix(sample, []byte("\xff\xfe")):
		return "utf-16le", nil
	case bytes.HasPrefix(sample, []byte("\xfe\xff")):
		return "utf-16be", nil
	}
	if n := bytes.Count(sample, []byte{0}); n*10 > len(sample) {
		odd := 0
		for i := 1; i < len(sample); i += 2 {
			if sample[i] == 0 {
				odd++
			}
		}
		switch {
		case odd*10 > n*9:
			return "utf-16le", nil
		case odd*10 < n:
			return "utf-16be", nil
		}
		return "", problem.New("Export it as text (CSV)", "the file is not text: %d of its first %d bytes are NUL", n, len(sample))
	}
	whole := sample
	for i := 1; i < utf8.UTFMax && i <= len(whole) && len(sample) >= utf8.UTFMax; i++ {
		if utf8.RuneStart(sample[len(sample)-i]) {
			whole = sample[:len(sample)-i] // the sample may end inside a character
			break
		}
	}
	if utf8.Valid(sample) || utf8.Valid(whole) {
		return "utf-8", nil
	}
	return "windows-1252", nil
}
