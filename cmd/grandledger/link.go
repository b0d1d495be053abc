package main

import (
	"bufio"
	"encoding/csv"
	"fmt"
	"io"
	"maps"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
)

func linkCommand() *cobra.Command {
	var specFile, draft, out, clusters, golden, truth string
	var within, across, explain bool
	c := &cobra.Command{
		Use:   "link FILE [FILE...] --out pairs.csv",
		Short: "Find the records that are one thing, within a file or across several: left_file,left_row,right_file,right_row,weight,probability,verdict",
		Args:  cobra.MinimumNArgs(1),
	}
	f := c.Flags()
	f.StringVar(&specFile, "spec", "", "what is compared, and how; without it everything is decided by what the files hold")
	f.StringVar(&draft, "draft-spec", "", "where what was decided is written to, to be changed and given as --spec")
	f.BoolVar(&within, "within", false, "look within each file, and across them")
	f.BoolVar(&across, "across", false, "look across the files, each of which lists a thing once")
	f.StringVar(&out, "out", "", "where the pairs go")
	f.StringVar(&clusters, "clusters", "", "where the clusters go: cluster,file,row")
	f.StringVar(&golden, "golden", "", "where the golden records go: one of each cluster, and of each record that is in none")
	f.StringVar(&truth, "score", "", "a file with the columns left_id and right_id, by the files' id columns: say how right the links are")
	f.BoolVar(&explain, "explain", false, "say the blocking rules and the weights")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		if out == "" && clusters == "" && golden == "" && truth == "" && draft == "" {
			return misuse("--out is needed")
		}
		if within && across {
			return misuse("give --within or --across, not both")
		}
		var spec linkage.Spec
		if err := readSpec(specFile, &spec); err != nil {
			return err
		}
		spec.Within, spec.Across = spec.Within || within, spec.Across || across
		var tables []*table.Table
		for _, name := range args {
			t, err := read(cmd.Context(), name)
			if err != nil {
				return err
			}
			tables = append(tables, t)
		}
		r, err := linkage.Link(cmd.Context(), tables, spec)
		if err != nil {
			return err
		}
		if golden != "" {
			made, err := r.Golden(tables, linkage.Keeping{})
			if err != nil {
				return err
			}
			if err := writeTable(cmd.Context(), golden, made.Table); err != nil {
				return err
			}
			for _, name := range slices.Sorted(maps.Keys(made.Differ)) {
				if n := made.Differ[name]; n > 0 {
					cmd.PrintErrf("%s: the records of %s golden ones do not agree\n", name, text.Grouped(n))
				}
			}
		}
		return told(cmd, args, tables, r, out, clusters, draft, truth, explain)
	})
	return c
}

// told writes what a linkage found.
func told(cmd *cobra.Command, names []string, tables []*table.Table, r *linkage.Result, out, clusters, draft, truth string, explain bool) error {
	if explain {
		explained(cmd, r)
	}
	for _, n := range r.Notes {
		cmd.PrintErrln(n)
	}
	links := 0
	for _, p := range r.Pairs {
		if p.Verdict == linkage.Linked {
			links++
		}
	}
	cmd.PrintErrf("%s of %s possible pairs compared: %s links, %s to review, %s clusters\n", text.Grouped(r.Compared), text.Grouped(r.Possible),
		text.Grouped(links), text.Grouped(len(r.Pairs)-links), text.Grouped(len(r.Clusters)))
	if out != "" {
		if err := write(out, func(w io.Writer) error { return writePairs(w, names, r) }); err != nil {
			return err
		}
	}
	if clusters != "" {
		if err := write(clusters, func(w io.Writer) error { return writeClusters(w, names, r) }); err != nil {
			return err
		}
	}
	if err := writeSpec(draft, r.Spec); err != nil {
		return err
	}
	if truth == "" {
		return nil
	}
	known, err := read(cmd.Context(), truth)
	if err != nil {
		return err
	}
	return scoreLinks(cmd, tables, r, known, truth)
}

func writePairs(to io.Writer, names []string, r *linkage.Result) error {
	w := bufio.NewWriterSize(to, 1<<16)
	fmt.Fprintln(w, "left_file,left_row,right_file,right_row,weight,probability,verdict")
	quoted := make([]string, len(names))
	for i, n := range names {
		var b strings.Builder
		c := csv.NewWriter(&b)
		_ = c.Write([]string{filepath.Base(n)})
		c.Flush()
		quoted[i] = strings.TrimSuffix(b.String(), "\n")
	}
	for _, p := range r.Pairs {
		fmt.Fprintf(w, "%s,%d,%s,%d,%.3f,%.4f,%s\n", quoted[p.LeftTable], p.LeftRow+1, quoted[p.RightTable], p.RightRow+1, p.Weight, p.Probability, p.Verdict)
	}
	return w.Flush()
}

func writeClusters(to io.Writer, names []string, r *linkage.Result) error {
	w := csv.NewWriter(to)
	_ = w.Write([]string{"cluster", "file", "row"})
	for i, c := range r.Clusters {
		for _, row := range c {
			_ = w.Write([]string{strconv.Itoa(i + 1), filepath.Base(names[row.Table]), strconv.Itoa(row.Row + 1)})
		}
	}
	w.Flush()
	return w.Error()
}

// scoreLinks compares the links with a truth by the id columns of the files.
func scoreLinks(cmd *cobra.Command, tables []*table.Table, r *linkage.Result, known *table.Table, file string) error {
	left, _, err1 := known.Column("left_id")
	right, _, err2 := known.Column("right_id")
	if err1 != nil || err2 != nil {
		return &problem.Problem{What: "it needs the columns left_id and right_id", File: file, Remedy: "Name them so"}
	}
	ids := make([]*table.Column, len(tables))
	for i, t := range tables {
		id, _, err := t.Column("id")
		if err != nil {
			return &problem.Problem{What: "a file without a column id cannot be held against a truth", Column: "id"}
		}
		ids[i] = id
	}
	truth := map[[2]string]bool{}
	for row := range known.Rows() {
		a, _ := left.Value(known.BaseRow(row))
		b, _ := right.Value(known.BaseRow(row))
		truth[[2]string{a, b}] = true
	}
	s := linkage.Score{There: len(truth)}
	bins := make([]linkage.Score, 10) // by tenths of probability
	sums := make([]float64, 10)
	for _, p := range r.Pairs {
		a, _ := ids[p.LeftTable].Value(tables[p.LeftTable].BaseRow(p.LeftRow))
		b, _ := ids[p.RightTable].Value(tables[p.RightTable].BaseRow(p.RightRow))
		right := truth[[2]string{a, b}] || truth[[2]string{b, a}]
		bin := min(int(p.Probability*10), 9)
		bins[bin].Found++
		sums[bin] += p.Probability
		if right {
			bins[bin].Right++
		}
		if p.Verdict == linkage.Linked {
			s.Found++
			if right {
				s.Right++
			}
		}
	}
	cmd.PrintErrf("precision %.4f, recall %.4f, F1 %.4f over %s pairs\n", s.Precision(), s.Recall(), s.F1(), text.Grouped(s.There))
	for i, b := range bins {
		if b.Found > 0 {
			low, high := linkage.Wilson(b.Right, b.Found)
			cmd.PrintErrf("given %.2f: %.3f of %s are right (%.3f to %.3f)\n", sums[i]/float64(b.Found), b.Precision(), text.Grouped(b.Found), low, high)
		}
	}
	return nil
}

// explained says the rules and weights.
func explained(cmd *cobra.Command, r *linkage.Result) {
	for _, rule := range r.Rules {
		cmd.PrintErrf("block: %s: %s pairs, largest %s, %s narrowed\n", rule.Words, text.Grouped(rule.Pairs), text.Grouped(rule.Largest), text.Grouped(rule.Narrowed))
	}
	for i, w := range r.Weights {
		cmd.PrintErrf("%s (%s) %v", w.Attribute, r.Spec.Attributes[i].Kind, r.Spec.Attributes[i].Columns)
		for l := range w.M {
			cmd.PrintErrf("  %.3g/%.2g", w.M[l], w.U[l])
		}
		if w.Given != "" {
			cmd.PrintErrf("  given %s", w.Given)
			for _, u := range w.UGiven {
				cmd.PrintErrf(" %.2g", u)
			}
		}
		if w.With != "" {
			cmd.PrintErrf("  changes with %s", w.With)
			for l := range w.MLike {
				cmd.PrintErrf(" %.2g/%.2g", w.MLike[l], w.MUnlike[l])
			}
		}
		cmd.PrintErrln()
	}
	cmd.PrintErrf("prior %.1f bits\n", r.Prior)
}
