package main

import (
	"bufio"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"grandledger/core/problem"
	"grandledger/core/reconcile"
	"grandledger/core/table"
	"grandledger/core/text"
)

func settleCommand() *cobra.Command {
	var specFile, draft, window, out, statement, truth string
	c := &cobra.Command{
		Use:   "settle OURS THEIRS --out items.csv",
		Short: "Prove two ledgers against each other: side,row,state,set,pass,reason,difference for every item of both",
		Long: "Prove two ledgers against each other.\n\nWhat cancels is settled, in passes from the surest evidence to the weakest, each with its reason; what is equally good in several ways is offered; the rest is open. " +
			"The columns are found by what they are called and hold; --draft-spec writes down which, to be changed and given as --spec next month.",
		Args: files("OURS", "THEIRS"),
	}
	f := c.Flags()
	f.StringVar(&specFile, "spec", "", "which columns hold what, and how far items may lie apart")
	f.StringVar(&draft, "draft-spec", "", "where what was found is written to")
	f.StringVar(&window, "window", "", "how far items may lie apart, such as 5d")
	f.StringVar(&out, "out", "", "where the items go")
	f.StringVar(&statement, "statement", "", "where the statement goes, as JSON")
	f.StringVar(&truth, "score", "", "a file with the columns ours_row and theirs_row, counted from 1 below the header: say how right what is settled is")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		if out == "" && statement == "" && truth == "" && draft == "" {
			return misuse("--out is needed")
		}
		var spec reconcile.Spec
		if err := readSpec(specFile, &spec); err != nil {
			return err
		}
		if window != "" {
			days, err := strconv.Atoi(strings.TrimSuffix(window, "d"))
			if err != nil || days < 0 || days > 3650 {
				return misuse("--window %q is no number of days such as 5d", window)
			}
			spec.Window = &days
		}
		var sides [2]*table.Table
		for i, name := range args {
			var err error
			if sides[i], err = read(cmd.Context(), name); err != nil {
				return err
			}
		}
		r, err := reconcile.Settle(cmd.Context(), sides[0], sides[1], spec)
		if err != nil {
			return err
		}
		s, err := r.Statement()
		if err != nil {
			return err
		}
		for i, name := range args {
			for _, u := range r.Unread(i)[:min(len(r.Unread(i)), 5)] {
				cmd.PrintErrf("%s, row %d, column %s: %q does not read as an amount, the line is left out\n", name, u.Row+1, u.Column, u.Value)
			}
		}
		stated(cmd, s)
		if out != "" {
			if err := write(out, func(w io.Writer) error { return writeItems(w, r) }); err != nil {
				return err
			}
		}
		if statement != "" {
			if err := write(statement, func(w io.Writer) error {
				e := json.NewEncoder(w)
				e.SetIndent("", "  ")
				return e.Encode(s)
			}); err != nil {
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
		return scoreSettled(cmd, r, known, truth)
	})
	return c
}

// stated says the statement.
func stated(cmd *cobra.Command, s *reconcile.Statement) {
	cmd.PrintErrf("ours %s in %s items, theirs %s in %s items, difference %s\n", s.Ours, text.Grouped(s.Items[0]), s.Theirs, text.Grouped(s.Items[1]), s.Difference)
	for _, c := range s.Classes {
		cmd.PrintErrf("%8s  %15s  %s\n", text.Grouped(c.Count), c.Difference, c.Name)
	}
	cmd.PrintErrf("%8s  %15s  unexplained\n", "", s.Unexplained)
	if s.Untried > 0 {
		cmd.PrintErrf("%s items lie among too many others for all sums of several to be tried\n", text.Grouped(s.Untried))
	}
}

func writeItems(to io.Writer, r *reconcile.Result) error {
	w := csv.NewWriter(bufio.NewWriterSize(to, 1<<16))
	_ = w.Write([]string{"side", "row", "state", "set", "pass", "reason", "difference"})
	if err := r.Lines(func(l reconcile.Line) error {
		set, pass := "", ""
		if l.Set > 0 {
			set, pass = strconv.Itoa(l.Set), strconv.Itoa(l.Pass)
		}
		return w.Write([]string{[2]string{"ours", "theirs"}[l.Side], strconv.Itoa(l.Row + 1), string(l.State), set, pass, l.Reason, l.Difference})
	}); err != nil {
		return err
	}
	w.Flush()
	return w.Error()
}

// scoreSettled holds what is settled against a truth: pairs of rows that belong together.
func scoreSettled(cmd *cobra.Command, r *reconcile.Result, known *table.Table, file string) error {
	ours, _, err1 := known.Column("ours_row")
	theirs, _, err2 := known.Column("theirs_row")
	if err1 != nil || err2 != nil {
		return &problem.Problem{What: "it needs the columns ours_row and theirs_row", File: file, Remedy: "Name them so"}
	}
	truth := map[[2]int]bool{}
	for row := range known.Rows() {
		x, _ := ours.Value(known.BaseRow(row))
		y, _ := theirs.Value(known.BaseRow(row))
		a, err1 := strconv.Atoi(x)
		b, err2 := strconv.Atoi(y)
		if err1 != nil || err2 != nil {
			return &problem.Problem{What: fmt.Sprintf("%q and %q are no rows", x, y), File: file, Row: row + 1}
		}
		truth[[2]int{a, b}] = true
	}
	sets := map[int][2][]int{}
	_ = r.Lines(func(l reconcile.Line) error {
		if l.State == reconcile.Settled {
			s := sets[l.Set]
			s[l.Side] = append(s[l.Side], l.Row+1)
			sets[l.Set] = s
		}
		return nil
	})
	found, right := 0, 0
	for _, s := range sets {
		for _, a := range s[0] {
			for _, b := range s[1] {
				found++
				if truth[[2]int{a, b}] {
					right++
				}
			}
		}
	}
	cmd.PrintErrf("settled: %s pairs, right %.5f; of %s pairs there are %.5f settled\n", text.Grouped(found), float64(right)/float64(max(found, 1)), text.Grouped(len(truth)), float64(right)/float64(max(len(truth), 1)))
	return nil
}
