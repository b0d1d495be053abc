package entry

import (
	"fmt"
	"maps"
	"slices"

	"grandledger/core/condition"
	"grandledger/core/duplicate"
	"grandledger/core/formula"
)

// Mapped gives the entry for a table whose columns are called otherwise: names says what each is
// called there. Names that are not among them, such as those of columns that earlier entries
// make, stay as they are.
func Mapped(e Entry, names map[string]string) Entry {
	words := map[string]string{} // as formulas call them
	for name, other := range names {
		words[formula.Word(name)] = other
	}
	return mapped(e, func(name string) string {
		if other, ok := names[name]; ok {
			return other
		}
		if other, ok := words[name]; ok {
			return other
		}
		return name
	})
}

// Reads lists the columns an entry speaks of, each once, in the order of its parameters: those a
// table must have for it, or that an earlier entry makes. Those of formulas are as formulas call
// them.
func Reads(e Entry) []string {
	var out []string
	mapped(e, func(name string) string {
		if name != "" && !slices.Contains(out, name) {
			out = append(out, name)
		}
		return name
	})
	return out
}

func mapped(e Entry, to func(string) string) Entry {
	all := func(list []string) []string {
		out := slices.Clone(list)
		for i := range out {
			out[i] = to(out[i])
		}
		return out
	}
	switch e := e.(type) {
	case *narrowed:
		return &narrowed{mapped(e.Entry, to), *mappedCondition(&e.where, to)}
	case *Tidy:
		return &Tidy{all(e.Columns), e.Steps}
	case *Values:
		out := *e
		out.Column = to(e.Column)
		return &out
	case *Duplicates:
		out := *e
		out.Key, out.As, out.By = all(e.Key), compared(e.As, to), to(e.By)
		out.Ties, out.Chosen = slices.Clone(e.Ties), renamedRows(e.Chosen, to)
		for i := range out.Ties {
			out.Ties[i].By = to(out.Ties[i].By)
		}
		return &out
	case *Mark:
		out := *e
		out.Key, out.As = all(e.Key), compared(e.As, to)
		return &out
	case *Renumber:
		return &Renumber{to(e.Column), all(e.Same)}
	case *Rows:
		return &Rows{mappedCondition(e.Holding, to), e.Keep}
	case *Reading:
		return &Reading{to(e.Column), e.Reading}
	case *Columns:
		out := &Columns{slices.Clone(e.Columns)}
		for i := range out.Columns {
			out.Columns[i].From = to(out.Columns[i].From)
		}
		return out
	case *Split:
		out := *e
		out.Column = to(e.Column)
		return &out
	case *Combine:
		out := *e
		out.Columns = all(e.Columns)
		return &out
	case *Fill:
		out := *e
		out.Columns, out.From = all(e.Columns), to(e.From)
		return &out
	case *Formula:
		out := *e
		out.Formula = formula.Renamed(e.Formula, to)
		if e.Replace {
			out.Name = to(e.Name)
		}
		return &out
	case *Cell:
		out := *e
		out.Column = to(e.Column)
		return &out
	case *Merge:
		out := *e
		out.Key, out.As, out.Columns = all(e.Key), compared(e.As, to), slices.Clone(e.Columns)
		for i := range out.Columns {
			out.Columns[i].Column = to(out.Columns[i].Column)
		}
		return &out
	case *Gather:
		return &Gather{all(e.Key), all(e.Columns), e.Distinct}
	case *Review:
		return &Review{to(e.Column), e.Name}
	case *Add:
		return &Add{renamedRows(e.Rows, to)}
	case *Check:
		return &Check{mappedCondition(e.None, to), all(e.Key)}
	}
	return e
}

// renamedRows gives rows known by the names of columns other names.
func renamedRows(rows []map[string]string, to func(string) string) []map[string]string {
	var out []map[string]string
	for _, row := range rows {
		cells := map[string]string{}
		for _, name := range slices.Sorted(maps.Keys(row)) {
			cells[to(name)] = row[name]
		}
		out = append(out, cells)
	}
	return out
}

func compared(as map[string]duplicate.As, to func(string) string) map[string]duplicate.As {
	out := map[string]duplicate.As{}
	for _, name := range slices.Sorted(maps.Keys(as)) {
		out[to(name)] = as[name]
	}
	return out
}

func mappedCondition(c *condition.Condition, to func(string) string) *condition.Condition {
	if c == nil {
		return nil
	}
	out := *c
	out.Column, out.Other = to(c.Column), to(c.Other)
	out.Of = slices.Clone(c.Of)
	for i := range out.Of {
		out.Of[i] = *mappedCondition(&out.Of[i], to)
	}
	return &out
}

// Makes lists the columns an entry makes, or gives a name, as far as its parameters say.
func Makes(e Entry) []string {
	switch e := Inner(e).(type) {
	case *Columns:
		var out []string
		for _, c := range e.Columns {
			out = append(out, c.name())
		}
		return out
	case *Split:
		out := slices.Clone(e.Names)
		for i := range maxParts {
			out = append(out, fmt.Sprintf("%s %d", e.Column, i+1))
		}
		return out
	case *Combine:
		return []string{e.Name}
	case *Formula:
		return []string{e.Name}
	case *Values:
		if e.Into != "" {
			return []string{e.Into}
		}
	case *Number:
		return []string{e.Name}
	case *Mark:
		return []string{e.Name}
	case *Review:
		return []string{e.Name}
	case *Beside:
		var out []string
		for _, c := range e.Columns {
			out = append(out, c.Name)
		}
		return out
	}
	return nil
}
