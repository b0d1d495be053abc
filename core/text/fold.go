// Package text compares spellings: folding away what does not make another word,
// cutting into words, and saying in words how two spellings differ.
//
// Unicode rules come from golang.org/x/text and the standard library: normalisation
// forms (UAX #15), full case folding (CaseFolding.txt), general categories (UAX #44).
package text

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Fold gives the key under which spellings of one value meet: letter case, spacing,
// punctuation, accents and invisible characters are removed. What tells values apart
// stays: digits and what separates two digits, a minus before a digit, and symbols
// (& + # % @ * and the Unicode symbol categories).
//
// A value with nothing but punctuation folds to itself, so "-" and "?" stay apart. A
// value of white space alone folds to "". Cost: one pass over ASCII, about three over
// other text.
func Fold(s string) string {
	if key, ok := foldPlain(s, false); ok {
		return key
	}
	return squeeze(plain(s), false)
}

// foldPlain is Fold for ASCII without separators beside digits, which is most of what
// there is: letters go to lower case, separators go, or become one space where words
// are asked for.
func foldPlain(s string, words bool) (string, bool) {
	out := make([]byte, 0, 64)
	digit, gap := false, false
	for i := 0; i < len(s); i++ {
		c := s[i]
		switch {
		case 'a' <= c && c <= 'z', '0' <= c && c <= '9':
		case 'A' <= c && c <= 'Z':
			c += 'a' - 'A'
		case c == '-' && (gap || len(out) == 0): // it may be a minus
			return "", false
		case c == ' ', c == '-', c == ',', c == '.', c == '\'', c == '"', c == '/', c == '_', c == '(', c == ')', c == ':':
			gap = true
			continue
		default:
			return "", false
		}
		isDigit := c <= '9'
		if gap && digit && isDigit {
			return "", false
		}
		if gap && words && len(out) > 0 {
			out = append(out, ' ')
		}
		digit, gap = isDigit, false
		out = append(out, c)
	}
	if len(out) == 0 {
		return "", false
	}
	return string(out), true
}

// WordKey gives the key under which spellings meet whatever the order and repetition
// of their words ("Last, First"). Words are what separators and punctuation cut.
func WordKey(s string) string {
	words := Words(s)
	if len(words) == 1 {
		return words[0]
	}
	slices.Sort(words)
	return strings.Join(slices.Compact(words), " ")
}

// Words gives the folded words of a spelling in order.
func Words(s string) []string {
	if words, ok := foldPlain(s, true); ok {
		return strings.Fields(words)
	}
	return strings.Fields(squeeze(plain(s), true))
}

// squeeze drops separators between letters, or turns them into one space where words
// are asked for; between two digits it keeps them (spaces beside other marks dropped).
func squeeze(s string, words bool) string {
	var out strings.Builder
	out.Grow(len(s))
	run := -1 // where the pending run of separators began
	last := rune(0)
	for i, r := range s {
		next, _ := utf8.DecodeRuneInString(s[i+utf8.RuneLen(r):])
		if separates(r) && !(r == '-' && isDigit(next) && (last == 0 || run >= 0)) {
			if run < 0 {
				run = i
			}
			continue
		}
		if run >= 0 && last != 0 {
			between := strings.ReplaceAll(s[run:i], " ", "")
			switch {
			case isDigit(last) && isDigit(r) && between != "":
				out.WriteString(between)
			case isDigit(last) && isDigit(r), words:
				out.WriteByte(' ')
			}
		}
		run = -1
		out.WriteRune(r)
		last = r
	}
	if last == 0 {
		return strings.TrimSpace(s)
	}
	return out.String()
}

func isDigit(r rune) bool { return '0' <= r && r <= '9' || r > 127 && unicode.IsDigit(r) }

// separates tells punctuation and spaces from what carries meaning.
func separates(r rune) bool {
	if r < 128 {
		switch {
		case r == '&', r == '+', r == '#', r == '%', r == '@', r == '*', r == '$', r == '=', r == '<', r == '>',
			r == '|', r == '~', r == '^':
			return false
		}
		return !(isDigit(r) || 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z')
	}
	return unicode.IsPunct(r) || unicode.IsSpace(r) || unicode.IsControl(r)
}

// plain folds case, accents and invisible characters, and makes every space U+0020.
func plain(s string) string {
	for i := 0; i < len(s); i++ {
		if c := s[i]; c >= 128 || c < ' ' {
			return spaces(foldCase(dropAccents(dropInvisible(s))))
		}
	}
	return strings.ToLower(s)
}

func foldCase(s string) string { return cases.Fold().String(s) }

func spaces(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsSpace(r) {
			return ' '
		}
		return r
	}, s)
}

func dropInvisible(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Cf, r) || unicode.IsControl(r) && !unicode.IsSpace(r) {
			return -1
		}
		return r
	}, s)
}

// latin gives plain letters for the Latin letters that do not decompose; from the
// Latin-ASCII transform of the Unicode CLDR.
var latin = strings.NewReplacer("ø", "o", "Ø", "O", "ł", "l", "Ł", "L", "đ", "d", "Đ", "D", "ð", "d", "Ð", "D",
	"þ", "th", "Þ", "TH", "æ", "ae", "Æ", "AE", "œ", "oe", "Œ", "OE", "ı", "i", "ħ", "h", "Ħ", "H")

// dropAccents decomposes (NFKD), drops nonspacing marks over letters of scripts where
// a mark is an accent, and composes again. In other scripts (the vowel signs of
// Devanagari, the voicing marks of kana) a mark makes another letter and stays, as
// does the breve of Cyrillic short i.
func dropAccents(s string) string {
	var out []rune
	base := rune(0)
	for _, r := range norm.NFKD.String(s) {
		if !unicode.Is(unicode.Mn, r) {
			base = r
		} else if unicode.In(base, unicode.Latin, unicode.Greek, unicode.Cyrillic, unicode.Hebrew, unicode.Arabic) &&
			!(r == '\u0306' && (base == 'и' || base == 'И')) {
			continue
		}
		out = append(out, r)
	}
	return latin.Replace(norm.NFC.String(string(out)))
}

// Digits keeps the digits 0 to 9 of a text. Cost: O(length).
func Digits(s string) string {
	return strings.Map(func(c rune) rune {
		if '0' <= c && c <= '9' {
			return c
		}
		return -1
	}, s)
}
