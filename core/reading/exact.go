package reading

import (
	"strings"

	"github.com/shopspring/decimal"
)

// maxExponent bounds the powers of ten of exact numbers, so that no sum of them is longer than
// a few hundred digits.
const maxExponent = 200

// Exact reads a value under a reading of numbers as a decimal, without rounding; false where it
// does not read. Cost: O(bytes).
func (r Reading) Exact(v string) (decimal.Decimal, bool) {
	if _, ok := r.number(v); !ok {
		return decimal.Decimal{}, false
	}
	p, ok := splitNumber(v)
	if !ok {
		return decimal.Decimal{}, false
	}
	plain, ok := r.plain(p.core)
	if !ok {
		return decimal.Decimal{}, false
	}
	out, err := decimal.NewFromString(plain)
	if err != nil || out.Exponent() > maxExponent || out.Exponent() < -maxExponent {
		return decimal.Decimal{}, false
	}
	if p.negative {
		out = out.Neg()
	}
	return out, true
}

// Written writes digits with a decimal point as the values of a column of numbers are written: with
// their decimal mark, and with the unit that like, one of them, has.
func (r Reading) Written(plain, like string) string {
	out := plain
	if r.Decimal == "," {
		out = strings.Replace(out, ".", ",", 1)
	}
	p, ok := splitNumber(like)
	if !ok || p.unit == "" {
		return out
	}
	like = strings.TrimSpace(like)
	after, before := strings.CutPrefix(strings.TrimLeft(like, "-−+( "), p.unit)
	switch {
	case before:
		unit := p.unit
		if strings.HasPrefix(after, " ") {
			unit += " "
		}
		if rest, negative := strings.CutPrefix(out, "-"); negative {
			return "-" + unit + rest
		}
		return unit + out
	case p.tight:
		return out + p.unit
	}
	return out + " " + p.unit
}
