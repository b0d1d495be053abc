package spelling

import (
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
