// Package reading says how the text of a column is understood: as numbers with their marks
// and unit, as dates in an order, as identifiers that carry a check digit. The text itself
// stays as it came; a value that does not read is counted and can be looked at.
//
// Propose finds the reading of a column from all of its values and says on what evidence.
package reading

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"grandledger/core/problem"
)

// Kind is what the values of a column are.
type Kind string

// The kinds of reading.
const (
	Text        Kind = "text"
	Code        Kind = "code" // identifiers: leading zeros and letters carry meaning
	Number      Kind = "number"
	Date        Kind = "date" // with a time of day or without
	YesNo       Kind = "yes/no"
	Email       Kind = "e-mail"
	Web         Kind = "web address"
	Telephone   Kind = "telephone"
	List        Kind = "list"
	Coordinates Kind = "coordinates"
	IBAN        Kind = "IBAN"
	LEI         Kind = "LEI"
	ISNI        Kind = "ISNI" // and ORCID, which are ISNIs
	ISBN        Kind = "ISBN"
	ISSN        Kind = "ISSN"
	EAN         Kind = "EAN" // of 8, 12, 13 or 14 digits
	Luhn        Kind = "Luhn number"
	IMO         Kind = "IMO number"
)

// Kinds lists all kinds, most telling first: the order in which they are proposed.
var Kinds = []Kind{Email, Web, IBAN, LEI, ISNI, ISBN, ISSN, IMO, EAN, Luhn, Coordinates, List, YesNo, Date, Telephone, Number, Code, Text}

// Reading is a kind with what it takes to read it. Two readings are the same where they are
// equal. The zero Reading is none: nobody has said how the column is read.
type Reading struct {
	Kind Kind `json:"kind"`

	// Of numbers.
	Whole   bool   `json:"whole,omitempty"`   // no fractions
	Decimal string `json:"decimal,omitempty"` // the decimal mark, "." or ","
	Group   string `json:"group,omitempty"`   // the mark between thousands: , . ' or a space
	Unit    string `json:"unit,omitempty"`    // unit, currency or % that may stand beside the number

	// Of dates.
	Order Order `json:"order,omitempty"` // of dates in figures alone; empty where nothing settles it
	Years int   `json:"years,omitempty"` // first of the hundred years that two-digit years lie in; 0 leaves them unread

	Separator string `json:"separator,omitempty"` // between the items of a list; empty for JSON
}

// Order is the order of day, month and year.
type Order string

// The orders of a date.
const (
	DayFirst   Order = "dmy"
	MonthFirst Order = "mdy"
	YearFirst  Order = "ymd"
)

// Plain are the usual readings of a kind, without anything to choose.
func Plain(k Kind) Reading {
	r := Reading{Kind: k}
	if k == Number {
		r.Decimal, r.Group = ".", ","
	}
	return r
}

// Declared says whether anybody has said how the column is read.
func (r Reading) Declared() bool { return r.Kind != "" }

// Check refuses a reading that cannot be, and says what to do.
func (r Reading) Check() error {
	known := false
	for _, k := range Kinds {
		known = known || k == r.Kind
	}
	bad := func(remedy, what string, args ...any) error { return problem.New(remedy, what, args...) }
	switch {
	case !known:
		return bad("Choose one of those listed", "there is no reading called %q", r.Kind)
	case r.Kind != Number && (r.Whole || r.Decimal != "" || r.Group != "" || r.Unit != ""):
		return bad("Read it as a number, or leave them out", "marks and units belong to numbers, not to %q", r.Kind)
	case r.Kind != Date && (r.Order != "" || r.Years != 0):
		return bad("Read it as a date, or leave them out", "an order and two-digit years belong to dates, not to %q", r.Kind)
	case r.Kind != List && r.Separator != "":
		return bad("Read it as a list, or leave it out", "a separator belongs to lists, not to %q", r.Kind)
	case r.Kind == Number && r.Decimal != "." && r.Decimal != ",":
		return bad("Use . or ,", "%q is no decimal mark", r.Decimal)
	case r.Kind == Number && !strings.Contains(",.' ", r.Group), len(r.Group) > 1:
		return bad("Use , . ' or a space, or none", "%q is no mark between thousands", r.Group)
	case r.Kind == Number && r.Group == r.Decimal:
		return bad("Choose two different marks", "%q cannot stand both between thousands and before decimals", r.Group)
	case len(r.Unit) > maxUnit:
		return bad("Make it shorter", "the unit is longer than %d bytes", maxUnit)
	case len(r.Separator) > 8:
		return bad("Use at most 8 characters", "the separator is longer than 8 bytes")
	case r.Order != "" && r.Order != DayFirst && r.Order != MonthFirst && r.Order != YearFirst:
		return bad("Use dmy, mdy or ymd", "there is no order of dates called %q", r.Order)
	case r.Years != 0 && (r.Years < 1000 || r.Years > 2900):
		return bad("Give the first of the hundred years, such as 1950", "two-digit years cannot begin in %d", r.Years)
	}
	return nil
}

// Words says how the column is read, as it stands behind "read as".
func (r Reading) Words() string {
	var more []string
	switch r.Kind {
	case "":
		return "text"
	case Number:
		name := "numbers"
		if r.Whole {
			name = "whole numbers"
		}
		if r.Unit != "" {
			more = append(more, r.Unit)
		}
		if r.Decimal == "," {
			more = append(more, "decimal comma")
		}
		if group, ok := map[string]string{".": "points", "'": "apostrophes", " ": "spaces"}[r.Group]; ok {
			more = append(more, group+" between thousands")
		}
		return strings.Join(append([]string{name}, more...), ", ")
	case Date:
		if r.Order != "" {
			more = append(more, map[Order]string{DayFirst: "day first", MonthFirst: "month first", YearFirst: "year first"}[r.Order])
		}
		if r.Years != 0 {
			more = append(more, fmt.Sprintf("two-digit years %d to %d", r.Years, r.Years+99))
		}
		return strings.Join(append([]string{"dates"}, more...), ", ")
	case List:
		if r.Separator == "" {
			return "lists"
		}
		return "lists, split by “" + r.Separator + "”"
	}
	return map[Kind]string{Text: "text", Code: "codes", YesNo: "yes or no", Email: "e-mail addresses", Web: "web addresses", Telephone: "telephone numbers",
		Coordinates: "coordinates", IBAN: "IBANs", LEI: "LEIs", ISNI: "ISNIs", ISBN: "ISBNs", ISSN: "ISSNs", EAN: "EANs", Luhn: "Luhn numbers", IMO: "IMO numbers"}[r.Kind]
}

// String writes a reading for storing; the zero reading is the empty string.
func (r Reading) String() string {
	if !r.Declared() {
		return ""
	}
	raw, err := json.Marshal(r)
	if err != nil {
		panic(err) // no field of a Reading can fail
	}
	return string(raw)
}

// Parse reads what String wrote.
func Parse(s string) (Reading, error) {
	var r Reading
	if s == "" {
		return r, nil
	}
	d := json.NewDecoder(bytes.NewReader([]byte(s)))
	d.DisallowUnknownFields()
	if err := d.Decode(&r); err != nil {
		return Reading{}, problem.New("", "the reading cannot be read: %v", err)
	}
	return r, r.Check()
}

// Measures says whether what is read lies on an axis: numbers, and dates as days since
// 1970-01-01 with the time of day as a fraction.
func (r Reading) Measures() bool { return r.Kind == Number || r.Kind == Date }

// Reader gives the function that reads values: whether a value is of the reading, and where
// it lies for a reading that measures, otherwise 1 for yes and 0. Blank values do not read.
// It serves profiles and order, never sums of money. Cost: O(bytes) a value.
func (r Reading) Reader() func(v string) (at float64, ok bool) {
	holds := func(is func(v string) bool) func(string) (float64, bool) {
		return func(v string) (float64, bool) { return 0, is(strings.TrimSpace(v)) }
	}
	switch r.Kind {
	case Number:
		return r.number
	case Date:
		return r.date
	case YesNo:
		return yesNo
	case Code:
		return holds(func(v string) bool { code, _ := codeLike(v); return code })
	case Email:
		return holds(isEmail)
	case Web:
		return holds(isWeb)
	case Telephone:
		return holds(isTelephone)
	case Coordinates:
		return holds(isCoordinates)
	case List:
		return holds(r.isList)
	case Text, "":
		return holds(func(v string) bool { return v != "" })
	}
	return holds(identifiers[r.Kind])
}

// Write says in one spelling what a value was understood as, from where it lies: numbers
// with a decimal point, dates as ISO 8601.
func (r Reading) Write(at float64) string {
	switch r.Kind {
	case Number:
		return strconv.FormatFloat(at, 'f', -1, 64)
	case Date:
		day := math.Floor(at)
		when := time.Unix(int64(day)*86400+int64(math.Round((at-day)*86400)), 0).UTC()
		if day == at {
			return when.Format(time.DateOnly)
		}
		return when.Format(time.DateTime)
	case YesNo:
		return map[float64]string{0: "no", 1: "yes"}[at]
	}
	return ""
}
