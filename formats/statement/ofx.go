package statement

import (
	"html"
	"strings"

	"grandledger/core/problem"
)

// ofx reads OFX 1, whose elements need not be closed, and OFX 2 alike: by its elements in order, as the specification's own aggregates STMTRS and CCSTMTRS with STMTTRN.
func ofx(text string) ([]account, error) {
	at := strings.Index(text, "<OFX>")
	if at < 0 {
		return nil, problem.New("Ask the bank for the statement again", "the file has no element OFX")
	}
	var out []account
	var a *account
	var it *item
	currency := ""
	for _, e := range elements(text[at:]) {
		name, v := e[0], e[1]
		switch name {
		case "STMTRS", "CCSTMTRS":
			out = append(out, account{})
			a, it = &out[len(out)-1], nil
			continue
		case "/STMTTRN":
			it = nil
			continue
		}
		if a == nil {
			continue
		}
		if name == "STMTTRN" {
			a.items = append(a.items, item{account: a.name, currency: currency})
			it = &a.items[len(a.items)-1]
			continue
		}
		if v == "" {
			continue
		}
		switch {
		case name == "CURDEF":
			currency = v
		case name == "ACCTID" && it == nil:
			a.name = v
		case name == "BALAMT":
			// A balance without the one before it says nothing of the items.
		case it == nil:
		case name == "DTPOSTED" && len(v) >= 8:
			it.booked = v[:4] + "-" + v[4:6] + "-" + v[6:8]
		case name == "DTUSER" && len(v) >= 8:
			it.valued = v[:4] + "-" + v[4:6] + "-" + v[6:8]
		case name == "TRNAMT":
			d, err := money(v)
			if err != nil {
				return nil, err
			}
			it.amount = d
		case name == "TRNTYPE":
			it.kind = v
		case name == "CHECKNUM", name == "REFNUM", name == "FITID" && it.reference == "":
			it.reference = v
		case name == "NAME", name == "PAYEE":
			it.party = v
		case name == "MEMO":
			it.text = v
		}
	}
	if len(out) == 0 {
		return nil, problem.New("Ask the bank for the statement again", "the file has no statement of an account")
	}
	return out, nil
}

// elements gives the elements in order, each with the text behind its opening; the closings too, with a stroke.
func elements(text string) (out [][2]string) {
	for {
		open := strings.IndexByte(text, '<')
		if open < 0 {
			return out
		}
		end := strings.IndexByte(text[open:], '>')
		if end < 0 {
			return out
		}
		name := strings.ToUpper(strings.TrimSpace(text[open+1 : open+end]))
		text = text[open+end+1:]
		v := text
		if i := strings.IndexByte(text, '<'); i >= 0 {
			v = text[:i]
		}
		out = append(out, [2]string{name, html.UnescapeString(strings.TrimSpace(v))})
	}
}
