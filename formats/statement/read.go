package statement

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/shopspring/decimal"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/grid"
	"grandledger/formats/intake"
)

// maxBytes is how long a statement may be.
const maxBytes = 256 << 20

// names are the columns of every statement.
var names = []string{"account", "statement", "booked", "value_date", "amount", "currency", "reference", "counterparty", "text", "type"}

// item is a line of a statement.
type item struct {
	account, statement, booked, valued string
	amount                             decimal.Decimal
	currency, reference, party, text   string
	kind                               string
}

// account is a statement of one account over one period, with the balances it gives.
type account struct {
	name, id       string
	opening, close *decimal.Decimal
	items          []item
}

// Is says whether the first bytes of a file are those of a statement.
func Is(sample []byte) bool { return kindOf(sample) != "" }

func kindOf(sample []byte) string {
	start := bytes.TrimSpace(bytes.TrimPrefix(sample, []byte("\xef\xbb\xbf")))
	head := start[:min(len(start), 4096)]
	switch {
	case bytes.Contains(head, []byte("camt.05")) && bytes.Contains(head, []byte("<")):
		return "camt"
	case bytes.HasPrefix(start, []byte("OFXHEADER")) || bytes.Contains(head, []byte("<OFX>")) || bytes.Contains(head, []byte("<?OFX")):
		return "ofx"
	case bytes.HasPrefix(start, []byte(":20:")) || bytes.HasPrefix(start, []byte("{1:")) || bytes.Contains(head, []byte("\n:20:")) && bytes.Contains(head, []byte(":60")):
		return "mt940"
	}
	return ""
}

// Read makes a table of the items of a statement file. Refusals are *problem.Problem. Cost: the file is held in memory.
func Read(ctx context.Context, src io.Reader, o intake.Options) (*table.Table, *intake.Report, error) {
	report := &intake.Report{Bytes: o.Size, Notes: []intake.Note{}}
	t, err := read(ctx, src, o, report)
	return t, report, problem.In(o.File, err)
}

func read(ctx context.Context, src io.Reader, o intake.Options, report *intake.Report) (*table.Table, error) {
	raw, err := io.ReadAll(io.LimitReader(src, maxBytes+1))
	if err != nil {
		return nil, err
	}
	if len(raw) > maxBytes {
		return nil, problem.New("Ask for shorter periods", "the statement is longer than %d MiB", maxBytes>>20)
	}
	var accounts []account
	switch kindOf(raw) {
	case "camt":
		accounts, err = camt(raw)
	case "ofx":
		accounts, err = ofx(decoded(raw))
	case "mt940":
		accounts, err = mt940(decoded(raw))
	default:
		err = problem.New("Bring in camt.053, MT940 or OFX", "the file is no statement of a kind that is read")
	}
	if err != nil {
		return nil, err
	}
	rows := [][]string{names}
	seen := map[string]bool{}
	for _, a := range accounts {
		if a.id != "" && seen[a.name+"\x00"+a.id] {
			report.Notes = append(report.Notes, intake.Note{Count: 1, What: fmt.Sprintf("statement %s of %s is there twice", a.id, a.name)})
		}
		seen[a.name+"\x00"+a.id] = true
		if note := a.check(); note != "" {
			report.Notes = append(report.Notes, intake.Note{Count: 1, What: note})
		}
		for _, it := range a.items {
			rows = append(rows, []string{it.account, it.statement, it.booked, it.valued, written(it.amount), it.currency, it.reference, it.party, it.text, it.kind})
		}
	}
	if len(rows) == 1 {
		return nil, problem.New("Look whether the period has any", "the statement has no items")
	}
	at := 0
	next := func() ([]string, error) {
		if at == len(rows) {
			return nil, io.EOF
		}
		at++
		return rows[at-1], nil
	}
	return grid.Read(ctx, next, grid.Range{Names: 1}, o, report)
}

// check holds the balances against the items: what it says is empty where they agree or are not given.
func (a *account) check() string {
	if a.opening == nil || a.close == nil {
		return ""
	}
	sum := *a.opening
	for _, it := range a.items {
		sum = sum.Add(it.amount)
	}
	if sum.Equal(*a.close) {
		return ""
	}
	return fmt.Sprintf("the closing balance of %s, statement %s, is %s, its opening balance and items come to %s, %s apart", a.name, a.id, a.close, sum, a.close.Sub(sum))
}

// decoded reads text as UTF-8, or as the encoding it is likely in.
func decoded(raw []byte) string {
	encoding, err := intake.SniffEncoding(raw[:min(len(raw), 1<<16)])
	if err != nil {
		return string(raw)
	}
	return strings.ReplaceAll(string(intake.Decode(raw, encoding)), "\r\n", "\n")
}

// money reads an amount with a point or a comma for its decimals.
func money(v string) (decimal.Decimal, error) {
	v = strings.TrimSpace(v)
	if strings.Contains(v, ",") && !strings.Contains(v, ".") {
		v = strings.Replace(v, ",", ".", 1)
	}
	d, err := decimal.NewFromString(v)
	if err != nil || d.Exponent() < -12 || d.Exponent() > 12 || len(v) > 40 {
		return decimal.Zero, problem.New("Ask the bank for the statement again", "%q is no amount", v)
	}
	return d, nil
}

// written keeps the decimals that an amount came with.
func written(d decimal.Decimal) string { return d.StringFixed(max(-d.Exponent(), 0)) }
