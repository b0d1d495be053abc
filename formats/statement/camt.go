package statement

import (
	"bytes"
	"encoding/xml"
	"io"
	"strings"

	"github.com/shopspring/decimal"
	"golang.org/x/net/html/charset"

	"grandledger/core/problem"
)

// The parts of camt.052, 053 and 054 that are read; schema names of ISO 20022.
type document struct {
	Statements []camtStatement `xml:"BkToCstmrStmt>Stmt"`
	Reports    []camtStatement `xml:"BkToCstmrAcctRpt>Rpt"`
	Notices    []camtStatement `xml:"BkToCstmrDbtCdtNtfctn>Ntfctn"`
}

type camtStatement struct {
	ID       string        `xml:"Id"`
	IBAN     string        `xml:"Acct>Id>IBAN"`
	Other    string        `xml:"Acct>Id>Othr>Id"`
	Balances []camtBalance `xml:"Bal"`
	Entries  []camtEntry   `xml:"Ntry"`
}

type camtBalance struct {
	Code      string     `xml:"Tp>CdOrPrtry>Cd"`
	Amount    camtAmount `xml:"Amt"`
	Direction string     `xml:"CdtDbtInd"`
}

type camtAmount struct {
	Currency string `xml:"Ccy,attr"`
	Value    string `xml:",chardata"`
}

type camtDate struct {
	Day  string `xml:"Dt"`
	Time string `xml:"DtTm"`
}

func (d camtDate) String() string {
	if d.Day != "" {
		return d.Day
	}
	return d.Time[:min(len(d.Time), 10)]
}

type camtEntry struct {
	Reference string       `xml:"NtryRef"`
	Amount    camtAmount   `xml:"Amt"`
	Direction string       `xml:"CdtDbtInd"`
	Reversal  string       `xml:"RvslInd"`
	Booked    camtDate     `xml:"BookgDt"`
	Valued    camtDate     `xml:"ValDt"`
	Servicer  string       `xml:"AcctSvcrRef"`
	Domain    string       `xml:"BkTxCd>Domn>Cd"`
	Family    string       `xml:"BkTxCd>Domn>Fmly>Cd"`
	Text      string       `xml:"AddtlNtryInf"`
	Details   []camtDetail `xml:"NtryDtls>TxDtls"`
}

type camtDetail struct {
	EndToEnd   string   `xml:"Refs>EndToEndId"`
	Servicer   string   `xml:"Refs>AcctSvcrRef"`
	Creditor   string   `xml:"RmtInf>Strd>CdtrRefInf>Ref"`
	Debtor     string   `xml:"RltdPties>Dbtr>Nm"`
	DebtorIn   string   `xml:"RltdPties>Dbtr>Pty>Nm"` // from version 8 on
	CreditorOf string   `xml:"RltdPties>Cdtr>Nm"`
	CreditorIn string   `xml:"RltdPties>Cdtr>Pty>Nm"`
	Said       []string `xml:"RmtInf>Ustrd"`
	Text       string   `xml:"AddtlTxInf"`
}

// camt reads ISO 20022 statements, reports and notices. One item is an entry as it was booked; what its details say is gathered.
func camt(raw []byte) ([]account, error) {
	d := xml.NewDecoder(bytes.NewReader(raw))
	d.CharsetReader = charset.NewReaderLabel
	d.Strict = true
	var doc document
	for {
		token, err := d.Token()
		if err == io.EOF {
			return nil, problem.New("Ask the bank for the statement again", "the file has no document")
		}
		if err != nil {
			return nil, badXML(err)
		}
		if _, ok := token.(xml.Directive); ok {
			return nil, problem.New("Ask the bank for the statement without it", "the file declares a document type, which statements do not need")
		}
		if start, ok := token.(xml.StartElement); ok {
			if err := d.DecodeElement(&doc, &start); err != nil {
				return nil, badXML(err)
			}
			break
		}
	}
	var out []account
	for _, s := range append(append(doc.Statements, doc.Reports...), doc.Notices...) {
		a := account{name: strings.TrimSpace(s.IBAN + s.Other), id: strings.TrimSpace(s.ID)}
		for _, b := range s.Balances {
			v, err := b.Amount.signed(b.Direction)
			if err != nil {
				return nil, err
			}
			switch b.Code {
			case "OPBD", "PRCD":
				if a.opening == nil {
					a.opening = &v
				}
			case "CLBD":
				a.close = &v
			}
		}
		for _, e := range s.Entries {
			v, err := e.Amount.signed(e.Direction)
			if err != nil {
				return nil, err
			}
			it := item{account: a.name, statement: a.id, booked: e.Booked.String(), valued: e.Valued.String(), amount: v, currency: e.Amount.Currency, kind: strings.Trim(e.Domain+" "+e.Family, " ")}
			refs, parties, said := one{e.Reference, e.Servicer}, one{}, one{e.Text}
			for _, t := range e.Details {
				refs = append(one{t.Creditor, t.EndToEnd}, refs...)
				if strings.HasPrefix(e.Direction, "DBIT") {
					parties = append(parties, t.CreditorOf, t.CreditorIn)
				} else {
					parties = append(parties, t.Debtor, t.DebtorIn)
				}
				said = append(append(said, t.Said...), t.Text)
			}
			it.reference, it.party, it.text = refs.first(), parties.joined(), said.joined()
			a.items = append(a.items, it)
		}
		out = append(out, a)
	}
	return out, nil
}

func badXML(err error) error {
	return problem.New("Ask the bank for the statement again", "the file is no well-formed XML: %v", err)
}

func (a camtAmount) signed(direction string) (decimal.Decimal, error) {
	v, err := money(a.Value)
	if err != nil {
		return v, err
	}
	if strings.TrimSpace(direction) == "DBIT" {
		v = v.Neg()
	}
	return v, nil
}

// one are texts of which some are blank, or say that there is nothing to say.
type one []string

func (o one) first() string {
	for _, v := range o {
		if v = strings.TrimSpace(v); v != "" && v != "NOTPROVIDED" {
			return v
		}
	}
	return ""
}

func (o one) joined() string {
	var out []string
	for _, v := range o {
		if v = strings.Join(strings.Fields(v), " "); v != "" && (len(out) == 0 || out[len(out)-1] != v) {
			out = append(out, v)
		}
	}
	return strings.Join(out, "; ")
}
