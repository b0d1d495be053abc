package spelling

import (
	"slices"
	"strconv"
	"strings"

	"grandledger/core/text"
)

// Kind is what the values of a column are, which decides the short forms that are known.
type Kind string

// The kinds of column.
const (
	Free         Kind = "free"
	Person       Kind = "person"
	Organisation Kind = "organisation"
	Place        Kind = "place"
	Address      Kind = "address"
	Product      Kind = "product"
)

// Kinds lists the kinds.
var Kinds = []Kind{Free, Person, Organisation, Place, Address, Product}

// pairs reads "short long" pairs, split by commas.
func pairs(lists ...string) map[string]string {
	out := map[string]string{}
	for _, list := range lists {
		for _, pair := range strings.Split(list, ",") {
			short, long, _ := strings.Cut(strings.TrimSpace(pair), " ")
			out[short] = long
		}
	}
	return out
}

// Short forms that are common practice in English, by folded word; & stands for and everywhere.
const (
	everywhere    = "& and, dept department, intl international, natl national, assn association, assoc association, govt government, univ university, inst institute, mfg manufacturing, mgmt management, no number, nr number, approx approximately, misc miscellaneous"
	legalForms    = "ltd limited, inc incorporated, corp corporation, co company, cie company, bros brothers, plc publiclimitedcompany, llc limitedliabilitycompany, gmbh gesellschaftmitbeschränkterhaftung"
	streetForms   = "st street, str street, rd road, ave avenue, av avenue, ln lane, dr drive, sq square, ct court, pl place, blvd boulevard, hwy highway, pkwy parkway, ter terrace, apt apartment, bldg building, fl floor, rm room, ste suite"
	placeForms    = "st saint, ste sainte, mt mount, mtn mountain, ft fort, is island, isl island, isle island, pt point, hbr harbour, harbor harbour, rep republic, dem democratic, fed federation"
	personTitles  = "mr, mrs, ms, miss, dr, prof, professor, doctor, capt, captain, sir, rev, hon, esq"
	nicknameForms = "bill william, billy william, will william, bob robert, rob robert, bobby robert, dick richard, rick richard, rich richard, jim james, jimmy james, joe joseph, tom thomas, tommy thomas, mike michael, mick michael, dave david, ted edward, ed edward, eddie edward, harry henry, hank henry, jack john, johnny john, charlie charles, chuck charles, fred frederick, greg gregory, ken kenneth, larry lawrence, matt matthew, nick nicholas, pat patrick, pete peter, phil philip, ray raymond, ron ronald, sam samuel, steve stephen, steven stephen, tony anthony, vic victor, walt walter, liz elizabeth, beth elizabeth, betty elizabeth, kate katherine, katie katherine, kathy katherine, cathy catherine, maggie margaret, peggy margaret, meg margaret, sue susan, suzy susan, jenny jennifer, jen jennifer, nancy anne, abby abigail, becky rebecca, deb deborah, debbie deborah, pam pamela, sandy sandra, vicky victoria, tina christina, chris christopher, alex alexander, andy andrew, ben benjamin, dan daniel, danny daniel, don donald, doug douglas, gene eugene, jeff jeffrey, jerry gerald, len leonard, leo leonard, max maximilian, mitch mitchell, tim timothy, wes wesley"
	numberWords   = "zero 0, one 1, two 2, three 3, four 4, five 5, six 6, seven 7, eight 8, nine 9, ten 10, eleven 11, twelve 12, first 1st, second 2nd, third 3rd, fourth 4th, fifth 5th, sixth 6th, seventh 7th, eighth 8th, ninth 9th, tenth 10th"
)

// shortForms are the words that stand for others, by kind.
var shortForms = map[Kind]map[string]string{
	Free:         pairs(everywhere, numberWords, "ltd limited, inc incorporated, corp corporation, bros brothers"),
	Person:       pairs("& and", nicknameForms),
	Organisation: pairs(everywhere, numberWords, legalForms),
	Place:        pairs(everywhere, numberWords, placeForms),
	Address:      pairs(everywhere, numberWords, streetForms),
	Product:      pairs(everywhere, numberWords),
}

var titles = func() map[string]bool {
	out := map[string]bool{}
	for _, t := range strings.Split(personTitles, ", ") {
		out[t] = true
	}
	return out
}()

// romans are the roman numerals that are not words of their own.
var romans = func() map[string]int {
	out := map[string]int{}
	tens, ones := []string{"", "x", "xx", "xxx"}, []string{"", "i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix"}
	for t, ten := range tens {
		for o, one := range ones {
			if len(ten+one) > 1 {
				out[ten+one] = 10*t + o
			}
		}
	}
	delete(out, "xi") // also a name
	return out
}()

// formed gives the words of a value in the form that short and long forms share: in any order, each
// once. The steward's own short forms, of words and of whole values, come before those that are shipped.
func (l *ladder) formed(v string) []string {
	kind, short := l.kind, shortForms[l.kind]
	words := text.Words(v)
	var own []string
	if long, ok := l.own[strings.Join(words, " ")]; ok {
		words = text.Words(long)
	}
	for _, w := range words {
		if long, ok := l.own[w]; ok {
			own = append(own, text.Words(long)...)
		} else {
			own = append(own, w)
		}
	}
	words = own
	var out []string
	for i, w := range words {
		if kind == Person && titles[w] && len(words) > 2 {
			continue
		}
		if long, ok := short[w]; ok {
			w = long
		}
		if n, ok := romans[w]; ok && i > 0 {
			w = strconv.Itoa(n)
		}
		if kind != Person && kind != Address { // in addresses both are in use
			w = singular(w)
		}
		out = append(out, w)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// singular takes the ending of an English plural off a word.
func singular(w string) string {
	n := len(w)
	switch {
	case n < 4 || w[n-1] != 's' || w[n-2] == 's' || w[n-2] == 'u' || w[n-2] == 'i':
		return w
	case strings.HasSuffix(w, "ies") && n > 4:
		return w[:n-3] + "y"
	case strings.HasSuffix(w, "xes"), strings.HasSuffix(w, "ches"), strings.HasSuffix(w, "shes"), strings.HasSuffix(w, "sses"):
		return w[:n-2]
	}
	return w[:n-1]
}

// initials are the first letters of the words of a value of two or more, with and without the small
// words; none where a word begins with a digit.
func initials(v string) []string {
	words := text.Words(v)
	if len(words) < 2 {
		return nil
	}
	var all, main []byte
	for _, w := range words {
		if w[0] < 'a' || w[0] > 'z' {
			if w == "&" {
				continue
			}
			return nil
		}
		all = append(all, w[0])
		if !slices.Contains([]string{"and", "of", "the", "for", "de", "du", "la", "und", "et"}, w) {
			main = append(main, w[0])
		}
	}
	out := []string{string(all)}
	if len(main) > 1 && len(main) != len(all) {
		out = append(out, string(main))
	}
	return out
}

// acronym says whether a value can stand for the initials of others: two to six capitals, with stops
// or not.
func acronym(v string) (string, bool) {
	var out []byte
	for _, c := range strings.TrimSpace(v) {
		switch {
		case 'A' <= c && c <= 'Z':
			out = append(out, byte(c)+'a'-'A')
		case c == '.' || c == ' ' || c == '&' || c == '-':
		default:
			return "", false
		}
	}
	return string(out), len(out) >= 2 && len(out) <= 6
}

// Long is the word that another is short for, of a kind of column; that itself where it is none.
func Long(kind Kind, word string) string {
	if long, ok := shortForms[kind][word]; ok {
		return long
	}
	return word
}

// Title says whether a folded word is a title of people.
func Title(word string) bool { return titles[word] }
