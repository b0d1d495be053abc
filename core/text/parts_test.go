package text

import "testing"

// Names as they are written in several countries. (common practice)
func TestPersonOf(t *testing.T) {
	for name, want := range map[string]Person{
		"Ana Larsen":                   {Given: "Ana", Family: "Larsen"},
		"Larsen, Ana Maria":            {Given: "Ana Maria", Family: "Larsen"},
		"Capt. Ana M. van der Berg Jr": {Title: "Capt.", Given: "Ana M.", Particle: "van der", Family: "Berg", Suffix: "Jr"},
		"van der Berg, Dr Ana":         {Title: "Dr", Given: "Ana", Particle: "van der", Family: "Berg"},
		"Berg, Ana van der":            {Given: "Ana", Particle: "van der", Family: "Berg"},
		"Ludwig von Thurn":             {Given: "Ludwig", Particle: "von", Family: "Thurn"},
		"John Smith, Jr.":              {Given: "John", Family: "Smith", Suffix: "Jr."},
		"Smith, John, III":             {Given: "John", Family: "Smith", Suffix: "III"},
		"Madonna":                      {Family: "Madonna"},
		"De Witt":                      {Particle: "De", Family: "Witt"},
		"Dr Larsen":                    {Title: "Dr", Family: "Larsen"},
		"  ":                           {},
		",":                            {},
	} {
		if got := PersonOf(name); got != want {
			t.Errorf("%q is %+v, want %+v", name, got, want)
		}
	}
}

// Addresses by the forms of the Universal Postal Union (from memory), all invented.
func TestAddressOf(t *testing.T) {
	for text, want := range map[string]Address{
		"12 Harbour Road, Port Kestrel, PK3 4AB": {"12", "Harbour Road", "PK3 4AB", "Port Kestrel"},
		"12a Harbour Road\nPort Kestrel PK3 4AB": {"12a", "Harbour Road", "PK3 4AB", "Port Kestrel"},
		"Hafenstraße 7b, 26506 Norden":           {"7b", "Hafenstraße", "26506", "Norden"},
		"Hafenstraße 7, D-26506 Norden":          {"7", "Hafenstraße", "D-26506", "Norden"},
		"Kade 3, 1234 AB Haven, Netherlands":     {"3", "Kade", "1234 AB", "Haven"},
		"The Old Quay, Gull Point 01234":         {"", "The Old Quay", "01234", "Gull Point"},
		"45 Pier Street; Skerry Bay; 12345-6789": {"45", "Pier Street", "12345-6789", "Skerry Bay"},
		"45 Pier Street, Skerry Bay":             {"45", "Pier Street", "", "Skerry Bay"},
		"ul. Morska 10/4, 81-002 Gdynia":         {"10/4", "ul. Morska", "81-002", "Gdynia"},
		"Fish Quay":                              {"", "", "", "Fish Quay"},
		"":                                       {},
	} {
		if got := AddressOf(text); got != want {
			t.Errorf("%q is %+v, want %+v", text, got, want)
		}
	}
}
