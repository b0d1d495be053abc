package main

import (
	"slices"

	"github.com/spf13/cobra"

	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/table"
)

func dedupeCommand() *cobra.Command {
	var key []string
	var keep, out, aside string
	var onlyRepeats bool
	c := &cobra.Command{
		Use:   "dedupe FILE --key a,b --out FILE",
		Short: "Keep one row of each group of rows that are equal on a key",
		Args:  files("FILE"),
	}
	f := c.Flags()
	f.StringSliceVar(&key, "key", nil, "the columns that make two rows the same")
	f.StringVar(&keep, "keep", "first", "which row of a group stays: first or last")
	f.BoolVar(&onlyRepeats, "only-repeats", false, "write the rows that would be set aside, and keep the rest out")
	f.StringVar(&out, "out", "", "where the result goes")
	f.StringVar(&aside, "aside", "", "where the rows set aside go")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		switch {
		case len(key) == 0:
			return misuse("--key is missing")
		case out == "":
			return misuse("--out is missing")
		case keep != string(duplicate.First) && keep != string(duplicate.Last):
			return misuse("--keep is first or last, not %q", keep)
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		r, err := entry.Apply(cmd.Context(), &entry.Duplicates{Key: key, Keep: duplicate.Keep(keep)}, t, entry.Inputs{})
		if err != nil {
			return err
		}
		repeats := t.Select(&table.Selection{})
		if r.Aside != nil {
			repeats = t.Select(r.Aside)
		}
		kept, balance := r.Table, r.Effect.Balance
		if onlyRepeats {
			kept, repeats = repeats, kept
			balance.SetAside, balance.After = balance.After, balance.SetAside
		}
		if err := writeTable(cmd.Context(), out, kept); err != nil {
			return err
		}
		if aside != "" {
			if err := writeTable(cmd.Context(), aside, repeats); err != nil {
				return err
			}
		}
		account(balance)
		return nil
	})
	return c
}

// splitPairs reads a=b,c=d.
func splitPairs(pairs []string) ([][2]string, error) {
	var out [][2]string
	for _, p := range pairs {
		at := slices.Index([]byte(p), '=')
		if at <= 0 || at == len(p)-1 {
			return nil, misuse("%q is not a pair of columns such as vessel=name", p)
		}
		out = append(out, [2]string{p[:at], p[at+1:]})
	}
	return out, nil
}
