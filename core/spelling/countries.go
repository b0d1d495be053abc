package spelling

import (
	"strings"
	"sync"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"grandledger/core/text"
)

// country is what a folded name stands for: a region of ISO 3166-1, and the language the name was met in first.
type country struct{ region, language string }

// countries are the names of countries in all languages of the Unicode CLDR that golang.org/x/text carries, by their folded form.
// A name of two countries is none of either.
var countries = sync.OnceValue(func() map[string]country {
	var regions []language.Region
	for a := 'A'; a <= 'Z'; a++ {
		for b := 'A'; b <= 'Z'; b++ {
			if r, err := language.ParseRegion(string([]rune{a, b})); err == nil && r.IsCountry() && r.Canonicalize() == r {
				regions = append(regions, r)
			}
		}
	}
	out := map[string]country{}
	for _, tag := range display.Supported.Tags() {
		names := display.Regions(tag)
		if names == nil {
			continue
		}
		for _, r := range regions {
			key := text.Fold(names.Name(r))
			switch known, ok := out[key]; {
			case key == "" || len(key) < 3:
			case !ok:
				out[key] = country{r.String(), tag.String()}
			case known.region != r.String():
				out[key] = country{}
			}
		}
	}
	return out
})

// sameCountry ties names of one country in different languages.
func (l *ladder) sameCountry() {
	known := countries()
	of := make([]country, len(l.classes))
	l.together(func(i int) string {
		of[i] = known[text.Fold(l.classes[i].standard)]
		return of[i].region
	}, func(a, b int) {
		l.tie(a, b, Forms, 0, "names of one country ("+of[a].region+") in two languages ("+of[a].language+", "+of[b].language+")")
	})
}

// officialNames are short names of ISO 3166-1 in English that the CLDR writes otherwise, from memory.
var officialNames = map[string]string{"Russian Federation": "RU", "Korea, Republic of": "KR", "Republic of Korea": "KR", "Korea, Democratic People's Republic of": "KP",
	"Democratic People's Republic of Korea": "KP", "Iran, Islamic Republic of": "IR", "Moldova, Republic of": "MD", "Tanzania, United Republic of": "TZ",
	"Venezuela, Bolivarian Republic of": "VE", "Bolivia, Plurinational State of": "BO", "Syrian Arab Republic": "SY", "Lao People's Democratic Republic": "LA",
	"Viet Nam": "VN", "Brunei Darussalam": "BN", "Micronesia, Federated States of": "FM", "Palestine, State of": "PS", "Taiwan, Province of China": "TW",
	"Cabo Verde": "CV", "Holy See": "VA", "Congo, The Democratic Republic of the": "CD", "Democratic Republic of the Congo": "CD", "Republic of the Congo": "CG", "Congo": "CG",
	"Swaziland": "SZ", "Macedonia": "MK", "Burma": "MM", "Ivory Coast": "CI", "Czech Republic": "CZ", "Great Britain": "GB", "United States of America": "US", "USA": "US", "UK": "GB"}

// Country gives the code of ISO 3166-1 (two letters) of the country that a value names in any language, or is the code of;
// "" where it is none. An article before the name, what stands in brackets behind it and what kind of state it is do not matter.
func Country(v string) string {
	v = strings.TrimSpace(v)
	if r := countryCalled(v); r != "" {
		return r
	}
	if len(v) == 2 || len(v) == 3 {
		if r, err := language.ParseRegion(v); err == nil && r.IsCountry() && strings.ToUpper(v) == v {
			return r.Canonicalize().String()
		}
	}
	if before, _, ok := strings.Cut(v, " ("); ok {
		return Country(before)
	}
	if len(v) > 4 && strings.EqualFold(v[:4], "the ") {
		return Country(v[4:])
	}
	return ""
}

func countryCalled(v string) string {
	key := text.Fold(v)
	if r := official()[key]; r != "" {
		return r
	}
	return countries()[key].region
}

var official = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	for name, region := range officialNames {
		out[text.Fold(name)] = region
	}
	return out
})
