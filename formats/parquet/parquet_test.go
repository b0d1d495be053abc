package parquet

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/arrow"
	"grandledger/formats/intake"
)

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// node runs the independent reader or writer of reference/.
func node(t *testing.T, args ...string) []byte {
	t.Helper()
	cmd := exec.Command("node", append([]string{"../../reference/rows.mjs"}, args...)...)
	out, err := cmd.Output()
	if err != nil {
		var exit *exec.ExitError
		errors.As(err, &exit)
		t.Fatalf("node %v: %v\n%s", args, err, exit.Stderr)
	}
	return out
}

func sample() *table.Table {
	return coretest.Build(
		[]string{"no", "price", "ratio", "day", "code", "text", "yes"},
		[]string{"1", "12.50", "0.5", "2031-10-04", "0017", "a\"b", "true"},
		[]string{"-20", "3.00", "17", "1850-12-31", "17", " edge ", "false"},
		[]string{"∅", "∅", "∅", "∅", "", "Möwe\nzwei", "∅"},
	)
}

// Outside references: the analytical engine from npm reads our Parquet file, Apache
// Arrow's own JavaScript reads our Arrow file, and both see the types and the values; we
// read back what we wrote to the letter.
func TestWriteAgainstOtherReaders(t *testing.T) {
	dir := t.TempDir()
	for _, c := range []struct {
		file, types, first string
		write              func(*bytes.Buffer) error
		read               func(*bytes.Reader) (*table.Table, *intake.Report, error)
	}{
		{"terns.parquet", "BIGINT DECIMAL(18,2) DOUBLE DATE VARCHAR VARCHAR BOOLEAN", `["1","12.50",0.5,"2031-10-04","0017","a\"b",true]`,
			func(b *bytes.Buffer) error { return Write(context.Background(), b, sample()) },
			func(r *bytes.Reader) (*table.Table, *intake.Report, error) {
				return Read(context.Background(), r, r.Size(), intake.Options{})
			}},
		{"terns.arrow", "Int64 Decimal[18e+2] Float64 Date32<DAY> Utf8 Utf8 Bool", "",
			func(b *bytes.Buffer) error { return arrow.Write(context.Background(), b, sample()) },
			func(r *bytes.Reader) (*table.Table, *intake.Report, error) {
				return arrow.Read(context.Background(), r, r.Size(), intake.Options{})
			}},
	} {
		var out bytes.Buffer
		must(t, c.write(&out))
		back, _, err := c.read(bytes.NewReader(out.Bytes()))
		must(t, err)
		if got, want := coretest.Rows(back), coretest.Rows(sample()); !slices.EqualFunc(got, want, slices.Equal) {
			t.Errorf("%s: read back %q, want %q", c.file, got, want)
		}
		file := filepath.Join(dir, c.file)
		must(t, os.WriteFile(file, out.Bytes(), 0o600))
		var said struct {
			Names, Types []string
			Rows         []json.RawMessage
		}
		must(t, json.Unmarshal(node(t, file), &said))
		if strings.Join(said.Types, " ") != c.types || len(said.Rows) != 3 || c.first != "" && string(said.Rows[0]) != c.first {
			t.Errorf("%s: the other reader sees %v\n%s", c.file, said.Types, said.Rows)
		}
	}
}

// What the engine writes, nested values among it, becomes columns by path and lists.
func TestReadOfAnotherWriter(t *testing.T) {
	file := filepath.Join(t.TempDir(), "engine.parquet")
	node(t, file, `select 7::utinyint as small, 1.5::float as ratio, 12.340::decimal(9,3) as price, date '2031-10-04' as day,
		timestamp '2031-10-04 05:06:07.5' as at, timestamptz '2031-10-04 05:06:07+00' as zoned, [1,2] as list, {'name': 'Tern', 'port': {'id': 3}} as vessel,
		'Möwe' as name, null::varchar as none, [{'s': 'cod'}] as catch, '\xAA'::blob as bytes, time '01:02:03' as clock`)
	data, err := os.ReadFile(file)
	must(t, err)
	tab, _, err := Read(context.Background(), bytes.NewReader(data), int64(len(data)), intake.Options{})
	must(t, err)
	want := map[string]string{"small": "7", "ratio": "1.5", "price": "12.340", "day": "2031-10-04", "at": "2031-10-04 05:06:07.5", "zoned": "2031-10-04 05:06:07Z",
		"list": "[1,2]", "vessel.name": "Tern", "vessel.port.id": "3", "name": "Möwe", "catch": `[{"s":"cod"}]`, "bytes": "qg==", "clock": "01:02:03"}
	for _, c := range tab.Columns() {
		v, ok := c.Value(0)
		if v != want[c.Name] || ok == (c.Name == "none") {
			t.Errorf("%s reads as %q (%t), want %q", c.Name, v, ok, want[c.Name])
		}
	}
}

func TestRefusals(t *testing.T) {
	var p, a bytes.Buffer
	must(t, Write(context.Background(), &p, sample()))
	must(t, arrow.Write(context.Background(), &a, sample()))
	for name, c := range map[string]struct {
		data  []byte
		what  string
		arrow bool
	}{
		"cut off":        {p.Bytes()[:p.Len()/2], "cut off", false},
		"nearly nothing": {[]byte("PAR1"), "cut off", false},
		"encrypted":      {append(append([]byte("PARE"), make([]byte, 20)...), "PARE"...), "encrypted", false},
		"broken":         {append(append([]byte("PAR1"), make([]byte, 20)...), "PAR1"...), "cannot be read", false},
		"arrow cut off":  {a.Bytes()[:a.Len()/2], "cannot be read", true},
		"arrow short":    {[]byte("ARR"), "cannot be read", true},
	} {
		var err error
		if c.arrow {
			_, _, err = arrow.Read(context.Background(), bytes.NewReader(c.data), int64(len(c.data)), intake.Options{File: "x"})
		} else {
			_, _, err = Read(context.Background(), bytes.NewReader(c.data), int64(len(c.data)), intake.Options{File: "x"})
		}
		var bad *problem.Problem
		if !errors.As(err, &bad) || !strings.Contains(bad.What, c.what) || bad.File != "x" || bad.Remedy == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	var p, a bytes.Buffer
	if err := errors.Join(Write(context.Background(), &p, sample()), arrow.Write(context.Background(), &a, sample())); err != nil {
		f.Fatal(err)
	}
	f.Add(p.Bytes())
	f.Add(a.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		var p *problem.Problem
		if _, _, err := Read(context.Background(), bytes.NewReader(data), int64(len(data)), intake.Options{}); err != nil && !errors.As(err, &p) {
			t.Fatalf("%v is no problem", err)
		}
		if _, _, err := arrow.Read(context.Background(), bytes.NewReader(data), int64(len(data)), intake.Options{}); err != nil && !errors.As(err, &p) {
			t.Fatalf("%v is no problem", err)
		}
	})
}
