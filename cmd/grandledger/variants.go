package main

import (
	"encoding/csv"
	"io"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"grandledger/core/crosswalk"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/core/text"
	"grandledger/vocabulary"
)

func variantsCommand() *cobra.Command {
	var column, out, kind, downTo, truth, standards, forms string
	c := &cobra.Command{
		Use:   "variants FILE --column C --out crosswalk.csv",
		Short: "Propose standard values for the variant spellings of a column: variant,standard,rows,group,evidence",
		Args:  files("FILE"),
	}
	f := c.Flags()
	f.StringVar(&column, "column", "", "the column")
	f.StringVar(&out, "out", "", "where the crosswalk goes")
	f.StringVar(&kind, "kind", string(spelling.Free), "what the values are, which decides the short forms that are known: free, person, organisation, place, address or product")
	f.StringVar(&downTo, "down-to", "likeness", "how weak evidence may be: "+strings.Join(spelling.Rungs[1:], ", "))
	f.StringVar(&standards, "standard", "", "a file whose first column lists the right values: every value is tied to one of them or to none")
	f.StringVar(&forms, "forms", "", "a file of short forms beside those that are known: its first column has words or values, its second what they stand for")
	f.StringVar(&truth, "score", "", "a file with the columns variant and standard: say for each rung how right the groups are")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		accept := spelling.Rung(slices.Index(spelling.Rungs, downTo))
		switch {
		case column == "" || out == "" && truth == "":
			return misuse("--column and --out are needed")
		case accept < spelling.Spelling:
			return misuse("--down-to is %s, not %q", strings.Join(spelling.Rungs[1:], ", "), downTo)
		case !slices.Contains(spelling.Kinds, spelling.Kind(kind)):
			return misuse("--kind is free, person, organisation, place, address or product, not %q", kind)
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		col, _, err := t.Column(column)
		if err != nil {
			return &problem.Problem{What: "there is no such column", File: args[0], Column: column}
		}
		o := spelling.Options{Kind: spelling.Kind(kind)}
		if standards != "" {
			right, err := read(cmd.Context(), standards)
			if err != nil {
				return err
			}
			list := right.Columns()[0]
			for code := uint32(1); code <= uint32(list.Dict.Len()); code++ {
				o.Standards = append(o.Standards, list.Dict.Value(code))
			}
		}
		if forms != "" {
			own, err := read(cmd.Context(), forms)
			if err != nil {
				return err
			}
			if len(own.Columns()) < 2 {
				return &problem.Problem{What: "short forms need two columns", File: forms, Remedy: "Give the short form and what it stands for"}
			}
			o.Forms = map[string]string{}
			for row := range own.Rows() {
				short, _ := own.Columns()[0].Value(own.BaseRow(row))
				o.Forms[short], _ = own.Columns()[1].Value(own.BaseRow(row))
			}
		}
		if why := o.Passed(t, col); why != "" {
			cmd.PrintErrf("%s: short forms, slips, sound and likeness are passed over: %s\n", column, why)
		}
		ladder := spelling.Ladder(t, col, spelling.Decisions{}, o)
		if out != "" {
			if err := write(out, func(w io.Writer) error { return writeGroups(w, ladder[accept]) }); err != nil {
				return err
			}
		}
		if truth == "" {
			return nil
		}
		known, err := read(cmd.Context(), truth)
		if err != nil {
			return err
		}
		return score(cmd, ladder, t, col, known, truth)
	})
	return c
}

// score says on standard error how right the groups of each rung are.
func score(cmd *cobra.Command, ladder [][]spelling.Group, t *table.Table, col *table.Column, known *table.Table, file string) error {
	pairs, err := changesOf(known, file)
	if err != nil {
		return err
	}
	truth := map[string]string{}
	for _, p := range pairs {
		truth[p.From] = p.To
	}
	for _, p := range pairs { // a standard value stands for itself, unless the file says otherwise
		if _, ok := truth[p.To]; !ok {
			truth[p.To] = p.To
		}
	}
	var values []string
	for code, rows := range t.Counts(col) {
		if code > 0 && rows > 0 {
			values = append(values, col.Dict.Value(uint32(code)))
		}
	}
	cmd.PrintErrf("%-10s %9s %9s %9s %9s %7s\n", "down to", "values", "in groups", "precision", "recall", "F1")
	for rung, groups := range ladder[1:] {
		s := spelling.ScoreOf(groups, values, truth)
		cmd.PrintErrf("%-10s %9d %9d %9.4f %9.4f %7.4f\n", spelling.Rungs[rung+1], s.Known, s.Grouped, s.Precision(), s.Recall(), s.F1())
	}
	return nil
}

// writeGroups writes one line a variant; the standard value itself has none.
func writeGroups(to io.Writer, groups []spelling.Group) error {
	w := csv.NewWriter(to)
	if err := w.Write([]string{"variant", "standard", "rows", "group", "evidence"}); err != nil {
		return err
	}
	for i, g := range groups {
		for _, m := range g.Members {
			if m.Value == g.Standard {
				continue
			}
			if err := w.Write([]string{m.Value, g.Standard, strconv.Itoa(m.Rows), strconv.Itoa(i + 1), m.Why}); err != nil {
				return err
			}
		}
	}
	w.Flush()
	return w.Error()
}

func applyCommand() *cobra.Command {
	var column, walk, out string
	c := &cobra.Command{
		Use:   "apply FILE --column C --crosswalk crosswalk.csv --out FILE",
		Short: "Rewrite the variant spellings of a column to the standard values of a crosswalk",
		Args:  files("FILE"),
	}
	c.Flags().StringVar(&column, "column", "", "the column")
	c.Flags().StringVar(&walk, "crosswalk", "", "a crosswalk: a table with the columns variant and standard, SKOS in Turtle, or SSSOM")
	c.Flags().StringVar(&out, "out", "", "where the result goes")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		if column == "" || walk == "" || out == "" {
			return misuse("--column, --crosswalk and --out are needed")
		}
		known, err := readCrosswalk(cmd, walk)
		if err != nil {
			return err
		}
		var changes []entry.Change
		for _, l := range known.Lines {
			changes = append(changes, entry.Change{From: l.Variant, To: l.Standard})
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		r := &entry.Result{Table: t, Effect: entry.Effect{Balance: entry.Balance{Before: t.Rows(), After: t.Rows()}}}
		if len(changes) > 0 {
			if r, err = entry.Apply(cmd.Context(), &entry.Values{Column: column, Changes: changes}, t, entry.Inputs{}); err != nil {
				return err
			}
		}
		if err := writeTable(cmd.Context(), out, r.Table); err != nil {
			return err
		}
		for _, e := range r.Effect.Columns {
			cmd.PrintErrf("%s: %s cells rewritten, %s distinct values become %s\n", e.Column, text.Grouped(e.Cells), text.Grouped(e.DistinctBefore), text.Grouped(e.DistinctAfter))
		}
		account(r.Effect.Balance)
		return nil
	})
	return c
}

// changesOf reads the lines of a table with the columns variant and standard.
func changesOf(walk *table.Table, file string) ([]entry.Change, error) {
	from, _, err1 := walk.Column("variant")
	to, _, err2 := walk.Column("standard")
	if err1 != nil || err2 != nil {
		return nil, &problem.Problem{What: "it needs the columns variant and standard", File: file, Remedy: "Name them so"}
	}
	var out []entry.Change
	for row := range walk.Rows() {
		v, _ := from.Value(walk.BaseRow(row))
		s, _ := to.Value(walk.BaseRow(row))
		out = append(out, entry.Change{From: v, To: s})
	}
	return out, nil
}

// readCrosswalk reads a crosswalk of any format.
func readCrosswalk(cmd *cobra.Command, file string) (crosswalk.Crosswalk, error) {
	src, done, err := source(file)
	if err != nil {
		return crosswalk.Crosswalk{}, err
	}
	defer done.Close()
	content, err := io.ReadAll(io.NewSectionReader(src.At, 0, src.Size))
	if err != nil {
		return crosswalk.Crosswalk{}, err
	}
	c, err := vocabulary.Read(cmd.Context(), file, content)
	if err != nil {
		return c, err
	}
	return c, problem.In(file, c.Check())
}

func crosswalkCommand() *cobra.Command {
	c := &cobra.Command{
		Use:   "crosswalk IN OUT",
		Short: "Convert a crosswalk by the ending of its names: " + strings.Join(vocabulary.Endings, " "),
		Args:  files("IN", "OUT"),
	}
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		walk, err := readCrosswalk(cmd, args[0])
		if err != nil {
			return err
		}
		if walk.Name == "" {
			walk.Name, _, _ = strings.Cut(filepath.Base(args[0]), ".")
		}
		if err := write(args[1], func(w io.Writer) error { return vocabulary.Write(cmd.Context(), w, args[1], walk) }); err != nil {
			return err
		}
		cmd.PrintErrf("%s spellings of %s standard values\n", text.Grouped(len(walk.Lines)), text.Grouped(len(walk.Standards)))
		return nil
	})
	return c
}
