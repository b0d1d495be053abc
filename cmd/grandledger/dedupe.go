package main

import (
	"cmp"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/table"
	"grandledger/core/text"
)

func dedupeCommand() *cobra.Command {
	var key, fold []string
	var keep, out, aside string
	var onlyRepeats, onlyUnique, apart bool
	c := &cobra.Command{
		Use:   "dedupe FILE --key a,b --out FILE",
		Short: "Keep one row of each group of rows that are equal on a key",
		Args:  files("FILE"),
	}
	f := c.Flags()
	f.StringSliceVar(&key, "key", nil, "the columns that make two rows the same")
	f.StringSliceVar(&fold, "fold", nil, "compare columns of the key otherwise than to the letter: COL (case, spacing, punctuation and accents aside), COL:words (words in any order), COL:read (as it is read)")
	f.BoolVar(&apart, "blanks-apart", false, "blank cells of the key never match")
	f.StringVar(&keep, "keep", "first", "which row of a group stays: first, last, fullest, newest:COL, oldest:COL, highest:COL or lowest:COL")
	f.BoolVar(&onlyRepeats, "only-repeats", false, "keep only the rows that would be set aside")
	f.BoolVar(&onlyUnique, "only-unique", false, "keep only the rows that repeat nothing")
	f.StringVar(&out, "out", "", "where the result goes")
	f.StringVar(&aside, "aside", "", "where the rows set aside go")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		switch {
		case len(key) == 0:
			return misuse("--key is missing")
		case out == "":
			return misuse("--out is missing")
		case onlyRepeats && onlyUnique:
			return misuse("--only-repeats and --only-unique exclude one another")
		}
		rule, by, _ := strings.Cut(keep, ":")
		if needs, known := keeps[duplicate.Keep(rule)]; !known || needs != (by != "") {
			return misuse("--keep is first, last, fullest, newest:COL, oldest:COL, highest:COL or lowest:COL, not %q", keep)
		}
		e := &entry.Duplicates{Key: key, As: map[string]duplicate.As{}, Apart: apart, Choice: entry.Choice{Keep: duplicate.Keep(rule), By: by}}
		for _, of := range fold {
			column, how, _ := strings.Cut(of, ":")
			e.As[column] = cmp.Or(duplicate.As(how), duplicate.Folded)
		}
		if onlyUnique {
			e.Only = duplicate.Unique
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		r, err := entry.Apply(cmd.Context(), e, t, entry.Inputs{})
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
		if r.Effect.Unread > 0 {
			fmt.Fprintf(os.Stderr, "%s rows have no %s that reads; others of their group went before them\n", text.Grouped(r.Effect.Unread), by)
		}
		account(balance)
		return nil
	})
	return c
}

// keeps are the rules, and whether they need a column.
var keeps = map[duplicate.Keep]bool{duplicate.First: false, duplicate.Last: false, duplicate.Fullest: false,
	duplicate.Newest: true, duplicate.Oldest: true, duplicate.Highest: true, duplicate.Lowest: true}

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
