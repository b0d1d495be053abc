package tidy

import (
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"
	"unsafe"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
	"golang.org/x/text/unicode/norm"

	"grandledger/core/problem"
	"grandledger/core/text"
)

func trim(v string) string {
	if n := len(v); n > 0 && ' ' < v[0] && v[0] < utf8.RuneSelf && ' ' < v[n-1] && v[n-1] < utf8.RuneSelf {
		return v
	}
	return strings.TrimFunc(v, unicode.IsSpace)
}

func collapse(v string) string {
	if isPlain(v) && !strings.Contains(v, "  ") {
		return v
	}
	return text.Collapse(v)
}

// plainMarks makes look-alike marks plain.
func plainMarks(v string) string {
	if isPlain(v) && strings.IndexByte(v, '`') < 0 {
		return v
	}
	return punctuation.Replace(v)
}

// visible removes what is not printed: control and format characters (Unicode categories Cc
// and Cf: zero-width spaces and joiners, direction marks, the soft hyphen, the byte order
// mark). Joiners inside scripts that need them, and tabs and line ends, which become spaces,
// are kept apart.
func visible(v string) string {
	if isPlain(v) {
		return v
	}
	var last rune
	return strings.Map(func(r rune) rune {
		before := last
		last = r
		switch {
		case r == '\t' || r == '\n' || r == '\r' || r == '\v' || r == '\f' || r == '\u0085' || r == '\u2028' || r == '\u2029':
			return ' '
		case r == '\u200c' || r == '\u200d':
			// Joiners carry meaning in Arabic and Indic scripts and in emoji.
			if unicode.In(before, unicode.Arabic, unicode.Devanagari, unicode.Bengali, unicode.Malayalam, unicode.Sinhala) || unicode.Is(unicode.So, before) {
				return r
			}
			return -1
		case unicode.In(r, unicode.Cc, unicode.Cf):
			return -1
		}
		return r
	}, v)
}

// isPlain says that a value is printed ASCII throughout.
func isPlain(v string) bool {
	for i := range len(v) {
		if v[i] < ' ' || v[i] >= 0x7f {
			return false
		}
	}
	return true
}

// punctuation makes look-alike marks plain: quotes, dashes, spaces and full-width forms that
// are typed on no keyboard (Unicode general categories Pd, Pi, Pf, Zs).
var punctuation = strings.NewReplacer(
	"‘", "'", "’", "'", "‚", "'", "‛", "'", "ʼ", "'", "′", "'", "`", "'", "´", "'",
	"“", `"`, "”", `"`, "„", `"`, "‟", `"`, "″", `"`, "«", `"`, "»", `"`,
	"‐", "-", "‑", "-", "‒", "-", "–", "-", "—", "-", "―", "-", "−", "-", "﹘", "-", "－", "-",
	"\u00a0", " ", "\u2002", " ", "\u2003", " ", "\u2007", " ", "\u2009", " ", "\u200a", " ", "\u202f", " ", "\u3000", " ",
	"…", "...", "，", ",", "．", ".", "：", ":", "；", ";", "（", "(", "）", ")", "／", "/", "＆", "&", "•", "-", "·", "-",
)

func languageOf(name string) (language.Tag, error) {
	tag, err := language.Parse(name)
	if err != nil {
		return tag, problem.New("Give a language code such as tr or nl", "there is no language %q", name)
	}
	return tag, nil
}

// recase uses the full case mappings of Unicode (ß becomes SS), which the standard library
// lacks, where a value has other letters than ASCII or the language has rules of its own.
func recase(op Op, name string) func(string) string {
	tag, _ := languageOf(name) // Check read it
	from, full := byte('A'), cases.Lower
	if op == Upper {
		from, full = 'a', cases.Upper
	}
	caser := full(tag)
	var room []byte // values of ASCII are written one behind the other, not each in memory of its own
	return func(v string) string {
		if name != "" || !isPlain(v) {
			return caser.String(v)
		}
		for i := range len(v) {
			if v[i]-from < 26 {
				if len(v) > cap(room)-len(room) {
					room = make([]byte, 0, max(roomOfCase, len(v)))
				}
				at := len(room)
				room = append(room, v...)
				turned := room[at:]
				for ; i < len(turned); i++ {
					if turned[i]-from < 26 {
						turned[i] ^= 0x20
					}
				}
				return unsafe.String(&turned[0], len(turned))
			}
		}
		return v
	}
}

// roomOfCase is the memory taken at once for values in another case: little enough that a value which is kept does not keep
// much else.
const roomOfCase = 16 << 10

func sentence(v string) string {
	done := false
	return strings.Map(func(r rune) rune {
		if !done && unicode.IsLetter(r) {
			done = true
			return unicode.ToTitle(r)
		}
		return unicode.ToLower(r)
	}, v)
}

// particles stay small within a name or a title, but for the first word. (common practice)
var particles = map[string]bool{}

func init() {
	for _, w := range strings.Fields(`a af al an and av bin da das de degli dei del della delle den der des di do dos du e el en et i ibn
		in la las le les lo los ne of og och on or te ten ter the till ul und van von vom y zu zum zur`) {
		particles[w] = true
	}
}

var roman = regexp.MustCompile(`^(?i)(?:x{1,3}|x{0,3}(?:ix|iv|v?i{1,3}|v))$`)

// title gives every word a capital: particles stay small unless they come first, initials
// (J.R.) and roman numerals are capitals throughout, and a capital follows an apostrophe
// after one letter (O'Neill), a hyphen and Mc.
func title(name string) func(string) string {
	tag, _ := languageOf(name) // Check read it
	lower, upper := cases.Lower(tag), cases.Title(tag, cases.NoLower)
	return func(v string) string {
		var out strings.Builder
		first := true
		for _, word := range split(v) {
			small := lower.String(word)
			switch {
			case strings.TrimFunc(word, func(r rune) bool { return !unicode.IsLetter(r) }) == "":
				out.WriteString(word)
				continue
			case !first && particles[small]:
				out.WriteString(small)
			case roman.MatchString(small) && !first:
				out.WriteString(strings.ToUpper(small))
			case initials(small):
				out.WriteString(strings.ToUpper(small))
			default:
				out.WriteString(capitals(small, upper))
			}
			first = false
		}
		return out.String()
	}
}

// split cuts a text into words and what stands between them.
func split(v string) []string {
	var out []string
	begin, space := 0, false
	for i, r := range v {
		if is := unicode.IsSpace(r) || r == '/' || r == '('; is != space && i > begin {
			out = append(out, v[begin:i])
			begin = i
			space = is
		} else {
			space = is
		}
	}
	if begin < len(v) {
		out = append(out, v[begin:])
	}
	return out
}

// initials says whether a word is letters with a stop behind each: j.r. or t.
func initials(w string) bool {
	letters := 0
	for i, r := range w {
		if letter := unicode.IsLetter(r); letter != (i%2 == 0) || !letter && r != '.' || utf8.RuneLen(r) > 1 {
			return false
		} else if letter {
			letters++
		}
	}
	return letters > 0 && strings.HasSuffix(w, ".")
}

// capitals gives the parts of a word their capitals.
func capitals(w string, upper cases.Caser) string {
	var out strings.Builder
	begin := 0
	part := func(to int) {
		p := w[begin:to]
		if strings.HasPrefix(p, "mc") && len(p) > 3 {
			out.WriteString("Mc" + upper.String(p[2:]))
		} else {
			out.WriteString(upper.String(p))
		}
		begin = to
	}
	for i, r := range w {
		if r == '-' || (r == '\'' || r == '’') && utf8.RuneCountInString(w[begin:i]) == 1 {
			part(i)
			out.WriteRune(r)
			begin = i + utf8.RuneLen(r)
		}
	}
	part(len(w))
	return out.String()
}

// withoutAccents drops combining marks after canonical decomposition (UAX #15) and writes the
// letters that have a stroke or are two in one as plain ones.
func withoutAccents(v string) string {
	if isPlain(v) {
		return v
	}
	var out strings.Builder
	for _, r := range norm.NFD.String(v) {
		if unicode.Is(unicode.Mn, r) {
			continue
		}
		if plain, ok := plainLetters[r]; ok {
			out.WriteString(plain)
		} else {
			out.WriteRune(r)
		}
	}
	return norm.NFC.String(out.String())
}

var plainLetters = map[rune]string{'ø': "o", 'Ø': "O", 'æ': "ae", 'Æ': "AE", 'œ': "oe", 'Œ': "OE", 'ß': "ss", 'ẞ': "SS", 'ł': "l", 'Ł': "L", 'đ': "d", 'Đ': "D",
	'ð': "d", 'Ð': "D", 'þ': "th", 'Þ': "Th", 'ħ': "h", 'Ħ': "H", 'ı': "i", 'ŧ': "t", 'Ŧ': "T", 'ŋ': "n", 'Ŋ': "N"}

// The marks that copying a table leaves behind a word: [1], *, †, superscript figures.
var footnote = regexp.MustCompile(`(?:\s*(?:\[(?:\d{1,3}|[a-z]|note \d+|citation needed)\]|[*†‡§¹²³⁰⁴-⁹]+))+\s*$`)

func footnotes(v string) string {
	// Most values end in a letter or a digit, and then in no mark.
	end := strings.TrimRight(v, " \t")
	if end == "" || end[len(end)-1] < 0x80 && end[len(end)-1] != ']' && end[len(end)-1] != '*' {
		return v
	}
	// Nor do lists and other long things between brackets.
	if at := strings.LastIndexByte(end, '['); end[len(end)-1] == ']' && (at < 0 || len(end)-at > 20 || strings.ContainsAny(end[at:], `"{,`)) {
		return v
	}
	return footnote.ReplaceAllString(v, "")
}

var bracket = regexp.MustCompile(`\s*(?:\([^()]*\)|\[[^\[\]]*\]|\{[^{}]*\})\s*$`)

// brackets strips what stands between brackets at the end, unless it is all there is.
func brackets(v string) string {
	if short := bracket.ReplaceAllString(v, ""); strings.TrimSpace(short) != "" {
		return short
	}
	return v
}

func (s Step) replacing() func(string) string {
	if !s.Pattern && s.Case {
		if s.Whole {
			return func(v string) string {
				if v == s.Find {
					return s.With
				}
				return v
			}
		}
		return func(v string) string { return bounded(strings.ReplaceAll(v, s.Find, s.With), v) }
	}
	pattern := s.Find
	with := s.With
	if !s.Pattern {
		pattern, with = regexp.QuoteMeta(s.Find), strings.ReplaceAll(s.With, "$", "$$")
	}
	if s.Whole {
		pattern = `^(?:` + pattern + `)$`
	}
	if !s.Case {
		pattern = `(?i)` + pattern
	}
	re := regexp.MustCompile(pattern) // Check compiled what it is made of
	return func(v string) string {
		if !re.MatchString(v) {
			return v
		}
		return bounded(re.ReplaceAllString(v, with), v)
	}
}

// bounded keeps a value that would grow beyond all measure as it was.
func bounded(next, v string) string {
	if len(next) > maxValue && len(next) > len(v) {
		return v
	}
	return next
}

// cut gives what stands before the part, the part and what stands after it. A value in which
// a mark does not stand is a part as a whole for keep and none for cut.
func (s Step) cut(v string) (before, part, after string) {
	missing := func() (string, string, string) {
		if s.Op == Keep {
			return "", v, ""
		}
		return v, "", ""
	}
	switch s.Part {
	case Between:
		from := strings.Index(v, s.From)
		if from < 0 {
			return missing()
		}
		from += len(s.From)
		to := strings.Index(v[from:], s.To)
		if to < 0 {
			return missing()
		}
		return v[:from], v[from : from+to], v[from+to:]
	case Left:
		at := offset(v, s.Count)
		if s.To != "" {
			if at = strings.Index(v, s.To); at < 0 {
				return missing()
			}
		}
		return "", v[:at], v[at:]
	}
	at := offset(v, utf8.RuneCountInString(v)-s.Count)
	if s.From != "" {
		last := strings.LastIndex(v, s.From)
		if last < 0 {
			return missing()
		}
		at = last + len(s.From)
	}
	return v[:at], v[at:], ""
}

// offset is where so many characters of a value end.
func offset(v string, characters int) int {
	if characters <= 0 {
		return 0
	}
	for i := range v {
		if characters == 0 {
			return i
		}
		characters--
	}
	return len(v)
}

func (s Step) pad(v string) string {
	missing := s.Width - utf8.RuneCountInString(v)
	if missing <= 0 || v == "" {
		return v
	}
	if s.Right {
		return v + strings.Repeat(s.With, missing)
	}
	return strings.Repeat(s.With, missing) + v
}
