package linkage

import (
	"math"
	"slices"
	"strings"

	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/core/text"
)

// wordsOf are the words of a text, by its kind: short forms are written out, titles of people left out, items of a list are one each.
func wordsOf(kind Kind, v string) []string {
	if kind == List {
		var out []string
		for _, item := range strings.FieldsFunc(v, func(c rune) bool {
			return c == ';' || c == '|' || c == ',' || c == '\n' || c == '[' || c == ']' || c == '"'
		}) {
			if item = strings.Join(text.Words(item), ""); item != "" {
				out = append(out, item)
			}
		}
		return out
	}
	words := text.Words(v)
	of, ok := map[Kind]spelling.Kind{Person: spelling.Person, Organisation: spelling.Organisation, Place: spelling.Place, Address: spelling.Address}[kind]
	if !ok {
		return words[:min(len(words), maxWords)]
	}
	out := words[:0]
	for _, w := range words {
		if kind == Person && len(words) > 2 && spelling.Title(w) {
			continue
		}
		out = append(out, spelling.Long(of, w))
	}
	return out[:min(len(out), maxWords)]
}

// maxWords is how many words of a text are looked at.
const maxWords = 60

// cutWords cuts texts into words and counts these.
func (a *attribute) cutWords() {
	known := table.NewDictBuilder()
	a.words = []word{}
	for i := range a.values {
		for w := range strings.FieldsSeq(a.values[i].text) {
			at := int32(known.Add(w)) - 1
			if int(at) == len(a.words) {
				a.words = append(a.words, word{text: w, letters: lettersOf(w)})
			}
			if !slices.Contains(a.values[i].words, at) {
				a.values[i].words = append(a.values[i].words, at)
				a.words[at].in++
			}
		}
	}
}

// saidElsewhere finds for each attribute the words that half of its records and more have in another attribute too, such as the city
// in the name of a firm: they say again what is compared there.
func (r *records) saidElsewhere() []map[int32]bool {
	out := make([]map[int32]bool, len(r.attributes))
	sample := r.sample(sampled)
	side(len(r.attributes), func(i int) {
		a := r.attributes[i]
		out[i] = map[int32]bool{}
		if a.Kind.class() != texts {
			return
		}
		total, also := make([]int32, len(a.words)), make([]int32, len(a.words))
		for _, rec := range sample {
			for _, w := range a.values[a.codes[rec]].words {
				total[w]++
				for j, other := range r.attributes {
					if j != i && other.Kind.class() == texts && other.has(rec, a.words[w].text) {
						also[w]++
						break
					}
				}
			}
		}
		for w := range total {
			if total[w] > 0 && 2*also[w] >= total[w] {
				out[i][int32(w)] = true
			}
		}
	})
	return out
}

// has says whether the value of a record has a word, or one that it is short for.
func (a *attribute) has(record uint32, w string) bool {
	for _, v := range a.values[a.codes[record]].words {
		if other := a.words[v].text; other == w || len(w) > 3 && other[0] == w[0] && wordLikeness(w, other) >= 0.7 {
			return true
		}
	}
	return false
}

// repeatWeighs is what a word weighs that is said elsewhere.
const repeatWeighs = 0.3

// weighWords gives each word its weight: the fewer values it stands in, the more.
func (a *attribute) weighWords(repeated map[int32]bool) {
	n := float64(len(a.values))
	a.rarity = make([]float32, len(a.words))
	for i, w := range a.words {
		a.rarity[i] = float32(math.Log2(1 + n/float64(w.in)))
		if repeated[int32(i)] {
			a.rarity[i] = -a.rarity[i]
		}
		a.first = append(a.first, w.text[0])
		a.number = append(a.number, numeral(w.text))
		a.letters = append(a.letters, w.letters)
	}
	a.ends = make([]uint32, 0, len(a.values))
	for i := range a.values {
		a.weighValue(&a.values[i])
		a.values[i].text = strings.ReplaceAll(a.values[i].text, " ", "")
	}
}

// numeral is not 0 for a word of digits alone, and for a Roman numeral behind which hardly another word hides.
func numeral(w string) uint64 {
	digits := strings.Trim(w, "0123456789") == ""
	roman := len(w) < 5 && strings.Trim(w, "ivx") == "" && w != "x"
	if !digits && !roman {
		return 0
	}
	return hashText(1, w)
}

// weighValue puts the words of a value and what they weigh behind those of the others.
func (a *attribute) weighValue(v *value) {
	sum, from := float32(0), len(a.flat)
	for _, w := range v.words {
		of := a.rarity[w]
		if of < 0 {
			if of = -of; len(v.words) > 1 {
				of *= repeatWeighs
			}
		}
		a.flat, a.weigh = append(a.flat, w), append(a.weigh, of)
		sum += of * of
	}
	scale := float32(1 / math.Sqrt(float64(sum)))
	for j := from; j < len(a.flat); j++ {
		a.weigh[j] *= scale
	}
	a.ends = append(a.ends, uint32(len(a.flat)))
}
