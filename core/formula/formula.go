// Package formula works out a column from others by an expression in the syntax of the expr
// language (github.com/expr-lang/expr): a name stands for the cell of a column, read as the
// column is read.
//
// A formula has no side effects and always ends: there are no loops but over lists, the memory
// of one evaluation is bounded, and it knows neither clock nor chance.
package formula

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/expr-lang/expr"
	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/file"
	"github.com/expr-lang/expr/parser"
	"github.com/expr-lang/expr/vm"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Limits of a formula.
const (
	maxLength = 4_000  // bytes of its text
	maxNodes  = 1_000  // parts of it
	budget    = 20_000 // items one evaluation may make
	maxResult = 1 << 20
)

// Formula is a compiled formula over the columns of a table.
type Formula struct {
	program *vm.Program
	columns []*table.Column // those it names, in the table's order
	names   []string        // under which it names them
	lookups lookups
}

// Compile reads a formula; tables gives those it looks things up in, and may be nil. What is
// wrong with it says where.
func Compile(text string, t *table.Table, tables Tables) (*Formula, error) {
	if strings.TrimSpace(text) == "" || len(text) > maxLength {
		return nil, problem.New("Type one, such as weight_kg / 1000", "the formula is empty, or longer than %d bytes", maxLength)
	}
	names := Names(t)
	env := map[string]any{}
	for i, c := range t.Columns() {
		env[names[i]] = cell(c.Effective(), "", false)
	}
	used := &usage{names: map[string]int{}, made: map[string]bool{}}
	options := []expr.Option{expr.Env(env), expr.MaxNodes(maxNodes), expr.Patch(used), expr.DisableBuiltin("now"), expr.DisableBuiltin("repeat"), expr.AllowUndefinedVariables()}
	for _, f := range functions {
		// Under its plain name too, where the language has a function called the same.
		options = append(options, expr.Function(own(f.Name), f.call, f.types...), expr.Function(f.Name, f.call, f.types...))
	}
	f := &Formula{lookups: lookups{map[string]*table.Table{}, map[string]*table.Column{}, map[string]*index{}}}
	var err error
	if f.program, err = expr.Compile(text, append(options, f.lookups.options()...)...); err != nil {
		return nil, located(err)
	}
	for i, name := range names {
		if used.names[name] > 0 {
			f.names, f.columns = append(f.names, name), append(f.columns, t.Columns()[i])
			delete(used.names, name)
		}
	}
	for _, u := range used.order {
		if used.names[u.name] > 0 && !used.made[u.name] {
			return nil, problem.New("Use the columns' names: "+strings.Join(names[:min(len(names), 12)], ", "), "at character %d: there is no column called %q", u.at+1, u.name)
		}
	}
	return f, f.lookups.prepare(used.calls, tables)
}

// usage notes the names a formula uses, and those it makes itself.
type usage struct {
	names map[string]int
	made  map[string]bool
	order []use
	calls []*lookupCall
}

type use struct {
	name string
	at   int
}

func (u *usage) Visit(node *ast.Node) {
	switch n := (*node).(type) {
	case *ast.IdentifierNode:
		u.names[n.Value]++
		u.order = append(u.order, use{n.Value, n.Location().From})
	case *ast.CallNode:
		callee, ok := n.Callee.(*ast.IdentifierNode)
		if !ok || !ours[callee.Value] {
			return
		}
		u.names[callee.Value]-- // it is no column, even where one is called the same
		if c := called(callee.Value, n); c != nil {
			u.calls = append(u.calls, c)
		}
		n.Callee = &ast.IdentifierNode{Value: own(callee.Value)}
		n.Callee.SetLocation(callee.Location())
	case *ast.VariableDeclaratorNode:
		u.made[n.Name] = true
	}
}

// own is the name our functions have inside, so that columns may be called as they are.
func own(function string) string { return "function " + function }

// ours are the names of our functions.
var ours = func() map[string]bool {
	out := map[string]bool{}
	for _, f := range functions {
		out[f.Name] = true
	}
	for name := range looking {
		out[name] = true
	}
	return out
}()

// located says where a formula cannot be read.
func located(err error) error {
	var at *file.Error
	if errors.As(err, &at) {
		return problem.New("Mend it there", "the formula cannot be read at character %d: %s", at.From+1, at.Message)
	}
	return problem.New("Mend it", "the formula cannot be read: %s", strings.TrimSpace(strings.SplitN(err.Error(), "\n", 2)[0]))
}

// Names gives the name of each column in formulas: its own where that is one word, and
// otherwise with low lines for what is no letter or digit.
func Names(t *table.Table) []string {
	used := map[string]bool{}
	var out []string
	for _, c := range t.Columns() {
		name := Word(c.Name)
		base := name
		for n := 2; used[name]; n++ {
			name = fmt.Sprintf("%s_%d", base, n)
		}
		used[name] = true
		out = append(out, name)
	}
	return out
}

// Word is the name of a column in formulas, where no other has the same.
func Word(name string) string {
	name = strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r == '_' {
			return r
		}
		return '_'
	}, name)
	if name == "" || unicode.IsDigit(rune(name[0])) {
		name = "_" + name
	}
	if reserved[name] {
		name += "_"
	}
	return name
}

// reserved are the words of the language itself.
var reserved = map[string]bool{"true": true, "false": true, "nil": true, "in": true, "not": true, "and": true, "or": true, "matches": true, "contains": true,
	"startsWith": true, "endsWith": true, "let": true, "if": true, "else": true}

// Columns are those the formula names.
func (f *Formula) Columns() []*table.Column { return f.columns }

// Names are those under which it names them.
func (f *Formula) Names() []string { return f.names }

// Evaluator gives the function that works the formula out from the texts of its columns; a
// cell that does not exist is nil. It is for one goroutine. An error says in words why the
// formula fails on them.
func (f *Formula) Evaluator() func(cells []*string) (string, error) {
	machine := vm.VM{MemoryBudget: budget}
	env := map[string]any{}
	readings := make([]reading.Reading, len(f.columns))
	for i, c := range f.columns {
		readings[i] = c.Effective()
	}
	return func(cells []*string) (string, error) {
		for i, v := range cells {
			if v == nil {
				env[f.names[i]] = nil
			} else {
				env[f.names[i]] = cell(readings[i], *v, true)
			}
		}
		result, err := machine.Run(f.program, env)
		if err != nil {
			return "", errors.New(why(err))
		}
		text, err := write(result)
		if err == nil && len(text) > maxResult {
			err = fmt.Errorf("the result is longer than %d bytes", maxResult)
		}
		return text, err
	}
}

// why says a failure in its first line, and the usual one in plain words.
func why(err error) string {
	var at *file.Error
	said := strings.SplitN(err.Error(), "\n", 2)[0]
	if errors.As(err, &at) {
		said = at.Message
	}
	switch {
	case strings.Contains(said, "<nil>"):
		return "a cell is blank, or not read as its column is"
	case strings.Contains(said, "memory budget"):
		return "it would take too long"
	}
	return said
}

// cell gives a text as the value that formulas see: numbers, dates, yes or no and lists where
// the column is read so, nil where the text does not read or is blank, otherwise the text.
// With held false it gives any value of that type.
func cell(r reading.Reading, v string, held bool) any {
	switch r.Kind {
	case reading.Number, reading.Date, reading.YesNo:
		at, ok := r.Reader()(v)
		switch {
		case held && !ok:
			return nil
		case r.Kind == reading.YesNo:
			return at == 1
		case r.Kind == reading.Date:
			return timeOf(at)
		}
		return at
	case reading.List:
		if items, ok := r.Items(v); ok {
			return items
		}
		return []string{}
	}
	return v
}

func timeOf(days float64) time.Time {
	whole := math.Floor(days)
	return time.Unix(int64(whole)*86400+int64(math.Round((days-whole)*86400)), 0).UTC()
}

// write gives a result as the text of a cell: numbers to fifteen digits with a decimal point,
// dates as ISO 8601, lists as JSON, nothing as blank.
func write(result any) (string, error) {
	switch v := result.(type) {
	case nil:
		return "", nil
	case string:
		return v, nil
	case bool:
		return map[bool]string{true: "true", false: "false"}[v], nil
	case int:
		return strconv.Itoa(v), nil
	case int64:
		return strconv.FormatInt(v, 10), nil
	case float64:
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return "", errors.New("the result is no number")
		}
		rounded, _ := strconv.ParseFloat(strconv.FormatFloat(v, 'g', 15, 64), 64) // 15 digits always read back
		return strconv.FormatFloat(rounded, 'f', -1, 64), nil
	case time.Time:
		if v.Hour() == 0 && v.Minute() == 0 && v.Second() == 0 {
			return v.Format(time.DateOnly), nil
		}
		return v.Format(time.DateTime), nil
	case time.Duration:
		return strconv.FormatFloat(v.Hours()/24, 'f', -1, 64), nil // in days
	case []string:
		return list(len(v), func(i int) any { return v[i] })
	case []any:
		return list(len(v), func(i int) any { return v[i] })
	}
	return "", fmt.Errorf("the result is no value a cell can hold (%T)", result)
}

// Renamed gives a formula with the names of columns changed, as they are called in formulas. One
// that cannot be read stays as it is.
func Renamed(text string, to func(column string) string) string {
	tree, err := parser.Parse(text)
	if err != nil {
		return text
	}
	used := &usage{names: map[string]int{}, made: map[string]bool{}}
	ast.Walk(&tree.Node, used)
	runes := []rune(text)
	slices.SortFunc(used.order, func(a, b use) int { return cmp.Compare(b.at, a.at) }) // from the end, so that places stay
	for _, u := range used.order {
		end := u.at + len([]rune(u.name))
		if used.made[u.name] || used.names[u.name] <= 0 || end > len(runes) || string(runes[u.at:end]) != u.name {
			continue
		}
		if end < len(runes) && runes[end] == '(' {
			continue // a function
		}
		runes = slices.Concat(runes[:u.at], []rune(Word(to(u.name))), runes[end:])
	}
	return string(runes)
}
