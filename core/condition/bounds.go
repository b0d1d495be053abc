package condition

import (
	"errors"
	"math"

	"grandledger/core/table"
	"grandledger/core/text"
)

// bounds are the ends of a range, read as what both of them are.
type bounds struct {
	reading        table.Reading
	from, to       float64
	fromKey, toKey string
}

func (c *Condition) bounds() (b bounds, err error) {
	b = bounds{reading: table.ReadText, from: math.Inf(-1), to: math.Inf(1), fromKey: text.Fold(c.From), toKey: text.Fold(c.To)}
	kinds := map[table.Reading]bool{}
	for _, end := range []struct {
		text string
		into *float64
	}{{c.From, &b.from}, {c.To, &b.to}} {
		if end.text == "" {
			continue
		}
		if n, ok := table.ParseNumber(end.text); ok {
			*end.into = n
			kinds[table.ReadNumber] = true
		} else if day, ok := table.ParseDate(end.text); ok {
			*end.into = float64(day)
			kinds[table.ReadDate] = true
		} else {
			kinds[table.ReadText] = true
		}
	}
	if len(kinds) > 1 {
		return b, errors.New("the ends of the range are of two kinds")
	}
	for reading := range kinds {
		b.reading = reading
	}
	return b, nil
}

// holds says whether a value lies within; values of another reading do not.
func (b *bounds) holds(f *table.Facts, code int, v string) bool {
	switch b.reading {
	case table.ReadNumber:
		return f.Traits[code]&table.IsNumber != 0 && b.from <= f.Number[code] && f.Number[code] <= b.to
	case table.ReadDate:
		day := float64(f.Day[code])
		return f.Traits[code]&table.IsDate != 0 && b.from <= day && day <= b.to
	}
	key := text.Fold(v)
	return key != "" && b.fromKey <= key && (b.toKey == "" || key <= b.toKey)
}
