package formula

import (
	"fmt"
	"math"
	"strings"

	"grandledger/core/reading"
)

// unit is a unit of a quantity: what it measures, how many of the base unit it is, and where
// its zero lies. The factors are exact by definition (BIPM, The International System of Units,
// 9th edition; NIST Special Publication 811, appendix B).
type unit struct {
	of           string
	factor, zero float64
}

var unitTable = map[string]unit{
	"mg": {"mass", 1e-6, 0}, "g": {"mass", 1e-3, 0}, "kg": {"mass", 1, 0}, "t": {"mass", 1e3, 0}, "oz": {"mass", 0.028349523125, 0}, "lb": {"mass", 0.45359237, 0}, "st": {"mass", 6.35029318, 0},
	"mm": {"length", 1e-3, 0}, "cm": {"length", 1e-2, 0}, "m": {"length", 1, 0}, "km": {"length", 1e3, 0}, "in": {"length", 0.0254, 0}, "ft": {"length", 0.3048, 0}, "yd": {"length", 0.9144, 0},
	"mi": {"length", 1609.344, 0}, "nmi": {"length", 1852, 0}, "fathom": {"length", 1.8288, 0},
	"ml": {"volume", 1e-6, 0}, "l": {"volume", 1e-3, 0}, "L": {"volume", 1e-3, 0}, "hl": {"volume", 0.1, 0}, "m3": {"volume", 1, 0}, "m³": {"volume", 1, 0}, "gal": {"volume", 0.003785411784, 0},
	"m2": {"area", 1, 0}, "m²": {"area", 1, 0}, "ha": {"area", 1e4, 0}, "km2": {"area", 1e6, 0}, "ac": {"area", 4046.8564224, 0},
	"s": {"time", 1, 0}, "min": {"time", 60, 0}, "h": {"time", 3600, 0}, "d": {"time", 86400, 0},
	"kn": {"speed", 1852.0 / 3600, 0}, "km/h": {"speed", 1 / 3.6, 0}, "m/s": {"speed", 1, 0}, "mph": {"speed", 0.44704, 0},
	"K": {"temperature", 1, 0}, "°C": {"temperature", 1, 273.15}, "C": {"temperature", 1, 273.15}, "°F": {"temperature", 5.0 / 9, 459.67 * 5 / 9}, "F": {"temperature", 5.0 / 9, 459.67 * 5 / 9},
	"W": {"power", 1, 0}, "kW": {"power", 1e3, 0}, "MW": {"power", 1e6, 0}, "hp": {"power", 745.69987158227022, 0},
}

func convert3(p ...any) (any, error) {
	number, err := number1(p[0])
	if err != nil {
		return nil, err
	}
	var at float64
	switch v := number.(type) {
	case float64:
		at = v
	case int:
		at = float64(v)
	}
	var units [2]unit
	for i, name := range p[1:3] {
		text := strings.TrimSuffix(strings.TrimSpace(fmt.Sprint(name)), ".")
		u, ok := unitTable[text]
		if !ok {
			if u, ok = unitTable[strings.ToLower(text)]; !ok {
				return nil, fmt.Errorf("“%s” is no unit that is known", text)
			}
		}
		units[i] = u
	}
	if units[0].of != units[1].of {
		return nil, fmt.Errorf("a %s cannot become a %s", units[0].of, units[1].of)
	}
	out := (at*units[0].factor + units[0].zero - units[1].zero) / units[1].factor
	if units[0].zero != 0 || units[1].zero != 0 {
		out = math.Round(out*1e9) / 1e9 // the zeros cancel all but the last digits
	}
	return out, nil
}

func numberIn(p ...any) (any, error) {
	s := fmt.Sprint(blank(p[0]))
	if at, _, ok := reading.Quantity(s); ok {
		return at, nil
	}
	return nil, fmt.Errorf("“%s” is no number with a unit", s)
}

func unitIn(p ...any) (any, error) {
	s := fmt.Sprint(blank(p[0]))
	if _, unit, ok := reading.Quantity(s); ok {
		return unit, nil
	}
	return nil, fmt.Errorf("“%s” is no number with a unit", s)
}

func domain1(p ...any) (any, error) {
	s := fmt.Sprint(blank(p[0]))
	if at := strings.LastIndexByte(s, '@'); at > 0 && at < len(s)-1 {
		return strings.ToLower(s[at+1:]), nil
	}
	return nil, fmt.Errorf("“%s” is no e-mail address", s)
}
