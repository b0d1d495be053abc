package segment

import (
	"bytes"
	"math/rand/v2"
	"os/exec"
	"slices"
	"testing"

	"github.com/klauspost/compress/zstd"
)

func TestNumbersThereAndBack(t *testing.T) {
	r := rand.New(rand.NewPCG(51, 52))
	for range 300 {
		n := make([]uint32, r.IntN(3000))
		bits, steps := r.IntN(33), r.IntN(3) == 0
		for i := range n {
			n[i] = uint32(r.Uint64() & (1<<bits - 1))
			if steps {
				n[i] = uint32(i * 3)
			}
		}
		back, err := DecodeNumbers(nil, EncodeNumbers(n))
		if err != nil || !slices.Equal(back, n) && len(n) > 0 {
			t.Fatalf("%d numbers of %d bits came back as %d (%v)", len(n), bits, len(back), err)
		}
	}
}

func TestValuesThereAndBack(t *testing.T) {
	r := rand.New(rand.NewPCG(53, 54))
	for range 50 {
		var arena []byte
		ends := []uint32{0}
		for range r.IntN(400) {
			arena = append(arena, bytes.Repeat([]byte{byte('a' + r.IntN(3))}, r.IntN(20_000))...)
			ends = append(ends, uint32(len(arena)))
		}
		var gotArena []byte
		gotEnds := []uint32{0}
		from := 0
		for _, to := range CutValues(ends) {
			var err error
			if gotArena, gotEnds, err = DecodeValues(gotArena, gotEnds, EncodeValues(arena, ends, from, to)); err != nil {
				t.Fatal(err)
			}
			from = to
		}
		if !bytes.Equal(gotArena, arena) || !slices.Equal(gotEnds, ends) {
			t.Fatalf("%d values came back as %d", len(ends)-1, len(gotEnds)-1)
		}
	}
}

// Every damaged byte of a segment is noticed or does no harm; none is read as other
// numbers.
func TestDamageIsNoticed(t *testing.T) {
	n := []uint32{5, 9, 70_000, 70_001, 3, 3, 3}
	body := EncodeNumbers(n)
	for i := range body {
		hurt := bytes.Clone(body)
		hurt[i] ^= 0x20
		if got, err := DecodeNumbers(nil, hurt); err == nil && !slices.Equal(got, n) {
			t.Errorf("byte %d damaged reads as %v", i, got)
		}
	}
	if _, err := DecodeNumbers(nil, body[:len(body)-1]); err == nil {
		t.Error("a segment cut short was read")
	}
	bomb, _ := zstd.NewWriter(nil)
	if _, err := DecodeNumbers(nil, bomb.EncodeAll(append([]byte{1, 0xff, 0xff, 0xff, 0x7f}, make([]byte, 99)...), nil)); err == nil {
		t.Error("a segment of too many numbers was read")
	}
}

// Outside reference: the zstd program of Debian's package zstd unpacks a segment to the
// bytes that the package comment describes.
func TestAgainstZstd(t *testing.T) {
	zstd, err := exec.LookPath("zstd")
	if err != nil {
		t.Fatal("the zstd program is missing; ./test installs it: ", err)
	}
	cmd := exec.Command(zstd, "-d", "-c")
	cmd.Stdin = bytes.NewReader(EncodeNumbers([]uint32{1, 300, 2}))
	raw, err := cmd.Output()
	if want := []byte{2, 3, 1, 0, 0x2c, 1, 2, 0}; err != nil || !bytes.Equal(raw, want) {
		t.Errorf("unpacked to %v (%v), want %v", raw, err, want)
	}
}
