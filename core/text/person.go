package text

import "strings"

// Person is the name of a person cut into its parts.
type Person struct {
	Title    string // Dr, Capt
	Given    string
	Particle string // van der
	Family   string
	Suffix   string // Jr
}

// PersonOf cuts a name: "Family, Given" at its comma, and otherwise the last word, with the
// particles before it, is the family name. Two family names side by side cannot be told from
// two given names. (common practice)
func PersonOf(name string) Person {
	var p Person
	before, after, comma := strings.Cut(name, ",")
	words, rest := strings.Fields(before), strings.Fields(after)
	if comma && (len(rest) == 0 || suffixes[key(rest[0])]) {
		p.Suffix = strings.Join(rest, " ")
		comma = false
	}
	if comma {
		for len(rest) > 0 && titles[key(rest[0])] {
			p.Title, rest = join(p.Title, rest[0]), rest[1:]
		}
		for len(rest) > 1 && suffixes[key(rest[len(rest)-1])] {
			p.Suffix, rest = join(rest[len(rest)-1], p.Suffix), rest[:len(rest)-1]
		}
		for len(words) > 1 && particles[strings.ToLower(words[0])] {
			p.Particle, words = join(p.Particle, words[0]), words[1:]
		}
		for len(rest) > 1 && particles[strings.ToLower(rest[len(rest)-1])] { // Berg, Ana van der
			p.Particle, rest = join(rest[len(rest)-1], p.Particle), rest[:len(rest)-1]
		}
		p.Given, p.Family = strings.TrimRight(strings.Join(rest, " "), ","), strings.Join(words, " ")
		return p
	}
	for len(words) > 1 && titles[key(words[0])] {
		p.Title, words = join(p.Title, words[0]), words[1:]
	}
	for len(words) > 2 && suffixes[key(words[len(words)-1])] {
		p.Suffix, words = join(words[len(words)-1], p.Suffix), words[:len(words)-1]
	}
	if len(words) == 0 {
		return p
	}
	at := len(words) - 1
	p.Family = words[at]
	for at > 0 && particles[strings.ToLower(words[at-1])] {
		at--
		p.Particle = join(words[at], p.Particle)
	}
	if at == 0 && len(words) > 1 && p.Title == "" { // De Witt alone: a family name
		return p
	}
	p.Given = strings.Join(words[:at], " ")
	return p
}

func join(a, b string) string { return strings.TrimSpace(a + " " + b) }

// key is a word without its full stops, in small letters.
func key(word string) string {
	return strings.ToLower(strings.ReplaceAll(strings.TrimRight(word, ","), ".", ""))
}

func set(words string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(words) {
		out[w] = true
	}
	return out
}

var (
	particles = set("af al av bin da das de degli dei del della den der des di do dos du el ibn la le lo ten ter van vom von y zu zum zur")
	titles    = set("mr mrs ms miss mx dr prof professor sir dame lord lady rev capt captain herr frau dr-ing mme mlle m sr sra don doña señor señora")
	suffixes  = set("jr jnr junior sr snr senior i ii iii iv v vi phd md esq obe mbe")
)
