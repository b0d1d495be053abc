package reconcile

import (
	"slices"
	"strings"

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
