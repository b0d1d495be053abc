package spelling

import (
	"strings"
	"unicode/utf8"

	"grandledger/core/text"
)

// forms ties short forms to what they stand for.
func (l *ladder) forms() {
	if l.kind == Place {
		l.sameCountry()
	}
	l.together(func(i int) string { return strings.Join(l.formed(l.classes[i].standard), " ") },
		func(a, b int) { l.tie(a, b, Forms, 0, shortened(l.classes[a].words, l.classes[b].words)) })
	if l.kind == Person {
		return
	}
	// Initials stand for one thing or for none: where several could be meant nothing is guessed.
	stands := map[string][]int{}
	for i, cl := range l.classes {
		for _, letters := range initials(cl.standard) {
			stands[letters] = append(stands[letters], i)
		}
	}
	for i, cl := range l.classes {
		letters, ok := acronym(cl.standard)
		if !ok || len(cl.words) > 1 && len(strings.Join(cl.words, "")) != len(letters) {
			continue
		}
		if of := stands[letters]; len(of) == 1 && of[0] != i {
			l.tie(i, of[0], Forms, 1, "initials: “"+strings.ToUpper(letters)+"” for “"+l.classes[of[0]].standard+"”")
		}
	}
}

// shortened says which words of two values stand for one another.
func shortened(a, b []string) string {
	onlyA, onlyB := without(a, b), without(b, a)
	if len(onlyA) == 0 && len(onlyB) == 0 {
		return "the same words"
	}
	say := func(words []string) string { return "“" + strings.Join(words, " ") + "”" }
	switch {
	case len(onlyA) == 0:
		return "without " + say(onlyB)
	case len(onlyB) == 0:
		return "without " + say(onlyA)
	}
	return "another form: " + say(onlyB) + " for " + say(onlyA)
}

// slips ties values that are few edits apart.
func (l *ladder) slips() {
	folds := make([]string, len(l.classes))
	side(func(w, workers int) {
		for i := len(folds) * w / workers; i < len(folds)*(w+1)/workers; i++ {
			folds[i] = text.Fold(l.classes[i].standard)
		}
	})
	for _, n := range allPairs(folds) {
		l.slip(int(n.a), int(n.b), int(n.edits), folds)
	}
}

// slip ties two classes that are some edits apart, or holds them apart.
func (l *ladder) slip(a, b, edits int, folds []string) {
	if edits == 0 || first(folds[a]) != first(folds[b]) && edits == 1 && text.Slips(fewer(folds[a], folds[b])) < 2 {
		return // a slip in the first letter is rare, and counts for two
	}
	if why := l.two(a, b); why != "" {
		l.keepOut(a, b, why)
		return
	}
	why, likely := slipWords(folds[a], folds[b], edits)
	cost := 2 * edits
	if likely {
		cost--
	}
	l.tie(a, b, Slips, cost, why)
}

// fewer is the letters of the shorter of two values.
func fewer(a, b string) int { return min(utf8.RuneCountInString(a), utf8.RuneCountInString(b)) }

func first(v string) rune {
	for _, c := range v {
		return c
	}
	return 0
}

// Two values are two things, however alike, where both stand in many rows, or differ in words that others
// use too.
const (
	frequentRows  = 5 // rows from which a value is no slip of one that is less than fourfold
	frequentTimes = 4
	oftenUsed     = 20 // classes from which a word is so usual that one used once is a slip of it
	usedWords     = 3  // classes from which a word is no slip of another such
)

// two says why two classes that are written alike are two things; "" where nothing says so.
func (l *ladder) two(a, b int) string {
	x, y := l.classes[a], l.classes[b]
	onlyX, onlyY := without(x.words, y.words), without(y.words, x.words)
	oneEach := len(onlyX) == 1 && len(onlyY) == 1 && len(x.words) > 1
	why := heldApart(x.words, y.words)
	if why == shortWord && min(l.uses[onlyX[0]], l.uses[onlyY[0]]) == 1 && max(l.uses[onlyX[0]], l.uses[onlyY[0]]) >= oftenUsed {
		why = "" // a word used once beside one that is used very often
	}
	if why != "" {
		return why
	}
	if few := min(x.rows, y.rows); !x.right && !y.right && few >= frequentRows && few*frequentTimes > max(x.rows, y.rows) {
		return "both are written often"
	}
	if oneEach && l.uses[onlyX[0]] >= usedWords && l.uses[onlyY[0]] >= usedWords {
		return "“" + onlyX[0] + "” and “" + onlyY[0] + "” are both words that others use"
	}
	return ""
}

// soundsLike is the likeness of the letters that words of one sound must have besides.
const soundsLike = 0.84

// sound ties values that sound alike word for word, by two codes.
func (l *ladder) sound() {
	l.together(func(i int) string {
		words := l.classes[i].words
		if len(words) > 6 {
			return ""
		}
		var key []string
		letters := 0
		for _, w := range words {
			code := text.Soundex(w)
			if code == "" {
				return ""
			}
			letters += len(w)
			key = append(key, code)
		}
		if letters < 5 {
			return ""
		}
		return strings.Join(key, " ")
	}, func(a, b int) {
		x, y := l.classes[a].words, l.classes[b].words
		for i, w := range x {
			if w != y[i] && (text.Cologne(w) != text.Cologne(y[i]) || text.JaroWinkler(w, y[i]) < soundsLike) {
				return
			}
		}
		if why := l.two(a, b); why != "" {
			l.keepOut(a, b, why)
			return
		}
		l.tie(a, b, Sound, 0, "sounds the same")
	})
}
