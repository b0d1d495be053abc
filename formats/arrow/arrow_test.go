package arrow

import (
	"bytes"
	"context"
	"errors"
	"math/rand/v2"
	"slices"
	"testing"

	arrowlib "github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/apache/arrow-go/v18/arrow/memory"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

func readBytes(data []byte) (*table.Table, error) {
	t, _, err := Read(context.Background(), bytes.NewReader(data), int64(len(data)), intake.Options{})
	return t, err
}

// sample has structures, lists, a dictionary and nulls, as a record batch.
func sample(t testing.TB) arrowlib.RecordBatch {
	t.Helper()
	schema := arrowlib.NewSchema([]arrowlib.Field{
		{Name: "vessel", Nullable: true, Type: arrowlib.StructOf(arrowlib.Field{Name: "name", Type: arrowlib.BinaryTypes.String, Nullable: true}, arrowlib.Field{Name: "no", Type: arrowlib.PrimitiveTypes.Uint16})},
		{Name: "catch", Nullable: true, Type: arrowlib.ListOf(arrowlib.BinaryTypes.String)},
		{Name: "gear", Nullable: true, Type: &arrowlib.DictionaryType{IndexType: arrowlib.PrimitiveTypes.Int8, ValueType: arrowlib.BinaryTypes.String}},
		{Name: "kg", Nullable: true, Type: arrowlib.PrimitiveTypes.Float32},
	}, nil)
	b := array.NewRecordBuilder(memory.DefaultAllocator, schema)
	defer b.Release()
	for _, row := range []string{`{"vessel":{"name":"Möwe","no":7},"catch":["cod","hake"],"gear":"trawl","kg":0.1}`,
		`{"vessel":null,"catch":[],"gear":"net","kg":null}`, `{"vessel":{"name":null,"no":9},"catch":null,"gear":"trawl","kg":1e30}`} {
		if err := b.UnmarshalJSON([]byte(row)); err != nil {
			t.Fatal(err)
		}
	}
	return b.NewRecordBatch()
}

func encode(t testing.TB, stream bool, options ...ipc.Option) []byte {
	t.Helper()
	batch := sample(t)
	var out bytes.Buffer
	options = append(options, ipc.WithSchema(batch.Schema()))
	var err error
	if stream {
		w := ipc.NewWriter(&out, options...)
		err = errors.Join(w.Write(batch), w.Close())
	} else {
		w, openErr := ipc.NewFileWriter(&out, options...)
		if openErr != nil {
			t.Fatal(openErr)
		}
		err = errors.Join(w.Write(batch), w.Write(batch), w.Close())
	}
	if err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func TestFilesAndStreams(t *testing.T) {
	want := [][]string{{"Möwe", "7", `["cod","hake"]`, "trawl", "0.1"}, {"∅", "∅", "[]", "net", "∅"}, {"∅", "9", "∅", "trawl", "1e+30"}}
	for name, data := range map[string][]byte{
		"stream": encode(t, true), "file": encode(t, false), "LZ4": encode(t, true, ipc.WithLZ4()), "Zstandard": encode(t, false, ipc.WithZstd()),
	} {
		tab, err := readBytes(data)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if got := coretest.Rows(tab); !slices.EqualFunc(got[:3], want, slices.Equal) {
			t.Errorf("%s reads as %q", name, got)
		}
		if tab.Columns()[0].Name != "vessel.name" {
			t.Errorf("%s: column %q", name, tab.Columns()[0].Name)
		}
	}
}

// Thousands of damaged files: each is read or refused, and none takes the memory it claims.
func TestDamagedFiles(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 4))
	for _, whole := range [][]byte{encode(t, true), encode(t, false), encode(t, true, ipc.WithLZ4())} {
		refused := 0
		for range 3000 {
			data := bytes.Clone(whole)
			for range 1 + r.IntN(4) {
				data[r.IntN(len(data))] = byte(r.IntN(256))
			}
			if r.IntN(4) == 0 {
				data = data[:r.IntN(len(data))]
			}
			var p *problem.Problem
			if _, err := readBytes(data); err != nil {
				if !errors.As(err, &p) {
					t.Fatalf("%v is no problem", err)
				}
				refused++
			}
		}
		if refused == 0 {
			t.Error("no damaged file was refused")
		}
	}
}

func TestLimitedAllocator(t *testing.T) {
	l := NewLimited()
	b := l.Allocate(100)
	b = l.Reallocate(200, b)
	if l.held.Load() != 200 {
		t.Errorf("%d bytes are held", l.held.Load())
	}
	l.Free(b)
	if l.held.Load() != 0 {
		t.Errorf("%d bytes are held after all were freed", l.held.Load())
	}
	for _, size := range []int{memoryLimit + 1, -1} {
		if err := Guard(func() error { l.Allocate(size); return nil }); err == nil {
			t.Errorf("%d bytes were given", size)
		}
	}
}

// No bytes make reading fail otherwise than by a problem.
func FuzzRead(f *testing.F) {
	for _, whole := range [][]byte{encode(f, true), encode(f, false), encode(f, true, ipc.WithLZ4()), []byte("ARROW1\x00\x00")} {
		f.Add(whole)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		var p *problem.Problem
		if _, err := readBytes(data); err != nil && !errors.As(err, &p) {
			t.Fatalf("%v is no problem", err)
		}
	})
}
