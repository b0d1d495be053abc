package statement_test

import (
	"context"
	"strings"
	"testing"

	"grandledger/core/table"
	"grandledger/formats/intake"
	"grandledger/formats/statement"
)

// A statement as ISO 20022 has it: element names of camt.053.001.02. The values are invented.
const camt = `<?xml version="1.0" encoding="UTF-8"?>
<Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.02"><BkToCstmrStmt><GrpHdr><MsgId>M1</MsgId></GrpHdr><Stmt><Id>S1</Id><Acct><Id><IBAN>GB82WEST12345698765432</IBAN></Id></Acct>
<Bal><Tp><CdOrPrtry><Cd>OPBD</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">100.00</Amt><CdtDbtInd>CRDT</CdtDbtInd></Bal><Bal><Tp><CdOrPrtry><Cd>CLBD</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">CLOSING</Amt><CdtDbtInd>CRDT</CdtDbtInd></Bal>
<Ntry><Amt Ccy="EUR">40.50</Amt><CdtDbtInd>DBIT</CdtDbtInd><BookgDt><Dt>2031-10-01</Dt></BookgDt><ValDt><DtTm>2031-10-02T00:00:00</DtTm></ValDt><AcctSvcrRef>B1</AcctSvcrRef>
<NtryDtls><TxDtls><Refs><EndToEndId>INV-77</EndToEndId></Refs><RltdPties><Cdtr><Nm>Harbour Ice</Nm></Cdtr></RltdPties><RmtInf><Ustrd>ice  for
September</Ustrd></RmtInf></TxDtls></NtryDtls></Ntry>
<Ntry><Amt Ccy="EUR">10</Amt><CdtDbtInd>CRDT</CdtDbtInd><BookgDt><Dt>2031-10-03</Dt></BookgDt><AcctSvcrRef>B2</AcctSvcrRef><NtryDtls><TxDtls><Refs><EndToEndId>NOTPROVIDED</EndToEndId></Refs><RltdPties><Dbtr><Nm>Skua &amp; Sons</Nm></Dbtr></RltdPties></TxDtls></NtryDtls></Ntry>
</Stmt></BkToCstmrStmt></Document>`

// A customer statement message as SWIFT's handbook lays it out, from memory.
const mt940 = ":20:STARTUMSE\n:25:10010010/1111111111\n:28C:00001/001\n:60F:C311228EUR100,00\n:61:3112300101DR40,50NTRFINV-77//B1\n:86:177?00TRANSFER?20SVWZ+ice for?21 September?32Harbour Ice\n:61:311230C10,NMSCNONREF//B2\n:86:paid in\nat the counter\n:61:311231RD5,25NCHG4711\n:62F:C311231EUR74,75\n-\n"

// OFX 1.02, whose elements are not closed, from memory.
const ofx = "OFXHEADER:100\nDATA:OFXSGML\nVERSION:102\n\n<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR<BANKACCTFROM><BANKID>1<ACCTID>999<ACCTTYPE>CHECKING</BANKACCTFROM><BANKTRANLIST><DTSTART>20311001<STMTTRN><TRNTYPE>DEBIT<DTPOSTED>20311001120000[0:GMT]<TRNAMT>-40.50<FITID>F1<CHECKNUM>77<NAME>Harbour Ice &amp; Co<MEMO>ice</STMTTRN><STMTTRN><TRNTYPE>CREDIT<DTPOSTED>20311003<TRNAMT>10.00<FITID>F2<NAME>Skua</STMTTRN></BANKTRANLIST><LEDGERBAL><BALAMT>69.50<DTASOF>20311003</LEDGERBAL></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>"

func read(t *testing.T, text string) (*table.Table, *intake.Report, error) {
	t.Helper()
	return statement.Read(context.Background(), strings.NewReader(text), intake.Options{File: "s", Size: int64(len(text))})
}

func rows(t *table.Table) (out []string) {
	for row := range t.Rows() {
		var cells []string
		for _, c := range t.Columns() {
			v, _ := c.Value(t.BaseRow(row))
			cells = append(cells, v)
		}
		out = append(out, strings.Join(cells, "|"))
	}
	return out
}

// Each kind of statement gives its items with a sign, dates, references, the other party and what was said.
func TestItems(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		want []string
	}{
		"camt": {strings.Replace(camt, "CLOSING", "69.50", 1), []string{"GB82WEST12345698765432|S1|2031-10-01|2031-10-02|-40.50|EUR|INV-77|Harbour Ice|ice for September|", "GB82WEST12345698765432|S1|2031-10-03||10|EUR|B2|Skua & Sons||"}},
		"mt940": {mt940, []string{"10010010/1111111111|00001/001|2032-01-01|2031-12-30|-40.50|EUR|INV-77|Harbour Ice|SVWZ+ice for  September|NTRF", "10010010/1111111111|00001/001|2031-12-30|2031-12-30|10|EUR|B2||paid in; at the counter|NMSC",
			"10010010/1111111111|00001/001|2031-12-31|2031-12-31|5.25|EUR|4711|||NCHG"}},
		"ofx": {ofx, []string{"999||2031-10-01||-40.50|EUR|77|Harbour Ice & Co|ice|DEBIT", "999||2031-10-03||10.00|EUR|F2|Skua||CREDIT"}},
	} {
		tab, report, err := read(t, c.text)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		if got := rows(tab); strings.Join(got, "\n") != strings.Join(c.want, "\n") || len(report.Notes) > 0 {
			t.Errorf("%s: %v\n%s", name, report.Notes, strings.Join(got, "\n"))
		}
		if !statement.Is([]byte(c.text)) {
			t.Errorf("%s is not known as a statement", name)
		}
	}
	for _, other := range []string{"a,b\n1,2\n", "<html><table></table></html>", `{"a":1}`, "<landings><note/></landings>"} {
		if statement.Is([]byte(other)) {
			t.Errorf("%q is taken for a statement", other)
		}
	}
}

// A closing balance that does not follow from its items is told, by how much; so is a statement that is there twice.
func TestBalances(t *testing.T) {
	_, report, err := read(t, strings.Replace(camt, "CLOSING", "70.00", 1))
	if err != nil || len(report.Notes) != 1 || !strings.Contains(report.Notes[0].What, "is 70, its opening balance and items come to 69.5, 0.5 apart") {
		t.Errorf("%v %v", report.Notes, err)
	}
	_, report, err = read(t, mt940+mt940)
	if err != nil || len(report.Notes) != 1 || !strings.Contains(report.Notes[0].What, "is there twice") {
		t.Errorf("%v %v", report.Notes, err)
	}
}

// What is broken or would do harm is refused, with what to do.
func TestRefused(t *testing.T) {
	for want, text := range map[string]string{
		"no well-formed XML":     strings.Replace(camt, "CLOSING", "69.50", 1)[:900],
		"declares a document":    strings.Replace(camt, "<Document", "<!DOCTYPE d [<!ENTITY a \"aaaa\">]><Document", 1),
		"no amount":              camt,
		"no line of a statement": strings.Replace(mt940, ":61:3112300101DR40,50NTRF", ":61:soon", 1),
		"is no balance":          strings.Replace(mt940, "C311228EUR100,00", "100", 1),
		"has no items":           "OFXHEADER:100\n<OFX><STMTRS><CURDEF>EUR</STMTRS></OFX>",
		"no statement of a kind": "hello",
	} {
		if _, _, err := read(t, text); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", want, err)
		}
	}
}

// Nothing that comes for a statement brings the reader down.
func FuzzRead(f *testing.F) {
	for _, seed := range []string{camt, mt940, ofx, ":20:x\n:61:", "<OFX><STMTRS><STMTTRN><TRNAMT>1", "{1:F01}\n:20:A\n:60F:C311228EUR1,\n"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) { _, _, _ = read(t, text) })
}
