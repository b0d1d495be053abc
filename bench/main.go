// Command bench measures Grand Ledger beside a general-purpose analytical engine from
// npm, on the same generated file, one after the other in one run, with the same two
// cores, and prints the ratios and the peaks of memory. Run it on an idle machine:
//
//	go run ./bench [--rows 1000000] [--rounds 3]
//
// It also times what the application adds: storing in PostgreSQL, loading, and the
// entries of a table of that size. Nothing of it asserts a time.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/formats/csv"
	"grandledger/formats/intake"
)

// threads is what both sides may use.
const threads = 2

// Measured is what one side did: seconds by step, answers to compare, peak memory.
type Measured struct {
	Seconds map[string]float64 `json:"seconds"`
	Answers struct {
		Distinct []int `json:"distinct"`
		Kept     int   `json:"kept"`
		Joined   int   `json:"joined,omitempty"` // bytes of the texts joined
	} `json:"answers"`
	Peak int `json:"peak"` // MiB
}

// steps in the order they are done.
var steps = []string{"read", "tally", "repeats", "write"}

func main() {
	rows := flag.Int("rows", 1_000_000, "rows of the generated file")
	rounds := flag.Int("rounds", 3, "rounds, of which the median counts")
	one := flag.String("one", "", "measure our side once on this file (used by bench itself)")
	stored := flag.Bool("stored", false, "also time the application on PostgreSQL")
	notes := flag.Int("notes", 0, "measure on so many landing notes as JSON Lines and CSV instead; 6000000 is what docs/performance.md has")
	oneNotes := flag.String("one-notes", "", "which part of the notes to measure once (used by bench itself)")
	people := flag.Int("people", 0, "link so many records of people instead")
	onePeople := flag.String("one-people", "", "measure our linkage once on this file (used by bench itself)")
	flag.Parse()
	err := error(nil)
	if *onePeople != "" {
		err = oursPeople(*onePeople)
	} else if *people > 0 {
		err = runPeople(*people, *rounds)
	} else if *oneNotes != "" {
		err = oursNotes(*oneNotes, *one)
	} else if *notes > 0 {
		err = runNotes(*notes, *rounds)
	} else if *one != "" {
		err = ours(*one)
	} else {
		err = run(*rows, *rounds, *stored)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

func run(rows, rounds int, stored bool) error {
	dir := filepath.Join("bench", "work")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	if err := installEngine(); err != nil {
		return err
	}
	file := filepath.Join(dir, fmt.Sprintf("landings-%d.csv", rows))
	if err := generate(file, rows); err != nil {
		return err
	}
	st, err := os.Stat(file)
	if err != nil {
		return err
	}
	fmt.Printf("%d rows, %.0f MB, %d cores used by each side, %s\n\n", rows, float64(st.Size())/1e6, threads, runtime.Version())
	self, err := os.Executable()
	if err != nil {
		return err
	}
	var us, engine []Measured
	for range rounds { // in turn, so that a busy moment hits both
		for _, side := range []struct {
			into *[]Measured
			cmd  *exec.Cmd
		}{
			{&engine, exec.Command("node", "reference/engine.mjs", file, filepath.Join(dir, "engine.csv"), fmt.Sprint(threads))},
			{&us, exec.Command(self, "--one", file)},
		} {
			m, err := measure(side.cmd)
			if err != nil {
				return err
			}
			*side.into = append(*side.into, m)
		}
	}
	if err := compare(us[0], engine[0], dir); err != nil {
		return err
	}
	report(us, engine, st.Size())
	if stored {
		return application(file)
	}
	return nil
}

func installEngine() error {
	if _, err := os.Stat("reference/node_modules"); !errors.Is(err, os.ErrNotExist) {
		return err
	}
	npm := exec.Command("npm", "ci", "--silent")
	npm.Dir = "reference"
	if out, err := npm.CombinedOutput(); err != nil {
		return fmt.Errorf("installing the engine: %w\n%s", err, out)
	}
	return nil
}

func measure(cmd *exec.Cmd) (m Measured, err error) {
	cmd.Stderr = os.Stderr
	out, err := cmd.Output()
	if err != nil {
		return m, fmt.Errorf("%s: %w", filepath.Base(cmd.Path), err)
	}
	return m, json.Unmarshal(out, &m)
}

// compare makes sure both sides gave the same answers, the written rows included (in
// whatever order the engine leaves them).
func compare(us, engine Measured, dir string) error {
	if !slices.Equal(us.Answers.Distinct, engine.Answers.Distinct) || us.Answers.Kept != engine.Answers.Kept {
		return fmt.Errorf("the answers differ: %+v and %+v", us.Answers, engine.Answers)
	}
	if err := sameRows(dir); err != nil {
		return err
	}
	fmt.Println("Both sides give the same distinct counts and write the same rows.")
	return nil
}

// sameRows compares what the two sides wrote, in whatever order.
func sameRows(dir string) error {
	var rows [2][]string
	for i, name := range []string{"ours.csv", "engine.csv"} {
		f, err := os.Open(filepath.Join(dir, name))
		if err != nil {
			return err
		}
		t, _, err := csv.Read(context.Background(), f, nil, intake.Options{})
		f.Close()
		if err != nil {
			return err
		}
		for row := range t.Rows() {
			var cells strings.Builder
			for _, c := range t.Columns() {
				v, _ := c.Value(uint32(row))
				cells.WriteString(v + "\x00")
			}
			rows[i] = append(rows[i], cells.String())
		}
		slices.Sort(rows[i])
	}
	if !slices.Equal(rows[0], rows[1]) {
		return errors.New("the two sides wrote different rows")
	}
	return nil
}

func report(us, engine []Measured, size int64) {
	fmt.Printf("\n%-10s %10s %10s %8s\n", "step", "engine, s", "ours, s", "ratio")
	var sums [2]float64
	for _, step := range steps {
		e, o := median(engine, step), median(us, step)
		sums[0] += e
		sums[1] += o
		fmt.Printf("%-10s %10.3f %10.3f %8.2f\n", step, e, o, o/e)
	}
	fmt.Printf("%-10s %10.3f %10.3f %8.2f\n", "whole job", sums[0], sums[1], sums[1]/sums[0])
	peak := func(m []Measured) (most int) {
		for _, x := range m {
			most = max(most, x.Peak)
		}
		return most
	}
	mib := float64(size) / (1 << 20)
	fmt.Printf("%-10s %6d MiB %6d MiB %8.2f\n", "peak", peak(engine), peak(us), float64(peak(us))/float64(peak(engine)))
	fmt.Printf("our peak is %.1f times the file\n", float64(peak(us))/mib)
}

func median(m []Measured, step string) float64 {
	var all []float64
	for _, x := range m {
		all = append(all, x.Seconds[step])
	}
	slices.Sort(all)
	return all[len(all)/2]
}

// ours does the job once and prints what it took.
func ours(file string) error {
	runtime.GOMAXPROCS(threads)
	debug.SetGCPercent(table.GCPercent)
	m := Measured{Seconds: map[string]float64{}}
	begun := time.Now()
	lap := func(step string) {
		m.Seconds[step] = time.Since(begun).Seconds()
		begun = time.Now()
	}
	ctx := context.Background()
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close()
	st, err := f.Stat()
	if err != nil {
		return err
	}
	t, _, err := csv.Read(ctx, f, nil, intake.Options{File: file, Size: st.Size()})
	if err != nil {
		return err
	}
	lap("read")
	m.Answers.Distinct = make([]int, len(t.Columns()))
	var work errgroup.Group
	work.SetLimit(threads)
	for i, c := range t.Columns() {
		work.Go(func() error {
			m.Answers.Distinct[i] = tally.New(t, c, tally.ByCount).Len()
			return nil
		})
	}
	if err := work.Wait(); err != nil {
		return err
	}
	lap("tally")
	r, err := entry.Apply(ctx, &entry.Duplicates{Key: []string{"skipper", "vessel"}, Choice: entry.Choice{Keep: duplicate.First}}, t, entry.Inputs{})
	if err != nil {
		return err
	}
	m.Answers.Kept = r.Table.Rows()
	lap("repeats")
	if err := writeTo(filepath.Join(filepath.Dir(file), "ours.csv"), r.Table); err != nil {
		return err
	}
	lap("write")
	m.Peak = peak()
	return json.NewEncoder(os.Stdout).Encode(m)
}

func writeTo(file string, t *table.Table) error {
	out, err := os.Create(file)
	if err != nil {
		return err
	}
	defer out.Close()
	if _, err := csv.Write(context.Background(), out, t, csv.WriteOptions{}); err != nil {
		return err
	}
	return out.Close()
}

// peak is the most memory this process held, in MiB.
func peak() int {
	f, err := os.Open("/proc/self/status")
	if err != nil {
		return 0
	}
	defer f.Close()
	text, _ := io.ReadAll(f)
	for line := range strings.SplitSeq(string(text), "\n") {
		var kib int
		if n, _ := fmt.Sscanf(line, "VmHWM: %d kB", &kib); n == 1 {
			return kib / 1024
		}
	}
	return 0
}
