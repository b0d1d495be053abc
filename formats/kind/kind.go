// Package kind says as what a column can be written by formats that have types, so that
// its text comes back to the letter.
package kind

import (
	"encoding/json"
	"strconv"
	"strings"
	"time"

	"grandledger/core/table"
)

// Kind is how the values of a column are typed.
type Kind int

// The kinds. All but Text write blank cells as missing ones.
const (
	Text    Kind = iota
	Whole        // 64-bit whole numbers
	Decimal      // numbers of at most 18 digits that all have the same number of decimals
	Float        // numbers of at most 15 digits as they are written most shortly
	YesNo        // true and false
	Date         // 2031-10-04
	List         // JSON lists
)

// Of finds the kind of a column from the values that stand in the table, and for Decimal
// the decimals. Cost: O(distinct).
func Of(t *table.Table, c *table.Column) (k Kind, decimals int) {
	can := [List + 1]bool{Whole: true, Decimal: true, Float: true, YesNo: true, Date: true, List: true}
	decimals = -1
	any := false
	for code, rows := range t.Counts(c) {
		if code == int(table.Missing) || rows == 0 {
			continue
		}
		v := c.Dict.Value(uint32(code))
		if v == "" {
			continue
		}
		any = true
		can[Whole] = can[Whole] && whole(v)
		if can[Decimal] {
			d, ok := decimal(v)
			can[Decimal] = ok && (decimals < 0 || d == decimals)
			decimals = d
		}
		can[Float] = can[Float] && float(v)
		can[YesNo] = can[YesNo] && (v == "true" || v == "false")
		can[Date] = can[Date] && date(v)
		can[List] = can[List] && v[0] == '[' && json.Valid([]byte(v))
		if can == [List + 1]bool{} {
			return Text, 0
		}
	}
	for _, k := range []Kind{Whole, Decimal, Float, YesNo, Date, List} {
		if any && can[k] {
			if k != Decimal {
				decimals = 0
			}
			return k, decimals
		}
	}
	return Text, 0
}

func whole(v string) bool {
	if len(v) > 1 && (v[0] == '0' || v[0] == '-' && v[1] == '0') {
		return false
	}
	n, err := strconv.ParseInt(v, 10, 64)
	return err == nil && (v[0] == '-' || '0' <= v[0] && v[0] <= '9') && (n != 0 || v == "0")
}

func decimal(v string) (decimals int, ok bool) {
	digits := strings.TrimPrefix(v, "-")
	w, f, cut := strings.Cut(digits, ".")
	if !cut || w == "" || f == "" || len(w)+len(f) > 18 || len(w) > 1 && w[0] == '0' {
		return 0, false
	}
	for _, c := range w + f {
		if c < '0' || c > '9' {
			return 0, false
		}
	}
	// -0.00 would come back without its sign.
	return len(f), v[0] != '-' || strings.Trim(digits, "0.") != ""
}

func float(v string) bool {
	if len(v) > 17 {
		return false
	}
	digits := 0
	for i := range len(v) {
		switch c := v[i]; {
		case '0' <= c && c <= '9':
			digits++
		case c != '-' && c != '.':
			return false
		}
	}
	f, err := strconv.ParseFloat(v, 64)
	return err == nil && digits <= 15 && v != "-0" && strconv.FormatFloat(f, 'f', -1, 64) == v
}

func date(v string) bool {
	if len(v) != 10 || v[4] != '-' {
		return false
	}
	at, err := time.Parse(time.DateOnly, v)
	return err == nil && at.Year() >= 1
}
