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
	"grandledger/core/survivorship"
	"grandledger/core/table"
	"grandledger/core/text"
)

// dedupe is what the command is asked to do.
type dedupe struct {
	key, fold, keep, same             []string
	onlyRepeats, onlyUnique, apart    bool
	mark, renumber, combine, separate string
	out, aside                        string
}

func dedupeCommand() *cobra.Command {
	var d dedupe
	c := &cobra.Command{
		Use:   "dedupe FILE --key a,b --out FILE",
		Short: "Find rows that are equal on a key, and keep one of each group, mark them, combine them or give them new ids",
		Args:  files("FILE"),
	}
	f := c.Flags()
	f.StringSliceVar(&d.key, "key", nil, "the columns that make two rows the same; * for all")
	f.StringSliceVar(&d.fold, "fold", nil, "compare columns of the key otherwise than to the letter: COL (case, spacing, punctuation and accents aside), COL:words (words in any order), COL:read (as it is read)")
	f.BoolVar(&d.apart, "blanks-apart", false, "blank cells of the key never match")
	f.StringArrayVar(&d.keep, "keep", []string{"first"}, "which row of a group stays: first, last, fullest, newest:COL, oldest:COL, highest:COL, lowest:COL or prefer:COL=A|B; given again, each decides where those before it leave rows equal")
	f.BoolVar(&d.onlyRepeats, "only-repeats", false, "keep only the rows that would be set aside")
	f.BoolVar(&d.onlyUnique, "only-unique", false, "keep only the rows that repeat nothing")
	f.StringVar(&d.mark, "mark", "", "set nothing aside, and write into the new column COL whether a row repeats; COL:number, COL:place or COL:size write the group's number, the place in it or its size")
	f.StringVar(&d.combine, "combine", "", "make one row of each group: 'col=rule,…,*=rule', the rules being "+rules())
	f.StringVar(&d.separate, "separator", "; ", "what --combine puts between joined values")
	f.StringVar(&d.renumber, "renumber", "", "give rows that share an id in the column COL new ids, but for the first; no key is needed")
	f.StringSliceVar(&d.same, "same", nil, "columns in which rows of one thing agree, so that --renumber leaves them one id")
	f.StringVar(&d.out, "out", "", "where the result goes")
	f.StringVar(&d.aside, "aside", "", "where the rows set aside go")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		if err := d.check(); err != nil {
			return err
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		e, err := d.entry(t)
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
		if d.onlyRepeats {
			kept, repeats = repeats, kept
			balance.SetAside, balance.After = balance.After, balance.SetAside
		}
		if err := writeTable(cmd.Context(), d.out, kept); err != nil {
			return err
		}
		if d.aside != "" {
			if err := writeTable(cmd.Context(), d.aside, repeats); err != nil {
				return err
			}
		}
		if n := r.Effect.Unread; n > 0 && d.combine != "" {
			fmt.Fprintf(os.Stderr, "%s cells are no number and were left out of sums, means and medians\n", text.Grouped(n))
		} else if n > 0 {
			fmt.Fprintf(os.Stderr, "%s rows do not read in a column the kept row is told by; others of their group went before them\n", text.Grouped(n))
		}
		if b := r.Effect.Balance; b.Before > 2 && b.SetAside+b.Merged == b.Before-1 {
			fmt.Fprintln(os.Stderr, "every row has the same key")
		}
		account(balance)
		return nil
	})
	return c
}

// check says what is wrong with the flags.
func (d *dedupe) check() error {
	ways := 0
	for _, asked := range []bool{d.mark != "", d.combine != "", d.renumber != "", d.onlyRepeats, d.onlyUnique} {
		if asked {
			ways++
		}
	}
	switch {
	case len(d.key) == 0 && d.renumber == "":
		return misuse("--key is missing")
	case len(d.key) > 0 && d.renumber != "":
		return misuse("--renumber needs no --key; --same names the columns in which rows of one thing agree")
	case d.out == "":
		return misuse("--out is missing")
	case ways > 1:
		return misuse("--mark, --combine, --renumber, --only-repeats and --only-unique exclude one another")
	}
	return nil
}

// entry is the entry that does what is asked.
func (d *dedupe) entry(t *table.Table) (entry.Entry, error) {
	if len(d.key) == 1 && d.key[0] == "*" {
		d.key = nil
		for _, c := range t.Columns() {
			d.key = append(d.key, c.Name)
		}
	}
	as := map[string]duplicate.As{}
	for _, of := range d.fold {
		column, how, _ := strings.Cut(of, ":")
		as[column] = cmp.Or(duplicate.As(how), duplicate.Folded)
	}
	switch {
	case d.mark != "":
		name, shows, _ := strings.Cut(d.mark, ":")
		return &entry.Mark{Key: d.key, As: as, Apart: d.apart, Name: name, Shows: cmp.Or(entry.Shows(shows), entry.WhetherRepeats)}, nil
	case d.renumber != "":
		return &entry.Renumber{Column: d.renumber, Same: d.same}, nil
	case d.combine != "":
		e := &entry.Merge{Key: d.key, As: as, Apart: d.apart, Separator: &d.separate}
		for _, of := range strings.Split(d.combine, ",") {
			column, rule, ok := strings.Cut(of, "=")
			if !ok || !slices.Contains(survivorship.Rules, survivorship.Rule(rule)) {
				return nil, misuse("--combine is such as 'kg=sum,remark=join-distinct,*=first', the rules being %s; not %q", rules(), of)
			}
			if column == "*" {
				e.Others = survivorship.Rule(rule)
			} else {
				e.Columns = append(e.Columns, entry.MergeColumn{Column: column, Rule: survivorship.Rule(rule)})
			}
		}
		return e, nil
	}
	e := &entry.Duplicates{Key: d.key, As: as, Apart: d.apart}
	for i, of := range d.keep {
		choice, err := choiceOf(of)
		if err != nil {
			return nil, err
		}
		if i == 0 {
			e.Choice = choice
		} else {
			e.Ties = append(e.Ties, choice)
		}
	}
	if d.onlyUnique {
		e.Only = duplicate.Unique
	}
	return e, nil
}

// keeps are the rules, and whether they need a column.
var keeps = map[duplicate.Keep]bool{duplicate.First: false, duplicate.Last: false, duplicate.Fullest: false,
	duplicate.Newest: true, duplicate.Oldest: true, duplicate.Highest: true, duplicate.Lowest: true, duplicate.Prefer: true}

// choiceOf reads a rule by which a row is kept.
func choiceOf(of string) (entry.Choice, error) {
	rule, by, _ := strings.Cut(of, ":")
	c := entry.Choice{Keep: duplicate.Keep(rule), By: by}
	needs, known := keeps[c.Keep]
	if c.Keep == duplicate.Prefer {
		name, values, ok := strings.Cut(by, "=")
		if c.By, c.Order = name, strings.Split(values, "|"); !ok || values == "" {
			known = false
		}
	}
	if !known || needs != (c.By != "") {
		return c, misuse("--keep is first, last, fullest, newest:COL, oldest:COL, highest:COL, lowest:COL or prefer:COL=A|B, not %q", of)
	}
	return c, nil
}

// rules lists the rules to make one value of several.
func rules() string {
	var names []string
	for _, r := range survivorship.Rules {
		names = append(names, string(r))
	}
	return strings.Join(names, ", ")
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
