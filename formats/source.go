package formats

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"slices"
	"strconv"
	"strings"

	"github.com/klauspost/compress/zstd"

	"grandledger/core/problem"
)

// Source is a file to read.
type Source struct {
	Name string // for messages and provenance
	Size int64
	At   io.ReaderAt
}

// File opens a file of the machine as a source. Close it afterwards.
func File(name string) (Source, io.Closer, error) {
	f, err := os.Open(name)
	if err != nil {
		return Source{}, nil, &problem.Problem{What: "the file cannot be opened: " + reason(err), File: name, Remedy: "Check its name and whether you may read it"}
	}
	st, err := f.Stat()
	if err == nil && !st.Mode().IsRegular() {
		err = problem.New("Choose a file", "%s is not a file", name)
	}
	if err != nil {
		f.Close()
		return Source{}, nil, err
	}
	return Source{name, st.Size(), f}, f, nil
}

// reason takes the path off an error that names it.
func reason(err error) string {
	var p *fs.PathError
	if errors.As(err, &p) {
		return p.Err.Error()
	}
	return err.Error()
}

// Limits of what packed files may unpack to.
const (
	freeRoom = 1 << 30 // bytes that any file may unpack to
	maxRatio = 200     // times its own size, beyond that
	members  = 10_000  // files of an archive
)

// room is how many bytes a packed source may unpack to.
func (s Source) room() int64 { return max(freeRoom, s.Size*maxRatio) }

// bounded refuses to unpack more than there is room for.
type bounded struct {
	r    io.Reader
	left int64
	file string
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.r.Read(p)
	if b.left -= int64(n); b.left < 0 {
		bad := problem.New("Unpack it and bring in the file inside", "the file unpacks to more than %d times its size", maxRatio)
		bad.File = b.file
		return 0, bad
	}
	return n, corrupt(err, b.file)
}

// corrupt makes a problem of what an unpacker says of a damaged file.
func corrupt(err error, file string) error {
	switch {
	case err == nil, err == io.EOF:
		return err
	case errors.Is(err, gzip.ErrChecksum), errors.Is(err, gzip.ErrHeader), errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, zip.ErrChecksum),
		errors.Is(err, zip.ErrFormat), errors.Is(err, zip.ErrAlgorithm), strings.Contains(err.Error(), "flate"), strings.Contains(err.Error(), "zstd"),
		errors.Is(err, zstd.ErrMagicMismatch), errors.Is(err, zstd.ErrCRCMismatch), errors.Is(err, zstd.ErrReservedBlockType),
		errors.Is(err, zstd.ErrCompressedSizeTooBig), errors.Is(err, zstd.ErrWindowSizeExceeded), errors.Is(err, zstd.ErrDecoderSizeExceeded), errors.Is(err, zstd.ErrUnexpectedBlockSize):
		bad := problem.New("Ask for the file again", "the packed file is damaged or cut off: %v", err)
		bad.File = file
		return bad
	}
	return err
}

// open gives the bytes of a source, unpacked. piece is the file of an archive.
func (s Source) open(packed, piece string) (io.ReadCloser, error) {
	whole := io.NewSectionReader(s.At, 0, s.Size)
	limit := func(r io.Reader, close func() error) io.ReadCloser {
		return struct {
			io.Reader
			io.Closer
		}{&bounded{r, s.room(), s.Name}, closer(close)}
	}
	switch packed {
	case "":
		return io.NopCloser(whole), nil
	case Gzip:
		z, err := gzip.NewReader(whole)
		if err != nil {
			return nil, corrupt(err, s.Name)
		}
		return limit(z, z.Close), nil
	case Zstd:
		z, err := zstd.NewReader(whole, zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxWindow(128<<20))
		if err != nil {
			return nil, corrupt(err, s.Name)
		}
		return limit(z, func() error { z.Close(); return nil }), nil
	case Zip:
		z, err := zip.NewReader(whole, s.Size)
		if err != nil {
			return nil, corrupt(err, s.Name)
		}
		names := membersOf(z)
		if piece == "" && len(names) > 0 {
			piece = names[0]
		}
		for _, f := range z.File {
			if f.Name == piece {
				r, err := f.Open()
				if err != nil {
					return nil, corrupt(err, s.Name)
				}
				return limit(r, r.Close), nil
			}
		}
		bad := problem.New("It holds "+list(names), "the archive has no file %q", piece)
		bad.File = s.Name
		return nil, bad
	}
	return nil, problem.New("Use gzip, zstd or zip", "files packed as %q cannot be read", packed)
}

type closer func() error

func (c closer) Close() error { return c() }

// membersOf lists the files of an archive that may be tables.
func membersOf(z *zip.Reader) (names []string) {
	for _, f := range z.File {
		base := path.Base(f.Name)
		if !strings.HasSuffix(f.Name, "/") && !strings.HasPrefix(base, ".") && !strings.HasPrefix(f.Name, "__MACOSX/") && !slices.Contains(names, f.Name) && len(names) < members {
			names = append(names, f.Name)
		}
	}
	return names
}

func list(names []string) string {
	var quoted []string
	for _, n := range names[:min(len(names), 20)] {
		quoted = append(quoted, strconv.Quote(n))
	}
	if len(names) > 20 {
		quoted = append(quoted, "…")
	}
	return strings.Join(quoted, ", ")
}

// spread gives a source whose bytes can be read at any place: the source itself, or for a
// packed one its bytes unpacked to a file, which is removed when it is closed.
func (s Source) spread(packed, piece string) (Source, io.Closer, error) {
	if packed == "" {
		return s, io.NopCloser(nil), nil
	}
	r, err := s.open(packed, piece)
	if err != nil {
		return s, nil, err
	}
	defer r.Close()
	f, err := os.CreateTemp("", "grandledger-unpacked-*")
	if err != nil {
		return s, nil, err
	}
	os.Remove(f.Name()) // it lives as long as it is open, and no longer if we are killed
	n, err := io.Copy(f, r)
	if err != nil {
		f.Close()
		return s, nil, err
	}
	return Source{s.Name, n, f}, f, nil
}

// sample gives the first bytes of what a source holds, unpacked.
func (s Source) sample(packed, piece string) ([]byte, error) {
	r, err := s.open(packed, piece)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	sample := make([]byte, sampleSize)
	n, err := io.ReadFull(r, sample)
	if err == io.EOF || err == io.ErrUnexpectedEOF {
		err = nil
	}
	return sample[:n], err
}

const sampleSize = 256 << 10

// packing tells how a file is packed by its first bytes. A zip archive may be a workbook,
// which is no packing.
func (s Source) packing(head []byte) (packed string, names []string, err error) {
	switch {
	case bytes.HasPrefix(head, []byte("\x1f\x8b")):
		return Gzip, nil, nil
	case bytes.HasPrefix(head, []byte("\x28\xb5\x2f\xfd")):
		return Zstd, nil, nil
	case !bytes.HasPrefix(head, []byte("PK\x03\x04")) && !bytes.HasPrefix(head, []byte("PK\x05\x06")):
		return "", nil, nil
	}
	z, err := zip.NewReader(io.NewSectionReader(s.At, 0, s.Size), s.Size)
	if err != nil {
		return "", nil, corrupt(err, s.Name)
	}
	for _, f := range z.File {
		if f.Name == "xl/workbook.xml" || f.Name == "content.xml" {
			return "", nil, nil
		}
	}
	names = membersOf(z)
	if len(names) == 0 {
		bad := problem.New("Choose another file", "the archive holds no file")
		bad.File = s.Name
		return "", nil, bad
	}
	return Zip, names, nil
}
