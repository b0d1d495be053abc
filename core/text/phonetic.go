package text

import "strings"

// soundexCodes are the codes of the letters a to z; 0 for vowels, which separate equal codes, and - for
// H and W, which do not.
const soundexCodes = "01230120022455012623010202"

// Soundex is the code of a word by the rules of the US National Archives, under which H and W do not
// separate letters of equal code. Only the letters a to z of the folded word count; "" for a word without
// any.
func Soundex(word string) string {
	var out []byte
	last := byte(0)
	for _, c := range []byte(Fold(word)) {
		if c < 'a' || c > 'z' {
			continue
		}
		code := soundexCodes[c-'a']
		switch {
		case len(out) == 0:
			out = append(out, c-'a'+'A')
		case c == 'h' || c == 'w':
			continue
		case code != '0' && code != last:
			out = append(out, code)
		}
		last = code
		if len(out) == 4 {
			break
		}
	}
	if len(out) == 0 {
		return ""
	}
	return string(out) + "000"[:4-len(out)]
}

// Cologne is the code of a word by the Cologne phonetics (H. J. Postel, IBM-Nachrichten 19, 1969), made for
// German names. Only letters count; "" for a word without any.
func Cologne(word string) string {
	// ß folds to ss and the umlauts to their vowels.
	letters := []byte(strings.Map(func(c rune) rune {
		if c < 'a' || c > 'z' {
			return -1
		}
		return c
	}, Fold(word)))
	at := func(i int) byte {
		if i < 0 || i >= len(letters) {
			return 0
		}
		return letters[i]
	}
	in := func(c byte, of string) bool { return c != 0 && strings.IndexByte(of, c) >= 0 }
	var codes []byte
	for i, c := range letters {
		before, after := at(i-1), at(i+1)
		switch {
		case in(c, "aeijouy"):
			codes = append(codes, '0')
		case c == 'h':
		case c == 'b', c == 'p' && after != 'h':
			codes = append(codes, '1')
		case (c == 'd' || c == 't') && !in(after, "csz"):
			codes = append(codes, '2')
		case in(c, "fvw"), c == 'p':
			codes = append(codes, '3')
		case in(c, "gkq"):
			codes = append(codes, '4')
		case c == 'c' && i == 0 && in(after, "ahkloqrux"), c == 'c' && i > 0 && in(after, "ahkoqux") && !in(before, "sz"):
			codes = append(codes, '4')
		case c == 'x' && !in(before, "ckq"):
			codes = append(codes, '4', '8')
		case c == 'l':
			codes = append(codes, '5')
		case c == 'm', c == 'n':
			codes = append(codes, '6')
		case c == 'r':
			codes = append(codes, '7')
		default: // s, z, c, x after c, k, q, and d, t before c, s, z
			codes = append(codes, '8')
		}
	}
	var out []byte
	for i, c := range codes {
		if i > 0 && codes[i-1] == c || c == '0' && i > 0 {
			continue
		}
		out = append(out, c)
	}
	return string(out)
}
