package formula

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/nyaruka/phonenumbers"

	"grandledger/core/reading"
	"grandledger/core/text"
)

func weekday1(p ...any) (any, error) {
	return ofDate(p[0], func(d time.Time) any { return d.Weekday().String() })
}

func month1(p ...any) (any, error) {
	return ofDate(p[0], func(d time.Time) any { return int(d.Month()) })
}

func ofDate(v any, part func(time.Time) any) (any, error) {
	d, err := date1(v)
	if err != nil {
		return nil, err
	}
	return part(d.(time.Time)), nil
}

// age2 counts birthdays: one on 29 February is kept on 1 March of other years.
func age2(p ...any) (any, error) {
	born, err := date1(p[0])
	if err != nil {
		return nil, err
	}
	return ofDate(p[1], func(on time.Time) any {
		from := born.(time.Time)
		years := on.Year() - from.Year()
		if on.Before(time.Date(on.Year(), from.Month(), from.Day(), 0, 0, 0, 0, time.UTC)) {
			years--
		}
		return years
	})
}

// textOf is a value as text, which a blank cell has not.
func textOf(v any) (string, error) {
	s, err := write(v)
	if err != nil || strings.TrimSpace(s) == "" {
		return "", fmt.Errorf("%v is no text", blank(v))
	}
	return s, nil
}

// partOf gives a part by its name; a part that is not there is blank.
func partOf(parts map[string]string, name string) (any, error) {
	part, ok := parts[strings.ToLower(name)]
	if !ok {
		return nil, fmt.Errorf("there is no part called “%s”", name)
	}
	return part, nil
}

func personPart(p ...any) (any, error) {
	v, err := textOf(p[0])
	if err != nil {
		return nil, err
	}
	n := text.PersonOf(v)
	return partOf(map[string]string{"title": n.Title, "given": n.Given, "particle": n.Particle, "family": n.Family, "suffix": n.Suffix}, p[1].(string))
}

func addressPart(p ...any) (any, error) {
	v, err := textOf(p[0])
	if err != nil {
		return nil, err
	}
	a := text.AddressOf(v)
	return partOf(map[string]string{"number": a.Number, "street": a.Street, "postcode": a.Postcode, "town": a.Town}, p[1].(string))
}

func telephone2(p ...any) (any, error) {
	v, err := textOf(p[0])
	if err != nil {
		return nil, err
	}
	n, err := phonenumbers.Parse(v, strings.ToUpper(p[1].(string)))
	if err != nil {
		return nil, fmt.Errorf("“%s” is no telephone number: %w", v, err)
	}
	if !phonenumbers.IsPossibleNumber(n) {
		return nil, fmt.Errorf("“%s” has too few or too many digits for a telephone number", v)
	}
	return phonenumbers.Format(n, phonenumbers.E164), nil
}

func identifier2(p ...any) (any, error) {
	v, err := textOf(p[0])
	if err != nil {
		return nil, err
	}
	for _, k := range reading.Kinds {
		if !strings.EqualFold(strings.TrimSuffix(string(k), " number"), p[1].(string)) {
			continue
		}
		out, ok := reading.Bare(k, v)
		if !ok {
			return nil, fmt.Errorf("“%s” is no %s: its length, its characters or its check digits are wrong", v, k)
		}
		return out, nil
	}
	return nil, errors.New("there is no identifier called “" + p[1].(string) + "”")
}
