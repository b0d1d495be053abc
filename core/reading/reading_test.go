package reading

import (
	"bufio"
	"bytes"
	"math"
	"math/rand/v2"
	"os/exec"
	"strconv"
	"strings"
	"testing"
	"time"
	"unicode/utf8"
)

// column makes Values of texts that stand in one row each.
func column(texts ...string) Values {
	return Values{len(texts), func(i int) (string, int) { return texts[i], 1 }}
}

// Outside reference: the Unicode CLDR data of Node's Intl writes dates and numbers in 27
// locales. The reading proposed for each column of them reads every one as it was meant.
func TestAgainstCLDR(t *testing.T) {
	out, err := exec.Command("node", "../../reference/intl.mjs").Output()
	if err != nil {
		t.Fatalf("node writes no dates: %v", err)
	}
	type key struct{ kind, locale string }
	texts, meant := map[key][]string{}, map[key][]string{}
	lines := bufio.NewScanner(bytes.NewReader(out))
	for lines.Scan() {
		f := strings.Split(lines.Text(), "\t")
		k := key{f[0], f[1]}
		texts[k], meant[k] = append(texts[k], f[3]), append(meant[k], f[2])
	}
	if len(texts) != 27*6 {
		t.Fatalf("%d columns", len(texts))
	}
	orders := map[Order]int{}
	for k, column := range texts {
		p := Propose(values(column))
		if k.kind == "figures" {
			orders[p.Reading.Order]++
		}
		read := p.Reading.Reader()
		for i, v := range column {
			at, ok := read(v)
			want := 0.0
			if k.kind == "date" || k.kind == "figures" {
				day, err := time.Parse(time.DateOnly, meant[k][i])
				if err != nil {
					t.Fatal(err)
				}
				want = float64(day.Unix() / 86400)
			} else if want, err = strconv.ParseFloat(meant[k][i], 64); err != nil {
				t.Fatal(err)
			}
			if !ok || at != want {
				t.Errorf("%s, read as %s: %q is %v (%v), meant %s", k, p.Reading.Words(), v, at, ok, meant[k][i])
				break
			}
		}
	}
	// British and most others; American; Swedish and Hungarian need none.
	if orders[DayFirst] != 24 || orders[MonthFirst] != 1 {
		t.Errorf("orders of figures: %v", orders)
	}
}

func values(texts []string) Values { return column(texts...) }

// Outside reference: the examples of the standards, listed in CHECKS.md from memory. Each
// with one digit changed is refused, and with any two neighbours swapped that differ. The
// weights of IMO numbers have factors in common with ten, so some changes pass by their rule.
func TestIdentifiers(t *testing.T) {
	for _, c := range []struct {
		kind Kind
		text string
		// Swaps that the check does not see: by weights 3 and 1 of neighbours 5 apart, and by
		// Luhn of 0 and 9.
		blind func(a, b byte) bool
	}{
		{IBAN, "GB82 WEST 1234 5698 7654 32", nil},
		{LEI, "5493001KJTIIGC8Y1R12", nil},
		{ISNI, "0000-0002-1825-0097", nil},
		{ISBN, "0-306-40615-2", nil},
		{ISBN, "978-0-306-40615-7", func(a, b byte) bool { return (int(a)-int(b))%5 == 0 }},
		{ISSN, "0378-5955", nil},
		{EAN, "4006381333931", func(a, b byte) bool { return (int(a)-int(b))%5 == 0 }},
		{Luhn, "79927398713", func(a, b byte) bool { return a+b == '0'+'9' && (a == '0' || a == '9') }},
		{IMO, "9074729", func(a, b byte) bool { return false }},
	} {
		is := identifiers[c.kind]
		if !is(c.text) {
			t.Errorf("%s %s is refused", c.kind, c.text)
		}
		for i := range len(c.text) {
			if d := c.text[i]; '0' <= d && d <= '9' {
				for other := byte('0'); other <= '9'; other++ {
					if changed := c.text[:i] + string(other) + c.text[i+1:]; other != d && is(changed) && !(c.kind == IMO && i < 6 && (int(other)-int(d))*(7-i)%10 == 0) {
						t.Errorf("%s %s passes, changed from %s", c.kind, changed, c.text)
					}
				}
			}
			if i+1 < len(c.text) {
				a, b := c.text[i], c.text[i+1]
				if a == b || !isDigit(a) || !isDigit(b) || c.blind != nil && c.blind(a, b) {
					continue
				}
				if swapped := c.text[:i] + string(b) + string(a) + c.text[i+2:]; is(swapped) {
					t.Errorf("%s %s passes, swapped from %s", c.kind, swapped, c.text)
				}
			}
		}
	}
}

func isDigit(c byte) bool { return '0' <= c && c <= '9' }

// Outside reference: coordinates of RFC 5870 (section 6.1) and of the OGC's well-known text.
func TestPosition(t *testing.T) {
	for text, want := range map[string][2]float64{
		"geo:13.4125,103.8667":      {13.4125, 103.8667},
		"48.2010, 16.3695":          {48.201, 16.3695},
		"POINT(16.3695 48.2010)":    {48.201, 16.3695},
		"54°19'30\"N 10°08'24\"E":   {54.325, 10.14},
		"33°51′54″S, 151°12′36″W":   {-33.865, -151.21},
		"54.325° N, 10.14° W":       {54.325, -10.14},
		"91.5, 10.2":                {math.NaN(), 0},
		"12, 14":                    {math.NaN(), 0},
		"54.325 N, 10.14":           {math.NaN(), 0},
		"1.5, 2.5, 3.5":             {math.NaN(), 0},
		"Harbour wall, north of 54": {math.NaN(), 0},
	} {
		north, east, ok := Position(text)
		if ok == math.IsNaN(want[0]) || ok && (math.Abs(north-want[0]) > 1e-9 || math.Abs(east-want[1]) > 1e-9) {
			t.Errorf("%q is at %v, %v (%v)", text, north, east, ok)
		}
	}
}

// The readings that columns of one kind of value are proposed. (common practice)
func TestPropose(t *testing.T) {
	for name, c := range map[string]struct {
		texts   []string
		reading Reading
		notRead int
		ask     int
	}{
		"codes keep their zeros":      {[]string{"0017", "0018", "0123", "0999"}, Reading{Kind: Code}, 0, 0},
		"whole numbers":               {[]string{"1", "22", "333", "4444"}, Reading{Kind: Number, Whole: true, Decimal: ".", Group: ","}, 0, 0},
		"decimal comma":               {[]string{"1,5", "22,75", "1.333,00", "4444"}, Reading{Kind: Number, Decimal: ",", Group: "."}, 0, 0},
		"only three places":           {[]string{"1.500", "2.750", "3.000"}, Reading{Kind: Number, Decimal: ".", Group: ","}, 0, 3},
		"a unit":                      {[]string{"12 kg", "7.5 kg", "9kg", "11"}, Reading{Kind: Number, Decimal: ".", Group: ",", Unit: "kg"}, 0, 0},
		"another unit stays unread":   {[]string{"12 kg", "7 kg", "9 kg", "4 kg", "5 kg", "6 kg", "8 kg", "9.5 kg", "3 kg", "3 kg ", "2 kg", "12 lb"}, Reading{Kind: Number, Decimal: ".", Group: ",", Unit: "kg"}, 1, 0},
		"brackets and trailing minus": {[]string{"(1,234.50)", "12.00-", "-3.25", "4"}, Reading{Kind: Number, Decimal: ".", Group: ","}, 0, 0},
		"percent":                     {[]string{"12 %", "7.5%", "9%"}, Reading{Kind: Number, Decimal: ".", Group: ",", Unit: "%"}, 0, 0},
		"currency":                    {[]string{"€ 12.00", "EUR 7.50", "€9"}, Reading{Kind: Number, Decimal: ".", Group: ",", Unit: "EUR"}, 0, 0},
		"day first":                   {[]string{"4/10/2031", "14/10/2031", "3/2/2031"}, Reading{Kind: Date, Order: DayFirst}, 0, 0},
		"month first":                 {[]string{"10/4/2031", "10/14/2031", "3/2/2031"}, Reading{Kind: Date, Order: MonthFirst}, 0, 0},
		"either way":                  {[]string{"4/10/2031", "3/2/2031", "5/5/2031"}, Reading{Kind: Date}, 2, 2},
		"two-digit years":             {[]string{"14.10.31", "3.2.49", "1.1.50"}, Reading{Kind: Date, Order: DayFirst, Years: 1950}, 0, 0},
		"with times":                  {[]string{"2031-10-04T05:30:00Z", "2031-10-04 17:30", "4 Oct 2031 5:30 pm"}, Reading{Kind: Date}, 0, 0},
		"compact":                     {[]string{"20311004", "20311231", "20310101"}, Reading{Kind: Date}, 0, 0},
		"e-mail":                      {[]string{"a@b.example", "harbour.master@port-kestrel.example"}, Reading{Kind: Email}, 0, 0},
		"web":                         {[]string{"https://port-kestrel.example/x?y=1", "www.gull-point.example"}, Reading{Kind: Web}, 0, 0},
		"telephone":                   {[]string{"+44 20 7946 0018", "(020) 7946 0123", "020 7946 0991 ext 12"}, Reading{Kind: Telephone}, 0, 0},
		"coordinates":                 {[]string{"54.325, 10.140", "-33.865, 151.21"}, Reading{Kind: Coordinates}, 0, 0},
		"lists of JSON":               {[]string{`["Gill net","Pots"]`, `[]`, `["Line"]`}, Reading{Kind: List}, 0, 0},
		"lists by a mark":             {[]string{"cod; ling", "cod", "saithe; ling; cod"}, Reading{Kind: List, Separator: ";"}, 0, 0},
		"IMO numbers":                 {[]string{"9074729", "IMO 9074729", "9319466", "9333137", "8814275"}, Reading{Kind: IMO}, 0, 0},
		"yes or no":                   {[]string{"yes", "No", "y"}, Reading{Kind: YesNo}, 0, 0},
		"units that codes end in":     {[]string{"214A", "215A", "216B", "999A"}, Reading{Kind: Code}, 0, 0},
		"names":                       {[]string{"Ana Fisher", "J. Smith & Sons", "Tern 3"}, Reading{Kind: Text}, 0, 0},
		"nothing":                     {nil, Reading{Kind: Text}, 0, 0},
	} {
		p := Propose(column(c.texts...))
		ask := 0
		if p.Ask != nil {
			ask = p.Ask.Rows
		}
		if p.Reading != c.reading || p.NotRead != c.notRead || ask != c.ask {
			t.Errorf("%s: %+v with %d unread and %d asked, want %+v, %d, %d; evidence %q", name, p.Reading, p.NotRead, ask, c.reading, c.notRead, c.ask, p.Evidence)
		}
		if err := p.Reading.Check(); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// An answer to the question reads every row that was asked about.
func TestAsk(t *testing.T) {
	p := Propose(column("4/10/2031", "3/2/2031", "5/5/2031"))
	if p.Ask == nil || len(p.Ask.Choices) != 2 || p.Ask.Choices[0].Rows != 3 || p.Ask.Choices[1].Reading.Order != MonthFirst {
		t.Fatalf("%+v", p.Ask)
	}
	day, _ := p.Ask.Choices[0].Reading.Reader()("4/10/2031")
	month, _ := p.Ask.Choices[1].Reading.Reader()("4/10/2031")
	if p.Reading.Write(day) != "2031-10-04" || p.Reading.Write(month) != "2031-04-10" {
		t.Errorf("%s and %s", p.Reading.Write(day), p.Reading.Write(month))
	}
}

// What is written for storing reads back the same; what no reading is, is refused.
func TestStored(t *testing.T) {
	for _, r := range []Reading{{}, Plain(Text), Plain(Number), {Kind: Number, Decimal: ",", Group: " ", Unit: "°F", Whole: true},
		{Kind: Date, Order: DayFirst, Years: 1950}, {Kind: List, Separator: " / "}} {
		if back, err := Parse(r.String()); err != nil || back != r {
			t.Errorf("%q reads back as %+v: %v", r.String(), back, err)
		}
	}
	for _, s := range []string{`{`, `{"kind":"colour"}`, `{"kind":"number"}`, `{"kind":"number","decimal":",","group":","}`, `{"kind":"text","unit":"kg"}`,
		`{"kind":"date","order":"myd"}`, `{"kind":"date","years":31}`, `{"kind":"code","order":"dmy"}`, `{"kind":"list","separator":"123456789"}`, `{"kind":"date","zone":1}`} {
		if r, err := Parse(s); err == nil {
			t.Errorf("%s is taken for %+v", s, r)
		}
	}
}

// Numbers that are written by the standard library are read as they were, and every
// proposal is one its own Check lets pass.
func TestNumbers(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	read := Plain(Number).Reader()
	for range 20_000 {
		want := math.Round(r.NormFloat64()*math.Pow10(r.IntN(12))*1000) / 1000
		for _, form := range []byte{'f', 'e'} {
			s := strconv.FormatFloat(want, form, -1, 64)
			if at, ok := read(s); !ok || at != want {
				t.Fatalf("%s is read as %v, %v", s, at, ok)
			}
		}
	}
	for _, s := range []string{"", "-", ".", "1.", "1,23", "1,2345", "12,34.5", "--1", "(-1)", "1e", "1e999", "12 kg", "0x10", "NaN", "Inf", "1 2", "1.2.3", strings.Repeat("9", 100)} {
		if at, ok := read(s); ok {
			t.Errorf("%q is read as %v", s, at)
		}
	}
}

// Day numbers from the proleptic Gregorian calendar of ISO 8601; 2000-02-29 is 11016 days
// after 1970-01-01.
func TestDays(t *testing.T) {
	read := Plain(Date).Reader()
	for v, want := range map[string]float64{"1970-01-01": 0, "2000-02-29": 11016, "29 Feb 2000": 11016, "February 29, 2000": 11016, "Feb 29 2000": 11016,
		"29th of February, 2000": 11016, "2000-02-29T10:00:00Z": 11016 + 10./24, "2000-02-29T01:00:00+02:00": 11016 - 1./24, "1969-12-31": -1, "20000229": 11016,
		"29.2.2000": 11016, "2/29/2000": 11016, "Tue, 29 Feb 2000 12:00:00 GMT": 11016.5, "29/02/2000 12:30 am": 11016 + 0.5/24} {
		if got, ok := read(v); !ok || got != want {
			t.Errorf("%q is read as %v, %v, want %v", v, got, ok, want)
		}
	}
	for _, v := range []string{"", "4/10/2031", "2031-13-01", "30 Feb 2031", "2031", "soon, 2031", "1-2-3", "10.0.0.1", "4/10-2031", "2031-10-04 25:00", "4 Smarch 2031", "29 Feb 31", "2031-10"} {
		if got, ok := read(v); ok {
			t.Errorf("%q is read as %v", v, got)
		}
	}
}

// No value makes a reader or a proposal fail.
func FuzzPropose(f *testing.F) {
	for _, s := range []string{"4/10/2031", "1.234,50 €", "(12)", "[1,[2]]", "54°19'30\"N 10°08'24\"E", "2031-10-04T05:30:00+02:00", "+44 20 7946 0018", "１２", "\xff"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		p := Propose(column(s, s+"1", "7"))
		if err := p.Reading.Check(); err != nil {
			t.Fatal(err)
		}
		for _, k := range Kinds {
			r := Plain(k)
			if at, ok := r.Reader()(s); ok && r.Measures() {
				if again, ok := r.Reader()(r.Write(at)); ok && k == Number && again != at {
					t.Fatalf("%q is %v, written and read again %v", s, at, again)
				}
				if !utf8.ValidString(r.Write(at)) {
					t.Fatal(r.Write(at))
				}
			}
		}
	})
}
