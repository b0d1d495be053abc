package reconcile

import (
	"math"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Columns say where the parts of an item are. Amount, or Debit and Credit; all others may be empty.
type Columns struct {
	Date      string   `json:"date" yaml:"date,omitempty"`
	Amount    string   `json:"amount" yaml:"amount,omitempty"`
	Debit     string   `json:"debit" yaml:"debit,omitempty"`
	Credit    string   `json:"credit" yaml:"credit,omitempty"`
	Reference string   `json:"reference" yaml:"reference,omitempty"`
	Texts     []string `json:"texts" yaml:"texts,omitempty,flow"` // description, counterparty
	Currency  string   `json:"currency" yaml:"currency,omitempty"`
	// Direction holds words such as debit and credit, which give unsigned amounts their sign.
	Direction string `json:"direction" yaml:"direction,omitempty"`
	// Turned says that amounts have the other sign than on the other side.
	Turned bool `json:"turned" yaml:"turned,omitempty"`
}

// item is a line of a ledger as it is compared.
type item struct {
	row      int32
	day      int32 // since 1970; noDay where it is not known
	currency uint16
	amount   int64  // of the smallest part in use, positive for us
	ref      uint32 // its reference, 0 for none
	words    uint32 // its text, 0 for none
}

const noDay = math.MinInt32

// ledger is a side made ready.
type ledger struct {
	columns Columns
	items   []item
	total   int64
	bad     []Unread
}

// Unread is a line whose amount or date does not read.
type Unread struct {
	Row    int // from 0
	Column string
	Value  string
}

// Propose finds the columns of a ledger by their names and by what they hold. Cost: O(distinct) for each column.
func Propose(t *table.Table) (Columns, error) {
	var c Columns
	type scored struct {
		to    *string
		words []string
		kind  reading.Kind
	}
	taken := map[string]bool{}
	for _, want := range []scored{
		{&c.Amount, []string{"amount", "value", "sum", "betrag", "total", "net", "gross"}, reading.Number},
		{&c.Debit, []string{"debit", "withdrawal", "paid out", "soll", "payments"}, reading.Number},
		{&c.Credit, []string{"credit", "deposit", "paid in", "haben", "receipts"}, reading.Number},
		{&c.Date, []string{"date", "booked", "posted", "day", "datum", "booking_date", "value_date"}, reading.Date},
		{&c.Currency, []string{"currency", "ccy", "curr"}, ""},
		{&c.Reference, []string{"reference", "ref", "invoice", "document", "doc", "voucher", "number", "no", "lot", "note"}, ""},
		{&c.Direction, []string{"direction", "dir", "dc", "type", "sign"}, "direction"},
	} {
		best, score := "", 0.0
		for at, col := range t.Columns() {
			s := fits(t, col, want.words, want.kind)
			if s -= float64(at) / 1000; !taken[col.Name] && s > score {
				best, score = col.Name, s
			}
		}
		if best != "" {
			*want.to, taken[best] = best, true
		}
	}
	if c.Amount != "" && (c.Debit != "") != (c.Credit != "") { // one of them alone is no pair
		c.Debit, c.Credit = "", ""
	}
	if c.Debit != "" && c.Credit != "" {
		c.Amount = ""
	}
	for _, col := range t.Columns() {
		if !taken[col.Name] && (called(col.Name, "description", "text", "details", "narrative", "memo", "purpose", "remarks", "remark", "party", "counterparty", "payee", "payer", "name", "customer", "supplier", "buyer", "account")) {
			c.Texts = append(c.Texts, col.Name)
		}
	}
	if c.Amount == "" && c.Debit == "" {
		for _, col := range t.Columns() { // the one column of numbers there is
			if !taken[col.Name] && col.Effective().Kind == reading.Number && !called(col.Name, "id", "row") {
				c.Amount = col.Name
			}
		}
	}
	if c.Amount == "" && c.Debit == "" {
		return c, problem.New("Say which column it is", "no column looks like an amount")
	}
	return c, nil
}

func called(name string, words ...string) bool {
	have := text.Words(strings.ReplaceAll(name, "_", " "))
	for _, w := range words {
		if slices.Contains(have, w) || text.Fold(name) == w {
			return true
		}
	}
	return false
}

// fits says how well a column is what is looked for.
func fits(t *table.Table, col *table.Column, words []string, kind reading.Kind) float64 {
	score := 0.0
	for i, w := range words {
		if called(col.Name, w) {
			score = max(score, 2-float64(i)/20)
		}
	}
	switch {
	case kind == "direction":
		return directs(t, col)
	case kind != "" && col.Effective().Kind != kind:
		return 0
	case kind == reading.Date && score == 0:
		return 0.5
	}
	return score
}

// directs says whether a column holds words for debit and credit.
func directs(t *table.Table, col *table.Column) float64 {
	for code, n := range t.Counts(col) {
		if n > 0 && code > 0 {
			if v := strings.TrimSpace(col.Dict.Value(uint32(code))); v != "" && sign(v) == 0 {
				return 0
			}
		}
	}
	return 1
}

// sign is that of a word for debit or credit; 0 for none.
func sign(v string) int64 {
	switch text.Fold(v) {
	case "dbit", "debit", "d", "db", "dr", "rc", "s", "soll", "out", "-":
		return -1
	case "crdt", "credit", "c", "cr", "rd", "h", "haben", "in", "+":
		return 1
	}
	return 0
}

// world are the numbers given to currencies, references and texts, the same for both sides.
type world struct {
	places     int32 // decimals of the smallest part in use
	digits     bool  // references are known by their digits, as one side writes more around them than the other
	currencies map[string]uint16
	refs       *table.DictBuilder
	texts      *table.DictBuilder
	worded     [][]string // words of each text
}

// amounts are those of each code of a column, in the smallest part; state says of each whether it reads, is blank, or does neither.
func amounts(c *table.Column, counts []uint32, places int32) (minor []int64, state []byte) {
	r := c.Effective()
	if r.Kind != reading.Number {
		r = reading.Reading{Kind: reading.Number, Decimal: "."}
	}
	minor, state = make([]int64, len(counts)), make([]byte, len(counts))
	most := decimal.NewFromInt(math.MaxInt64 / 4)
	for code, n := range counts {
		if n == 0 {
			continue
		}
		v := ""
		if code > 0 {
			v = c.Dict.Value(uint32(code))
		}
		if strings.TrimSpace(v) == "" {
			state[code] = blank
			continue
		}
		d, ok := r.Exact(v)
		if ok {
			d = d.Shift(places)
			ok = d.IsInteger() && d.Abs().LessThan(most)
		}
		if !ok {
			state[code] = unread
			continue
		}
		minor[code], state[code] = d.IntPart(), reads
	}
	return minor, state
}

const (
	reads byte = iota
	blank
	unread
)

// read makes a side ready. Lines whose amount does not read are told, and are no items. Cost: O(rows).
func (w *world) read(t *table.Table, c Columns) (*ledger, error) {
	l := &ledger{columns: c}
	column := func(name string) (*table.Column, error) {
		if name == "" {
			return nil, nil
		}
		col, _, err := t.Column(name)
		if err != nil {
			p := problem.New("Choose a column the table has", "there is no column %q", name)
			p.Column = name
			return nil, p
		}
		return col, nil
	}
	var cols [6]*table.Column
	for i, name := range []string{c.Date, c.Amount, c.Debit, c.Credit, c.Reference, c.Currency} {
		var err error
		if cols[i], err = column(name); err != nil {
			return nil, err
		}
	}
	direction, err := column(c.Direction)
	if err != nil {
		return nil, err
	}
	var texts []*table.Column
	for _, name := range c.Texts {
		col, err := column(name)
		if err != nil {
			return nil, err
		}
		texts = append(texts, col)
	}
	date, amount, debit, credit, ref, currency := cols[0], cols[1], cols[2], cols[3], cols[4], cols[5]
	if amount == nil && debit == nil && credit == nil {
		return nil, problem.New("Choose one, or one of debits and one of credits", "there is no column of amounts")
	}
	days := w.days(date)
	var minors [3][]int64
	var states [3][]byte
	for i, col := range []*table.Column{amount, debit, credit} {
		if col != nil {
			minors[i], states[i] = amounts(col, t.Counts(col), w.places)
		}
	}
	var signs []int64
	if direction != nil {
		signs = make([]int64, direction.Dict.Len()+1)
		for code := 1; code < len(signs); code++ {
			signs[code] = sign(direction.Dict.Value(uint32(code)))
		}
	}
	refOf := map[uint32]uint32{}
	textOf := map[string]uint32{}
	for row := range t.Rows() {
		base := t.BaseRow(row)
		it := item{row: int32(row), day: noDay}
		any := false
		for i, col := range []*table.Column{amount, debit, credit} {
			if col == nil {
				continue
			}
			code := col.Code(base)
			switch states[i][code] {
			case unread:
				l.bad = append(l.bad, Unread{row, col.Name, col.Dict.Value(code)})
				continue
			case blank:
				continue
			}
			minor := minors[i][code]
			if i == 1 {
				minor = -max(minor, -minor)
			}
			if i == 2 {
				minor = max(minor, -minor)
			}
			it.amount += minor
			any = true
		}
		if !any {
			continue
		}
		if direction != nil {
			if s := signs[direction.Code(base)]; s != 0 {
				it.amount = s * max(it.amount, -it.amount)
			}
		}
		if c.Turned {
			it.amount = -it.amount
		}
		if date != nil {
			it.day = days[date.Code(base)]
		}
		if currency != nil {
			v, _ := currency.Value(base)
			it.currency = w.currency(strings.ToUpper(strings.TrimSpace(v)))
		}
		if ref != nil {
			code := ref.Code(base)
			at, ok := refOf[code]
			if !ok {
				if k := w.refKey(ref.Dict.Value(code)); k != "" {
					at = w.refs.Add(k)
				}
				refOf[code] = at
			}
			it.ref = at
		}
		if len(texts) > 0 {
			var parts []string
			for _, col := range texts {
				if v, _ := col.Value(base); strings.TrimSpace(v) != "" {
					parts = append(parts, v)
				}
			}
			said := strings.Join(parts, " ")
			at, ok := textOf[said]
			if !ok {
				if k := strings.Join(text.Words(said), " "); k != "" {
					at = w.texts.Add(k)
				}
				textOf[said] = at
			}
			it.words = at
		}
		l.items = append(l.items, it)
		l.total += it.amount
	}
	return l, nil
}

func (w *world) currency(v string) uint16 {
	at, ok := w.currencies[v]
	if !ok {
		at = uint16(len(w.currencies) + 1)
		w.currencies[v] = at
	}
	return at
}

// days are those of each code of a column of dates.
func (w *world) days(c *table.Column) []int32 {
	if c == nil {
		return nil
	}
	read := c.Read()
	out := make([]int32, c.Dict.Len()+1)
	for code := range out {
		out[code] = noDay
		if read.Reading.Kind == reading.Date && read.OK[code] {
			out[code] = int32(math.Floor(read.At[code]))
		}
	}
	return out
}

// digitsFrom is from how many digits on a reference is known by them.
const digitsFrom = 4

// refKey is a reference as it is compared: by its digits alone, where one side writes more around them and there are enough.
func (w *world) refKey(v string) string {
	k := refKey(v)
	if !w.digits {
		return k
	}
	if d := strings.Map(digit, k); len(d) >= digitsFrom {
		return d
	}
	return k
}

// byDigits says whether the references of two sides have more in common by their digits. Cost: O(distinct).
func byDigits(tables [2]*table.Table, columns [2]*Columns) bool {
	var whole, digits [2]map[string]bool
	for i, t := range tables {
		whole[i], digits[i] = map[string]bool{}, map[string]bool{}
		c, _, err := t.Column(columns[i].Reference)
		if columns[i].Reference == "" || err != nil {
			return false
		}
		for code, n := range t.Counts(c) {
			if n > 0 && code > 0 {
				v := c.Dict.Value(uint32(code))
				whole[i][refKey(v)], digits[i][(&world{digits: true}).refKey(v)] = true, true
			}
		}
	}
	common := func(m [2]map[string]bool) (n int) {
		for k := range m[0] {
			if m[1][k] {
				n++
			}
		}
		return n
	}
	return common(digits)*10 > common(whole)*11
}

// mine finds the references of the other side in the texts of items that have none of their own, if the text names one alone. Cost: O(distinct texts).
func (r *Result) mine() {
	for side := range r.sides {
		known := map[uint32]bool{}
		for i := range r.sides[1-side].items {
			known[r.sides[1-side].items[i].ref] = true
		}
		of := map[uint32]uint32{}
		items := r.sides[side].items
		for i := range items {
			if items[i].ref != 0 || items[i].words == 0 {
				continue
			}
			ref, ok := of[items[i].words]
			if !ok {
				for _, w := range r.world.worded[items[i].words] {
					k := r.world.refKey(w)
					if digits := strings.Map(digit, k); len(digits) < digitsFrom {
						continue
					}
					if at := r.world.refs.Find(k); at != 0 && known[at] {
						if ref != 0 && ref != at { // it names two
							ref = 0
							break
						}
						ref = at
					}
				}
				of[items[i].words] = ref
			}
			items[i].ref = ref
		}
	}
}

func digit(c rune) rune {
	if '0' <= c && c <= '9' {
		return c
	}
	return -1
}

// refKey is a reference without what it is written with: marks, spaces, case, zeros before numbers.
func refKey(v string) string {
	var b strings.Builder
	zeros := true
	for _, c := range strings.ToLower(v) {
		switch {
		case '0' <= c && c <= '9':
			if c == '0' && zeros {
				continue
			}
			zeros = false
			b.WriteRune(c)
		case 'a' <= c && c <= 'z' || c > 127:
			zeros = true
			b.WriteRune(c)
		default:
			zeros = true
		}
	}
	return b.String()
}

// places is how many decimals the amounts of columns have at most. Cost: O(distinct).
func places(t *table.Table, c Columns) (int32, error) {
	var most int32
	for _, name := range []string{c.Amount, c.Debit, c.Credit} {
		col, _, err := t.Column(name)
		if name == "" || err != nil {
			continue
		}
		r := col.Effective()
		if r.Kind != reading.Number {
			r = reading.Reading{Kind: reading.Number, Decimal: "."}
		}
		for code, n := range t.Counts(col) {
			if n == 0 || code == 0 {
				continue
			}
			if d, ok := r.Exact(col.Dict.Value(uint32(code))); ok {
				most = max(most, -d.Exponent())
			}
		}
	}
	if most > 9 {
		return 0, problem.New("Round them, or choose another column", "amounts have %d decimals, more than 9", most)
	}
	return most, nil
}

// amount writes a number of smallest parts as it is written in ledgers.
func (w *world) amount(minor int64) string {
	return decimal.New(minor, -w.places).StringFixed(w.places)
}
