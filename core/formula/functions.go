package formula

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"grandledger/core/reading"
	"grandledger/core/text"
)

// Function is a function of formulas beside those of the language.
type Function struct {
	Name    string `json:"name"`
	Does    string `json:"does"`
	Example string `json:"example"`
	Gives   string `json:"gives"` // what the example comes to

	call  func(params ...any) (any, error)
	types []any
}

// Functions lists what is there beside operators: our own functions, then the most useful of
// the language.
func Functions() []Function { return slices.Concat(functions, lookupFunctions, builtin) }

var functions = []Function{
	{"number", "reads a text as a number", `number("1,250.5")`, "1250.5", number1, []any{new(func(any) any)}},
	{"date", "reads a text as a date, the day first where it could be either", `date("4 Oct 2031")`, "2031-10-04", date1, []any{new(func(any) any)}},
	{"text", "writes a value as the cell would", `text(12.50)`, "12.5", text1, []any{new(func(any) string)}},
	{"fold", "drops case, spacing, punctuation and accents", `fold("Möwe II.")`, "moweii", fold1, []any{new(func(string) string)}},
	{"words", "the words of a text, folded", `words("Gill net, small")`, `["gill","net","small"]`, words1, []any{new(func(string) []string)}},
	{"days", "the days between two dates", `days(date("2031-10-01"), date("2031-10-04"))`, "3", days2, []any{new(func(any, any) any)}},
	{"numberIn", "the number of a text with a unit", `numberIn("56.4 °F")`, "56.4", numberIn, []any{new(func(any) any)}},
	{"unitIn", "the unit of such a text", `unitIn("1.2 t")`, "t", unitIn, []any{new(func(any) string)}},
	{"convert", "from one unit to another of the same quantity", `convert(2, "t", "kg")`, "2000", convert3, []any{new(func(any, any, any) any)}},
	{"domain", "the domain of an e-mail address", `domain("ana@Tern.example")`, "tern.example", domain1, []any{new(func(any) string)}},
	{"weekday", "the day of the week of a date", `weekday(date("2031-10-04"))`, "Saturday", weekday1, []any{new(func(any) any)}},
	{"monthOf", "the number of the month of a date", `monthOf(date("2031-10-04"))`, "10", month1, []any{new(func(any) any)}},
	{"age", "whole years from one date to another", `age(date("1990-05-02"), date("2031-05-01"))`, "40", age2, []any{new(func(any, any) any)}},
	{"personPart", "title, given, particle, family or suffix of a name", `personPart("Larsen, Ana Maria", "family")`, "Larsen", personPart, []any{new(func(any, string) any)}},
	{"addressPart", "number, street, postcode or town of an address", `addressPart("12 Harbour Road, Port Kestrel, PK3 4AB", "postcode")`, "PK3 4AB", addressPart, []any{new(func(any, string) any)}},
	{"telephone", "a telephone number as E.164 writes it; the country is of numbers without one", `telephone("020 7946 0018", "GB")`, "+442079460018", telephone2, []any{new(func(any, string) any)}},
	{"identifier", "an IBAN, LEI, ISNI, ISBN, ISSN, EAN, IMO or Luhn number without spaces, if its check digits are right", `identifier("gb82 west 1234 5698 7654 32", "IBAN")`, "GB82WEST12345698765432", identifier2, []any{new(func(any, string) any)}},
	{"coalesce", "the first that is not blank", `coalesce(nil, "", "x")`, "x", coalesce, nil},
}

// builtin are functions and operators of the language itself, shown with an example.
var builtin = []Function{
	{Name: "upper, lower, trim", Does: "letter case, and spaces at the ends", Example: `upper(trim(" tern "))`, Gives: "TERN"},
	{Name: "replace", Does: "replaces a text wherever it stands", Example: `replace("a-b", "-", "/")`, Gives: "a/b"},
	{Name: "split, join", Does: "cut a text into a list, and back", Example: `join(split("a,b", ","), "; ")`, Gives: "a; b"},
	{Name: "contains, startsWith, matches", Does: "tests of a text", Example: `"Gill net" contains "net"`, Gives: "true"},
	{Name: "? :", Does: "one or the other", Example: `12 > 10 ? "large" : "small"`, Gives: "large"},
	{Name: "round, floor, ceil, abs", Does: "numbers", Example: `round(2.5)`, Gives: "3"},
	{Name: "Year, Month, Day", Does: "parts of a date", Example: `date("2031-10-04").Year()`, Gives: "2031"},
	{Name: "[from:to]", Does: "a part of a text", Example: `"LK-0048"[3:]`, Gives: "0048"},
	{Name: "len, map, filter, sum", Does: "lists", Example: `sum(map([1, 2], # * 10))`, Gives: "30"},
}

func number1(p ...any) (any, error) {
	switch v := p[0].(type) {
	case float64, int:
		return v, nil
	case string:
		if at, ok := reading.Plain(reading.Number).Reader()(v); ok {
			return at, nil
		}
		return nil, fmt.Errorf("“%s” is no number", v)
	}
	return nil, fmt.Errorf("%v is no number", blank(p[0]))
}

func date1(p ...any) (any, error) {
	switch v := p[0].(type) {
	case time.Time:
		return v, nil
	case string:
		if at, ok := (reading.Reading{Kind: reading.Date, Order: reading.DayFirst}).Reader()(v); ok {
			return timeOf(at), nil
		}
		return nil, fmt.Errorf("“%s” is no date", v)
	}
	return nil, fmt.Errorf("%v is no date", blank(p[0]))
}

func blank(v any) any {
	if v == nil {
		return "a blank cell"
	}
	return v
}

func text1(p ...any) (any, error) { return write(p[0]) }

func fold1(p ...any) (any, error) { return text.Fold(p[0].(string)), nil }

func words1(p ...any) (any, error) { return text.Words(p[0].(string)), nil }

func days2(p ...any) (any, error) {
	from, err := date1(p[0])
	if err != nil {
		return nil, err
	}
	to, err := date1(p[1])
	if err != nil {
		return nil, err
	}
	return to.(time.Time).Sub(from.(time.Time)).Hours() / 24, nil
}

func coalesce(p ...any) (any, error) {
	for _, v := range p {
		if s, ok := v.(string); v != nil && (!ok || strings.TrimSpace(s) != "") {
			return v, nil
		}
	}
	return nil, nil
}

// list writes the items of a list as JSON.
func list(n int, at func(i int) any) (string, error) {
	items := make([]json.RawMessage, n)
	for i := range n {
		var raw []byte
		var err error
		switch v := at(i).(type) {
		case string, bool, nil:
			raw, err = json.Marshal(v)
		default:
			var text string
			if text, err = write(v); err == nil {
				raw = []byte(text)
				if !json.Valid(raw) {
					raw, err = json.Marshal(text)
				}
			}
		}
		if err != nil {
			return "", err
		}
		items[i] = raw
	}
	raw, err := json.Marshal(items)
	return string(raw), err
}
