package main

import (
	"fmt"
	"os"
	"slices"

	"github.com/spf13/cobra"

	"grandledger/core/duplicate"
	"grandledger/core/join"
	"grandledger/core/text"
)

func joinCommand() *cobra.Command {
	var on []string
	var fold, keep, out string
	c := &cobra.Command{
		Use:   "join LEFT RIGHT --on a=b[,c=d] --rows both|left|right|all --out FILE",
		Short: "Put the columns of one file beside the matching rows of another",
		Args:  files("LEFT", "RIGHT"),
	}
	c.Flags().StringSliceVar(&on, "on", nil, "pairs of columns whose values must be equal")
	c.Flags().StringVar(&fold, "fold", "", "compare them folded, by their words, or as they are read: folded, words or read")
	c.Flags().StringVar(&keep, "rows", "", "rows found in both, all rows of left or right, or all of both")
	c.Flags().StringVar(&out, "out", "", "where the result goes")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		spec := join.Spec{Rows: join.Rows(keep)}
		pairs, err := splitPairs(on)
		switch {
		case err != nil:
			return err
		case !slices.Contains([]string{"", "folded", "words", "read"}, fold):
			return misuse("--fold is folded, words or read, not %q", fold)
		case len(pairs) == 0:
			return misuse("--on is missing")
		case out == "":
			return misuse("--out is missing")
		case keep != "both" && keep != "left" && keep != "right" && keep != "all":
			return misuse("--rows is both, left, right or all, not %q", keep)
		case args[0] == "-" && args[1] == "-":
			return misuse("only one of the files can be standard input")
		}
		for _, p := range pairs {
			spec.On = append(spec.On, join.On{Left: p[0], Right: p[1], As: duplicate.As(fold)})
		}
		var sides [2]join.Side
		for i, name := range args {
			t, err := read(cmd.Context(), name)
			if err != nil {
				return err
			}
			sides[i] = join.Side{Table: t, Name: name}
		}
		m, err := join.Find(sides[0], sides[1], spec)
		if err != nil {
			return err
		}
		r, err := m.Result(cmd.Context())
		if err != nil {
			return err
		}
		if err := writeTable(cmd.Context(), out, r.Table); err != nil {
			return err
		}
		for i, matched := range [][2]int{{m.Coverage.LeftMatched, m.Coverage.LeftRows}, {m.Coverage.RightMatched, m.Coverage.RightRows}} {
			fmt.Fprintf(os.Stderr, "%s: %s of %s rows find a partner\n", args[i], text.Grouped(matched[0]), text.Grouped(matched[1]))
		}
		account(r.Balance)
		return nil
	})
	return c
}
