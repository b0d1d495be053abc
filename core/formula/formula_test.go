package formula

import (
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/core/table"
)

func cells(texts ...string) []*string {
	out := make([]*string, len(texts))
	for i := range texts {
		if texts[i] != "∅" {
			out[i] = &texts[i]
		}
	}
	return out
}

// landings is a table with a column of each reading.
func landings() *table.Table {
	return coretest.Build([]string{"weight_kg", "Price per kg", "landed", "iced", "gear", "catch"},
		[]string{"1,250.5", "2.40", "2031-10-04", "yes", "Gill net", `["Cod","Ling"]`}, []string{"30", "0.1", "4 Oct 2031", "no", "Pots", `[]`}, []string{"", "n/a", "", "", "", ""},
		[]string{"1", "3", "2031-01-01", "no", "x", `["Cod"]`}, []string{"2", "4", "2031-01-02", "no", "y", `["Cod"]`}, []string{"3", "5", "2031-01-03", "no", "z", `["Cod"]`},
		[]string{"4", "6", "2031-01-04", "no", "w", `["Cod"]`}, []string{"5", "7", "2031-01-05", "no", "v", `["Cod"]`}, []string{"6", "8", "2031-01-06", "no", "u", `["Cod"]`},
		[]string{"7", "9", "2031-01-07", "no", "t", `["Cod"]`})
}

// Formulas over the first row and over a blank one; arithmetic in fifteen digits.
func TestFormulas(t *testing.T) {
	tab := landings()
	row := map[string]string{"weight_kg": "1,250.5", "Price per kg": "2.40", "landed": "2031-10-04", "iced": "yes", "gear": "Gill net", "catch": `["Cod","Ling"]`}
	for _, c := range []struct{ formula, want, blank string }{
		{`weight_kg * Price_per_kg`, "3001.2", "!"},
		{`0.1 + 0.2`, "0.3", "0.3"},
		{`upper(gear) + "!"`, "GILL NET!", "!"},
		{`iced ? "iced" : "fresh"`, "iced", "!"},
		{`landed.Year()`, "2031", "!"},
		{`days(landed, date("10/10/2031"))`, "6", "!"},
		{`len(catch)`, "2", "0"},
		{`map(catch, upper(#))`, `["COD","LING"]`, "[]"},
		{`weight_kg == nil ? "no weight" : "weighed"`, "weighed", "no weight"},
		{`weight_kg ?? 0`, "1250.5", "0"},
		{`coalesce(gear, "unknown")`, "Gill net", "unknown"},
		{`gear contains "net" and not (gear matches "^x")`, "true", "false"},
		{`let t = weight_kg / 1000; t > 1 ? text(t) + " t" : "small"`, "1.2505 t", "!"},
		{`fold(gear) + join(words(gear), "_")`, "gillnetgill_net", ""},
		{`number("1,000") + 1`, "1001", "1001"},
		{`landed`, "2031-10-04", ""},
		{`date("x")`, "!", "!"},
		{`1 / 0`, "!", "!"},
		{`nil`, "", ""},
		{`gear[5:]`, "net", ""},
	} {
		f, err := Compile(c.formula, tab, nil)
		if err != nil {
			t.Errorf("%s: %v", c.formula, err)
			continue
		}
		evaluate := f.Evaluator()
		var full, blank []string
		for _, col := range f.Columns() {
			full, blank = append(full, row[col.Name]), append(blank, "")
		}
		for _, try := range []struct {
			of   []string
			want string
		}{{full, c.want}, {blank, c.blank}} {
			got, err := evaluate(cells(try.of...))
			if err != nil {
				got = "!"
			}
			if got != try.want && !(try.want == "!" && strings.HasPrefix(got, "!")) {
				t.Errorf("%s of %q is %q (%v), want %q", c.formula, try.of, got, err, try.want)
			}
		}
	}
}

// Columns may be called as functions are.
func TestColumnsCalledAsFunctions(t *testing.T) {
	tab := coretest.Build([]string{"date", "number", "lookup"}, []string{"2031-10-04", "12", "x"}, []string{"2031-10-05", "13", "y"})
	for formula, want := range map[string]string{
		`days(date("2031-10-01"), date) + number("1") + number`: "16",
		`lookup + text(number)`:                                 "x12",
	} {
		f, err := Compile(formula, tab, nil)
		if err != nil {
			t.Errorf("%s: %v", formula, err)
			continue
		}
		var of []string
		for _, c := range f.Columns() {
			v, _ := c.Value(0)
			of = append(of, v)
		}
		if got, err := f.Evaluator()(cells(of...)); err != nil || got != want {
			t.Errorf("%s is %q (%v), want %q", formula, got, err, want)
		}
	}
}

// What cannot be read says where; what would never end, or eat memory, fails; nothing of the
// machine can be reached.
func TestBadFormulas(t *testing.T) {
	tab := landings()
	for formula, says := range map[string]string{
		"":                               "empty",
		"weight_kg *":                    "cannot be read at character",
		"weigth_kg * 2":                  `at character 1: there is no column called "weigth_kg"`,
		"now()":                          "no column called",
		`repeat("x", 9)`:                 "no column called",
		`$env["gear"]`:                   `no column called "$env"`,
		`env("HOME")`:                    "no column called",
		strings.Repeat("1+", 2100) + "1": "longer than",
		strings.Repeat("(1+", 600) + "1" + strings.Repeat(")", 600): "cannot be read",
	} {
		if _, err := Compile(formula, tab, nil); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%.40s: %v", formula, err)
		}
	}
	for _, formula := range []string{`len(map(1..1000000, # * 2))`, `sum(map(1..9999, sum(map(1..9999, #))))`, `filter(1..100000000, true)`} {
		f, err := Compile(formula, tab, nil)
		if err != nil {
			t.Errorf("%s: %v", formula, err)
			continue
		}
		if got, err := f.Evaluator()(nil); err == nil {
			t.Errorf("%s is worked out: %.50s", formula, got)
		}
	}
}

// The examples of the functions come to what they say.
func TestExamples(t *testing.T) {
	for _, f := range slices.Concat(functions, builtin) {
		c, err := Compile(f.Example, landings(), nil)
		if err != nil {
			t.Errorf("%s: %v", f.Example, err)
			continue
		}
		if got, err := c.Evaluator()(nil); err != nil || got != f.Gives {
			t.Errorf("%s gives %q (%v), says %q", f.Example, got, err, f.Gives)
		}
	}
}

// Outside reference: NIST Special Publication 811, appendix B, and the fixed points of the
// temperature scales; from memory.
func TestUnits(t *testing.T) {
	gives(t, map[string]string{
		`convert(1, "lb", "kg")`: "0.45359237", `convert(1, "ft", "m")`: "0.3048", `convert(1, "mi", "km")`: "1.609344", `convert(1, "nmi", "m")`: "1852",
		`convert(212, "°F", "°C")`: "100", `convert(-40, "°C", "°F")`: "-40", `convert(0, "°C", "K")`: "273.15", `convert(1, "gal", "l")`: "3.785411784",
		`convert(1, "ac", "m²")`: "4046.8564224", `convert(1, "kn", "km/h")`: "1.852", `convert(1, "oz", "g")`: "28.349523125", `round(convert(1, "hp", "W") * 1000)`: "745700",
		`convert("12.5", "KG", "g")`: "12500", `convert(numberIn("1.2 t"), unitIn("1.2 t"), "kg")`: "1200", `numberIn("(1,250.50) kg")`: "!", `numberIn("-3 °C")`: "-3",
		`convert(1, "kg", "m")`: "!", `convert(1, "parsec", "m")`: "!", `convert("x", "kg", "g")`: "!", `domain("nobody")`: "!", `unitIn("many")`: "!",
	})
}

// gives works formulas out that name no column; ! is a failure.
func gives(t *testing.T, formulas map[string]string) {
	t.Helper()
	for formula, want := range formulas {
		f, err := Compile(formula, landings(), nil)
		if err != nil {
			t.Errorf("%s: %v", formula, err)
			continue
		}
		got, err := f.Evaluator()(nil)
		if err != nil {
			got = "!"
		}
		if got != want {
			t.Errorf("%s is %q (%v), want %q", formula, got, err, want)
		}
	}
}

// Names that are no single word, or words of the language, get one of their own.
func TestNames(t *testing.T) {
	got := Names(coretest.Build([]string{"Price per kg", "2031", "in", "größe", "Price-per kg", "number", ""}[:6]))
	if want := "Price_per_kg _2031 in_ größe Price_per_kg_2 number"; strings.Join(got, " ") != want {
		t.Error(got)
	}
}

// Look-ups by one key and by several, typed as the columns are read; what names no table or
// column says so.
func TestLookups(t *testing.T) {
	register := coretest.Build([]string{"name", "home port", "built", "no"},
		[]string{"Tern", "Skerry Bay", "1,998", "1"}, []string{"Gannet", "Gull Point", "2004", "2"}, []string{"Tern", "Port Kestrel", "2011", "3"}, []string{"", "Nowhere", "2000", "4"},
		[]string{"Auk", "", "2001", "5"}, []string{"Skua", "x", "2002", "6"}, []string{"Puffin", "x", "2003", "7"}, []string{"Fulmar", "x", "2005", "8"})
	tables := func(name string) (*table.Table, error) {
		if name != "Register" {
			return nil, problem.New("", "no table %q", name)
		}
		return register, nil
	}
	tab := coretest.Build([]string{"vessel", "year"}, []string{"Tern", "2011"}, []string{"Auk", "1998"}, []string{"Shag", ""})
	for _, c := range []struct {
		formula string
		of      []string
		want    string
	}{
		{`lookup("Register", "home port", "name", vessel)`, []string{"Tern"}, "Skerry Bay"},
		{`lookup("Register", "home_port", "name", vessel, "built", number(year))`, []string{"Tern", "2011"}, "Port Kestrel"},
		{`lookup("Register", "name", "built", 1998)`, nil, "Tern"},
		{`lookup("Register", "built", "name", vessel) + 1`, []string{"Tern"}, "1999"},
		{`lookup("Register", "home_port", "name", vessel) ?? "none"`, []string{"Auk"}, "none"},
		{`lookup("Register", "home_port", "name", vessel)`, []string{"Shag"}, ""},
		{`lookup("Register", "home_port", "name", vessel)`, []string{""}, ""},
		{`lookupAll("Register", "home_port", "name", vessel)`, []string{"Tern"}, `["Skerry Bay","Port Kestrel"]`},
		{`lookupAll("Register", "home_port", "name", vessel)`, []string{"Auk"}, `[]`},
		{`lookupCount("Register", "name", vessel)`, []string{"Tern"}, "2"},
		{`lookupCount("Register", "home_port", "x") + lookupCount("Register", "name", "Auk")`, nil, "4"},
		{`upper(lookup("Register", "home_port", "name", lookup("Register", "name", "no", 2)))`, nil, "GULL POINT"},
	} {
		f, err := Compile(c.formula, tab, tables)
		if err != nil {
			t.Errorf("%s: %v", c.formula, err)
			continue
		}
		if got, err := f.Evaluator()(cells(c.of...)); err != nil || got != c.want {
			t.Errorf("%s of %q is %q (%v), want %q", c.formula, c.of, got, err, c.want)
		}
	}
	for formula, says := range map[string]string{
		`lookup("Vessels", "a", "b", 1)`:                  `no table "Vessels"`,
		`lookup("Register", "port", "name", vessel)`:      `at character 1: the table "Register" has no column "port"`,
		`1 + lookup("Register", "name", "nam", vessel)`:   `at character 5: the table "Register" has no column "nam"`,
		`lookup("Register", "name", "name")`:              "has 3 arguments",
		`lookupCount("Register", "name")`:                 "has 2 arguments",
		`lookup(vessel, "name", "name", vessel)`:          "must stand in the formula itself",
		`lookup("Register", "name", "nam" + "e", vessel)`: "must stand in the formula itself",
	} {
		if _, err := Compile(formula, tab, tables); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", formula, err)
		}
	}
}

// What names, addresses, telephone numbers and identifiers are made of, and what is none.
func TestParts(t *testing.T) {
	gives(t, map[string]string{
		`personPart("Capt. Ana van der Berg Jr", "PARTICLE")`: "van der", `personPart("Ana", "given")`: "", `personPart("Ana", "shoe")`: "!", `personPart("", "given")`: "!",
		`addressPart("Hafenstraße 7, 26506 Norden", "town")`: "Norden", `addressPart(nil, "town")`: "!",
		`telephone("+44 20 7946 0018", "")`: "+442079460018", `telephone("(04931) 12345", "de")`: "+49493112345", `telephone("12345", "")`: "!", `telephone("no number", "GB")`: "!", `telephone("12", "GB")`: "!",
		`identifier("ISBN 0-306-40615-2", "isbn")`: "0306406152", `identifier("0-306-40615-3", "ISBN")`: "!", `identifier("https://orcid.org/0000-0002-1825-0097", "ISNI")`: "0000000218250097",
		`identifier("IMO 9074729", "IMO")`: "9074729", `identifier("x", "colour")`: "!", `identifier("x", "text")`: "!", `identifier(79927398713, "Luhn")`: "79927398713",
		`age(date("2000-02-29"), date("2001-02-28"))`: "0", `age(date("2000-02-29"), date("2001-03-01"))`: "1", `age("x", date("2001-03-01"))`: "!", `weekday("4 Oct 2031")`: "Saturday", `monthOf("")`: "!",
	})
}
