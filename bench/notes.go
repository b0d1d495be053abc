package main

import (
	"bufio"
	"context"
	stdcsv "encoding/csv"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"grandledger/core/condition"
	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/survivorship"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/core/tidy"
	"grandledger/formats"
	"grandledger/formats/csv"
	"grandledger/formats/intake"
)

// The job on landing notes of 11 fields, two of them lists: bring in, remove repeats of
// skipper and vessel, keep the rows of one harbour or with a word in any column, write
// five columns; and on the same notes, without the lists, as flat CSV:
// read, count every column.
const (
	noteHarbour = "Harbour 01"
	noteWord    = "wickfair"
)

var noteColumns = []string{"skipper", "vessel", "note_no", "harbour", "lot"}

// generateNotes writes the notes as JSON Lines and, without the lists, as flat CSV from a fixed
// seed. The note's number is unique and the lot nearly; vessels (90,000) and skippers (12,000)
// are drawn evenly, buyers (200,000), grounds and harbours with some far more often than
// others, as they are in life; most lists are short.
func generateNotes(lines, flat string, rows int) error {
	var out [2]*bufio.Writer
	for i, file := range []string{lines, flat} {
		f, err := os.Create(file)
		if err != nil {
			return err
		}
		defer f.Close()
		out[i] = bufio.NewWriterSize(f, 1<<20)
	}
	r := rand.New(rand.NewPCG(2031, 6))
	skippers, vessels, buyers := names(r, 12_000), names(r, 90_000), names(r, 200_000)
	grounds, species, gears := names(r, 8_000), names(r, 200), names(r, 150)
	skewed := func(n int, power float64) int { return int(math.Pow(r.Float64(), power) * float64(n)) }
	list := func(of []string) string {
		items := make([]string, skewed(5, 2.2))
		for i := range items {
			items[i] = `"` + of[r.IntN(len(of))] + `"`
		}
		return strings.Join(items, ",")
	}
	fmt.Fprintln(out[1], "note_no,skipper,vessel,buyer,ground,harbour,landed_on,lot,season")
	var last [2]string
	for i := range rows {
		skipper, vessel := skippers[r.IntN(len(skippers))], vessels[r.IntN(len(vessels))]
		if i > 0 && r.IntN(7) == 0 { // a note that repeats the skipper and vessel of the one before
			skipper, vessel = last[0], last[1]
		}
		last = [2]string{skipper, vessel}
		no, lot := fmt.Sprintf("LK-%08d", i), fmt.Sprintf("%c%c-%06d", 'A'+r.IntN(26), 'A'+r.IntN(26), r.IntN(400_000))
		buyer, ground := buyers[skewed(len(buyers), 2)], grounds[skewed(len(grounds), 2)]
		harbour, day, season := fmt.Sprintf("Harbour %02d", 1+skewed(50, 2)), fmt.Sprintf("2031-%02d-%02d", 1+r.IntN(12), 1+r.IntN(28)), 1960+r.IntN(66)
		fmt.Fprintf(out[0], `{"note_no":"%s","skipper":"%s","vessel":"%s","buyer":"%s","gears":[%s],"ground":"%s","harbour":"%s","landed_on":"%s","lot":"%s","season":%d,"species":[%s]}`+"\n",
			no, skipper, vessel, buyer, list(gears), ground, harbour, day, lot, season, list(species))
		fmt.Fprintf(out[1], "%s,%s,%s,%s,%s,%s,%s,%s,%d\n", no, skipper, vessel, buyer, ground, harbour, day, lot, season)
	}
	if err := out[0].Flush(); err != nil {
		return err
	}
	return out[1].Flush()
}

// noteSteps in the order they are done.
var noteSteps = []string{"json read", "json filter", "csv read", "csv counts", "csv tidy", "csv repeats", "csv combine", "csv sort"}

// runNotes measures both sides on the notes.
func runNotes(rows, rounds int) error {
	dir := filepath.Join("bench", "work")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	if err := installEngine(); err != nil {
		return err
	}
	lines, flat := filepath.Join(dir, fmt.Sprintf("notes-%d.jsonl", rows)), filepath.Join(dir, fmt.Sprintf("notes-%d.csv", rows))
	if _, err := os.Stat(flat); err != nil {
		if err := generateNotes(lines, flat, rows); err != nil {
			return err
		}
	}
	self, err := os.Executable()
	if err != nil {
		return err
	}
	us, engine := map[string][]Measured{}, map[string][]Measured{}
	for range rounds {
		for _, part := range []string{"json", "csv"} {
			file := map[string]string{"json": lines, "csv": flat}[part]
			m, err := measure(exec.Command("node", "reference/notes.mjs", part, file, filepath.Join(dir, "engine.csv"), fmt.Sprint(threads), noteHarbour, noteWord))
			if err != nil {
				return err
			}
			engine[part] = append(engine[part], m)
			if m, err = measure(exec.Command(self, "--one-notes", part, "--one", file)); err != nil {
				return err
			}
			us[part] = append(us[part], m)
			if us[part][0].Answers.Kept != engine[part][0].Answers.Kept || us[part][0].Answers.Joined != engine[part][0].Answers.Joined || fmt.Sprint(us[part][0].Answers.Distinct) != fmt.Sprint(engine[part][0].Answers.Distinct) {
				return fmt.Errorf("%s: the answers differ: %+v and %+v", part, us[part][0].Answers, engine[part][0].Answers)
			}
			if err := sameRows(dir); err != nil {
				return err
			}
		}
	}
	for part, file := range map[string]string{"json": lines, "csv": flat} {
		st, err := os.Stat(file)
		if err != nil {
			return err
		}
		fmt.Printf("\n%s, %d rows, %.0f MB\n%-12s %10s %10s %8s\n", part, rows, float64(st.Size())/1e6, "step", "engine, s", "ours, s", "ratio")
		sums := [2]float64{}
		for _, step := range noteSteps {
			if strings.HasPrefix(step, part) {
				e, o := median(engine[part], step), median(us[part], step)
				sums[0], sums[1] = sums[0]+e, sums[1]+o
				fmt.Printf("%-12s %10.3f %10.3f %8.2f\n", step, e, o, o/e)
			}
		}
		fmt.Printf("%-12s %10.3f %10.3f %8.2f\n", "whole", sums[0], sums[1], sums[1]/sums[0])
		fmt.Printf("%-12s %6d MiB %6d MiB %8.2f\n", "peak", most(engine[part]), most(us[part]), float64(most(us[part]))/float64(most(engine[part])))
	}
	return nil
}

func most(all []Measured) (peak int) {
	for _, m := range all {
		peak = max(peak, m.Peak)
	}
	return peak
}

// oursNotes does our side of a part once and prints what it took.
func oursNotes(part, file string) error {
	runtime.GOMAXPROCS(threads)
	debug.SetGCPercent(table.GCPercent)
	m := Measured{Seconds: map[string]float64{}}
	begun := time.Now()
	lap := func(step string) {
		m.Seconds[step] = time.Since(begun).Seconds()
		begun = time.Now()
	}
	ctx := context.Background()
	src, f, err := formats.File(file)
	if err != nil {
		return err
	}
	defer f.Close()
	how, err := formats.Sniff(src)
	if err != nil {
		return err
	}
	t, _, err := formats.Read(ctx, []formats.Source{src}, how, intake.Options{})
	if err != nil {
		return err
	}
	lap(part + " read")
	if part == "csv" {
		m.Answers.Distinct = make([]int, len(t.Columns()))
		var work errgroup.Group
		work.SetLimit(threads)
		for i, c := range t.Columns() {
			work.Go(func() error {
				y := tally.New(t, c, tally.ByCount)
				y.Lines(0, 100) // as the page opens
				m.Answers.Distinct[i] = y.Len()
				return nil
			})
		}
		if err := work.Wait(); err != nil {
			return err
		}
		lap("csv counts")
		tidied := &entry.Tidy{Columns: []string{"note_no"}, Steps: []tidy.Step{{Op: tidy.Trim}, {Op: tidy.Lower}}}
		if r, err := entry.Apply(ctx, tidied, t, entry.Inputs{}); err != nil || r.Effect.Changed != t.Rows() {
			return fmt.Errorf("tidied %v (%w)", r, err)
		}
		lap("csv tidy")
		kept, err := entry.Apply(ctx, &entry.Duplicates{Key: []string{"skipper", "vessel"}, Choice: entry.Choice{Keep: duplicate.First}}, t, entry.Inputs{})
		if err != nil {
			return err
		}
		m.Answers.Kept = kept.Table.Rows()
		lap("csv repeats")
		combined, err := entry.Apply(ctx, &entry.Merge{Key: []string{"buyer"}, Columns: []entry.MergeColumn{{Column: "ground", Rule: survivorship.JoinDistinct}}}, t, entry.Inputs{})
		if err != nil {
			return err
		}
		lap("csv combine")
		if m.Answers.Joined, err = writeJoined(combined.Table, filepath.Join(filepath.Dir(file), "ours.csv")); err != nil {
			return err
		}
		begun = time.Now()
		buyer, _, _ := t.Column("buyer")
		landed, _, _ := t.Column("landed_on")
		begun = time.Now()
		if order := table.Sorted(t, []table.SortKey{{Column: buyer}, {Column: landed}}); len(order) != t.Rows() {
			return fmt.Errorf("%d rows in order", len(order))
		}
		lap("csv sort")
	} else {
		if err := filterNotes(ctx, t, filepath.Join(filepath.Dir(file), "ours.csv"), &m); err != nil {
			return err
		}
		lap("json filter")
	}
	m.Peak = peak()
	return json.NewEncoder(os.Stdout).Encode(m)
}

// writeJoined writes each buyer with the joined grounds, in order, and gives the bytes of these.
func writeJoined(t *table.Table, file string) (bytes int, err error) {
	f, err := os.Create(file)
	if err != nil {
		return 0, err
	}
	defer f.Close()
	w := stdcsv.NewWriter(f)
	buyer, _, _ := t.Column("buyer")
	ground, _, _ := t.Column("ground")
	lines := [][]string{{"buyer", "ground"}}
	for row := range t.Rows() {
		v, _ := ground.Value(t.BaseRow(row))
		bytes += len(v)
		grounds := strings.Split(v, "; ")
		slices.Sort(grounds)
		of, _ := buyer.Value(t.BaseRow(row))
		lines = append(lines, []string{of, strings.Join(grounds, "; ")})
	}
	return bytes, w.WriteAll(lines)
}

// filterNotes removes repeats, keeps rows by a condition and writes five columns.
func filterNotes(ctx context.Context, t *table.Table, file string, m *Measured) error {
	r, err := entry.Apply(ctx, &entry.Duplicates{Key: []string{"skipper", "vessel"}, Choice: entry.Choice{Keep: duplicate.First}}, t, entry.Inputs{})
	if err != nil {
		return err
	}
	kept, _, err := condition.Narrow(ctx, r.Table, &condition.Condition{Op: condition.Any, Of: []condition.Condition{
		{Op: condition.Is, Column: "harbour", Values: []string{noteHarbour}}, {Op: condition.Contains, Text: noteWord, Case: true}}})
	if err != nil {
		return err
	}
	m.Answers.Kept = kept.Rows()
	var columns []*table.Column
	for _, name := range noteColumns {
		c, _, err := kept.Column(name)
		if err != nil {
			return err
		}
		columns = append(columns, c)
	}
	five, err := table.New(columns, kept.Base())
	if err != nil {
		return err
	}
	out, err := os.Create(file)
	if err != nil {
		return err
	}
	defer out.Close()
	if _, err := csv.Write(ctx, out, five.Select(kept.Selection()), csv.WriteOptions{}); err != nil {
		return err
	}
	return out.Close()
}
