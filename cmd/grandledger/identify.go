package main

import (
	"net/url"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"grandledger/asking"
	"grandledger/core/authority"
	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
)

func identifyCommand() *cobra.Command {
	var column, register, id, out, truth string
	var with, names []string
	var auto, alone, explain bool
	c := &cobra.Command{
		Use:   "identify FILE --column C --authority FILE|URL --out FILE",
		Short: "Tie the values of a column to the entries of a register: adds the columns identifier, standard, state and weight",
		Long: "Tie the values of a column to the entries of a register.\n\nThe columns identifier and standard hold the best candidate of each value; state says whether it is identified (with --auto, where it is sure), " +
			"undecided, or not listed. Without --with, columns that both sides have testify too; --alone asks by the names alone.",
		Args: files("FILE"),
	}
	f := c.Flags()
	f.StringVar(&column, "column", "", "the column of names")
	f.StringArrayVar(&with, "with", nil, "a column that testifies, and the property of the authority it should agree with: COL=PROPERTY, or LAT,LON=LAT,LON; may be given several times")
	f.StringVar(&register, "authority", "", "the register: a file, or the address of a service that speaks the reconciliation service API")
	f.StringVar(&id, "id", "", "the register's column of identifiers; found where it is left out")
	f.StringArrayVar(&names, "name", nil, "a column of names of the register, the standard one first; found where it is left out")
	f.BoolVar(&auto, "auto", false, "take sure candidates")
	f.BoolVar(&alone, "alone", false, "ask by the names alone")
	f.StringVar(&out, "out", "", "where the table goes")
	f.StringVar(&truth, "score", "", "a file with the columns left_id (the file's column id) and right_id (the register's): say how right the answers are")
	f.BoolVar(&explain, "explain", false, "say what is compared, and what it weighs")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		switch {
		case column == "" || register == "":
			return misuse("--column and --authority are needed")
		case out == "" && truth == "":
			return misuse("--out is needed")
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		q := authority.Question{Column: column}
		for _, w := range with {
			testimony, err := testimonyOf(w)
			if err != nil {
				return err
			}
			q.With = append(q.With, testimony)
		}
		r, only, err := authorityOf(cmd, t, q, register, id, names)
		if err != nil {
			return err
		}
		if len(with) == 0 && !alone && only == nil {
			q.With = authority.Propose(t, column, r)
			for _, w := range q.With {
				cmd.PrintErrf("%s testifies to %s\n", strings.Join(w.Columns, " and "), strings.Join(w.Properties, " and "))
			}
		}
		rule := authority.Usual
		if !auto {
			rule.Probability = 2 // nothing is taken
		}
		answers, err := authority.Ask(cmd.Context(), t, q, r, rule, only)
		if err != nil {
			return err
		}
		if explain {
			explained(cmd, answers.Result())
		}
		for _, state := range []authority.State{authority.Identified, authority.Undecided, authority.NotListed} {
			n, rows := answers.Count(state)
			cmd.PrintErrf("%s: %s of %s values, in %s rows\n", state, text.Grouped(n), text.Grouped(len(answers.Of)), text.Grouped(rows))
		}
		if out != "" {
			made, err := beside(t, answers.Columns(t.Rows(), nil))
			if err != nil {
				return err
			}
			if err := writeTable(cmd.Context(), out, made); err != nil {
				return err
			}
		}
		if truth == "" {
			return nil
		}
		pairs, err := read(cmd.Context(), truth)
		if err != nil {
			return err
		}
		return scoreAnswers(cmd, t, answers, pairs, truth)
	})
	return c
}

// authorityOf opens a file as a register, or asks a service for all values of the column; only says then what was offered for which.
func authorityOf(cmd *cobra.Command, t *table.Table, q authority.Question, where, id string, names []string) (r *authority.Register, only func(string, int) bool, err error) {
	if !strings.HasPrefix(where, "http://") && !strings.HasPrefix(where, "https://") {
		known, err := read(cmd.Context(), where)
		if err != nil {
			return nil, nil, err
		}
		r, err = authority.Open(known, id, names)
		return r, nil, err
	}
	u, err := url.Parse(where)
	if err != nil {
		return nil, nil, misuse("--authority %q is no address", where)
	}
	s, err := asking.Open(where, asking.Options{Allow: []string{u.Host}}) // who types an address means it
	if err != nil {
		return nil, nil, err
	}
	m, err := s.Manifest(cmd.Context())
	if err != nil {
		return nil, nil, err
	}
	a := &asking.Asked{}
	if a.Names, err = asking.Distinct(t, q.Column); err != nil {
		return nil, nil, err
	}
	cmd.PrintErrf("%s is asked for %s values of %s\n", m.Name, text.Grouped(len(a.Names)), q.Column)
	var properties []string
	for _, w := range q.With {
		properties = append(properties, w.Properties...)
	}
	if err := s.All(cmd.Context(), a, "", properties, func(int) {}); err != nil {
		return nil, nil, err
	}
	return a.Register(properties)
}

func testimonyOf(w string) (authority.Testimony, error) {
	columns, properties, ok := strings.Cut(w, "=")
	t := authority.Testimony{Columns: strings.Split(columns, ","), Properties: strings.Split(properties, ",")}
	if !ok || len(t.Columns) != len(t.Properties) || len(t.Columns) > 2 {
		return t, misuse("--with %q is not COL=PROPERTY", w)
	}
	return t, nil
}

// beside puts columns behind those of a table, under names that are free. The rows that stand are all there are: a file was read.
func beside(t *table.Table, columns []*table.Column) (*table.Table, error) {
	out := slices.Clone(t.Columns())
	for _, c := range columns {
		for slices.ContainsFunc(out, func(o *table.Column) bool { return o.Name == c.Name }) {
			c.Name += " of the authority"
		}
		out = append(out, c)
	}
	return t.WithColumns(out)
}

// scoreAnswers holds the answers against a truth.
func scoreAnswers(cmd *cobra.Command, t *table.Table, a *authority.Answers, known *table.Table, file string) error {
	left, _, err1 := known.Column("left_id")
	right, _, err2 := known.Column("right_id")
	if err1 != nil || err2 != nil {
		return &problem.Problem{What: "it needs the columns left_id and right_id", File: file, Remedy: "Name them so"}
	}
	id, _, err := t.Column("id")
	if err != nil {
		return &problem.Problem{What: "a file without a column id cannot be held against a truth", Column: "id"}
	}
	truth := map[[2]string]bool{}
	listed := map[string]bool{}
	for row := range known.Rows() {
		x, _ := left.Value(known.BaseRow(row))
		y, _ := right.Value(known.BaseRow(row))
		truth[[2]string{x, y}], listed[x] = true, true
	}
	var first, taken linkage.Score
	for row := range t.Rows() {
		n := a.Answer(row)
		if n == len(a.Of) {
			continue
		}
		x, _ := id.Value(t.BaseRow(row))
		state, c, ok := a.Stands(n, nil)
		right := ok && truth[[2]string{x, a.Register.Identifier(c.Entry)}]
		if listed[x] {
			first.There++
			if right {
				first.Right++
			}
		}
		if state == authority.Identified {
			taken.Found++
			if right {
				taken.Right++
			}
		}
	}
	cmd.PrintErrf("first candidate right: %.4f of %s that are listed\n", first.Recall(), text.Grouped(first.There))
	cmd.PrintErrf("taken without a look: %.4f of all rows, wrong %.4f of them\n", float64(taken.Found)/float64(max(t.Rows(), 1)), 1-taken.Precision())
	return nil
}
