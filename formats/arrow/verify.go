package arrow

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"

	flatbuffers "github.com/google/flatbuffers/go"
)

// The metadata of Arrow files are FlatBuffers, whose vectors begin with their length. The
// library makes room for that many before it looks further, so a file of a few bytes could
// take all memory. verify goes over all of them first and holds each length against
// the bytes there are. The numbers are those of the fields in Apache Arrow's
// Schema.fbs, Message.fbs and File.fbs.

const maxMetadata = 256 << 20 // bytes of one piece of metadata

var errLengths = errors.New("its metadata claim more than there is")

// head begins and ends a file, but not a stream.
var head = []byte("ARROW1")

// verify checks a whole file or stream.
func verify(src *io.SectionReader) error {
	first := make([]byte, len(head))
	if _, err := src.ReadAt(first, 0); err != nil {
		return err
	}
	if bytes.Equal(first, head) {
		return verifyFile(src)
	}
	for at := int64(0); at+4 <= src.Size(); {
		next, err := verifyMessage(src, at)
		if err != nil || next == at {
			return err
		}
		at = next
	}
	return nil
}

// verifyFile checks the footer of a file and the messages it points to.
func verifyFile(src *io.SectionReader) error {
	tail := make([]byte, 10)
	if _, err := src.ReadAt(tail, src.Size()-10); err != nil {
		return err
	}
	n := int64(int32(binary.LittleEndian.Uint32(tail)))
	if n <= 0 || n > maxMetadata || n > src.Size()-10 || !bytes.Equal(tail[4:], head) {
		return errors.New("it is cut off: its end, which says what is in it, is not there")
	}
	footer, err := piece(src, src.Size()-10-n, n)
	if err != nil {
		return err
	}
	if schema, ok := child(footer, 1); ok {
		if err := verifySchema(schema); err != nil {
			return err
		}
	}
	for _, field := range []int{2, 3} { // dictionaries, record batches: blocks of 24 bytes
		length, start, err := vector(footer, field, 24)
		if err != nil {
			return err
		}
		for i := range length {
			offset := footer.GetInt64(start + flatbuffers.UOffsetT(24*i))
			if _, err := verifyMessage(src, offset); err != nil {
				return err
			}
		}
	}
	_, _, err = vector(footer, 4, 4)
	return err
}

// verifyMessage checks the message at a place and gives where the next one begins, which
// is the same place at the end of a stream.
func verifyMessage(src *io.SectionReader, at int64) (next int64, err error) {
	size := make([]byte, 4)
	read := func() (int64, error) {
		if at < 0 || at+4 > src.Size() {
			return 0, io.ErrUnexpectedEOF
		}
		_, err := src.ReadAt(size, at)
		at += 4
		return int64(int32(binary.LittleEndian.Uint32(size))), err
	}
	begin := at
	n, err := read()
	if err == nil && n == -1 { // the mark before the length since format 0.15
		n, err = read()
	}
	if err != nil {
		return 0, err
	}
	if n == 0 {
		return begin, nil
	}
	if n < 0 || n > maxMetadata || n > src.Size()-at {
		return 0, errLengths
	}
	message, err := piece(src, at, n)
	if err != nil {
		return 0, err
	}
	body := int64(0)
	if o := message.Offset(10); o != 0 {
		body = message.GetInt64(message.Pos + flatbuffers.UOffsetT(o))
	}
	if body < 0 || body > src.Size()-at-n {
		return 0, errLengths
	}
	kind := byte(0)
	if o := message.Offset(6); o != 0 {
		kind = message.GetByte(message.Pos + flatbuffers.UOffsetT(o))
	}
	header, ok := child(message, 2)
	if ok {
		switch kind {
		case 1:
			err = verifySchema(header)
		case 2:
			if data, ok := child(header, 1); ok {
				err = verifyBatch(data)
			}
		case 3:
			err = verifyBatch(header)
		}
	}
	if _, _, err := vector(message, 4, 4); err != nil {
		return 0, err
	}
	return at + n + body, err
}

func verifySchema(schema flatbuffers.Table) error {
	if _, _, err := vector(schema, 3, 8); err != nil {
		return err
	}
	return verifyFields(schema, 1, 2, 0)
}

// verifyFields checks the vector of fields, that of key-value pairs, and their children.
func verifyFields(t flatbuffers.Table, fields, pairs, depth int) error {
	if depth > 100 {
		return fmt.Errorf("its fields are more than 100 deep in one another")
	}
	if _, _, err := vector(t, pairs, 4); err != nil {
		return err
	}
	length, start, err := vector(t, fields, 4)
	if err != nil {
		return err
	}
	for i := range length {
		at := t.Indirect(start + flatbuffers.UOffsetT(4*i))
		field := flatbuffers.Table{Bytes: t.Bytes, Pos: at}
		if typ, ok := child(field, 3); ok && unionType(field) {
			if _, _, err := vector(typ, 1, 4); err != nil { // the type ids of a union
				return err
			}
		}
		if err := verifyFields(field, 5, 6, depth+1); err != nil {
			return err
		}
	}
	return nil
}

func unionType(field flatbuffers.Table) bool {
	o := field.Offset(8)
	return o != 0 && field.GetByte(field.Pos+flatbuffers.UOffsetT(o)) == 14
}

func verifyBatch(batch flatbuffers.Table) error {
	for _, v := range []struct{ field, width int }{{1, 16}, {2, 16}, {4, 8}} { // nodes, buffers, counts of variadic buffers
		if _, _, err := vector(batch, v.field, v.width); err != nil {
			return err
		}
	}
	return nil
}

// piece reads metadata and gives their root.
func piece(src *io.SectionReader, at, n int64) (flatbuffers.Table, error) {
	if at < 0 || n < 8 || at+n > src.Size() {
		return flatbuffers.Table{}, errLengths
	}
	buf := make([]byte, n)
	if _, err := src.ReadAt(buf, at); err != nil && err != io.EOF {
		return flatbuffers.Table{}, err
	}
	return flatbuffers.Table{Bytes: buf, Pos: flatbuffers.GetUOffsetT(buf)}, nil
}

// child gives the table in a field.
func child(t flatbuffers.Table, field int) (flatbuffers.Table, bool) {
	o := t.Offset(flatbuffers.VOffsetT(4 + 2*field))
	if o == 0 {
		return t, false
	}
	return flatbuffers.Table{Bytes: t.Bytes, Pos: t.Indirect(t.Pos + flatbuffers.UOffsetT(o))}, true
}

// vector gives the length and start of the vector in a field, whose items have a width.
func vector(t flatbuffers.Table, field, width int) (length int, start flatbuffers.UOffsetT, err error) {
	o := t.Offset(flatbuffers.VOffsetT(4 + 2*field))
	if o == 0 {
		return 0, 0, nil
	}
	length, start = t.VectorLen(flatbuffers.UOffsetT(o)), t.Vector(flatbuffers.UOffsetT(o))
	if length < 0 || int64(start)+int64(length)*int64(width) > int64(len(t.Bytes)) {
		return 0, 0, errLengths
	}
	return length, start, nil
}
