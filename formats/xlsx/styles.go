package xlsx

import (
	"regexp"
	"strings"

	"github.com/xuri/excelize/v2"
)

// plain changes the number formats of the open workbook so that reading a cell as it is
// shown gives what we want: dates and times by ISO 8601, fixed decimals without grouping,
// every other number as it is stored.
func (b *Book) plain() {
	styles := b.file.Styles
	if styles == nil || styles.CellXfs == nil {
		return
	}
	ours := map[string]*int{}
	for _, code := range []string{isoDate, isoMoment, isoTime} {
		if style, err := b.file.NewStyle(&excelize.Style{CustomNumFmt: &code}); err == nil {
			ours[code] = styles.CellXfs.Xf[style].NumFmtID
		}
	}
	custom := map[int]string{}
	if styles.NumFmts != nil {
		for _, f := range styles.NumFmts.NumFmt {
			if f != nil {
				custom[f.NumFmtID] = isoOf(f.FormatCode)
				f.FormatCode = custom[f.NumFmtID]
			}
		}
	}
	for i := range styles.CellXfs.Xf {
		id := styles.CellXfs.Xf[i].NumFmtID
		if id == nil {
			continue
		}
		code, own := custom[*id]
		if !own {
			code = builtin(*id)
			general, two := 0, 2
			to := &general
			if code == "0.00" {
				to = &two
			} else if ours[code] != nil {
				to = ours[code]
			}
			styles.CellXfs.Xf[i].NumFmtID = to
		}
		b.exact = b.exact || decimals.MatchString(code)
	}
}

// The formats that dates and times are read with.
const (
	isoDate   = "yyyy-mm-dd"
	isoMoment = "yyyy-mm-dd hh:mm:ss"
	isoTime   = "hh:mm:ss"
)

// decimals are formats of a fixed number of decimals.
var decimals = regexp.MustCompile(`^0\.0+$`)

var (
	literal  = regexp.MustCompile(`"[^"]*"|\\.|_.|\*.|\[[^\]]*\]`)
	grouping = regexp.MustCompile(`^(#,##)?0\.(0+)$`)
)

// isoOf gives for a number format the one we read with.
func isoOf(code string) string {
	first, _, _ := strings.Cut(code, ";")
	elapsed := strings.Contains(strings.ToLower(first), "[h") || strings.Contains(strings.ToLower(first), "[m") || strings.Contains(strings.ToLower(first), "[s")
	bare := strings.ToLower(literal.ReplaceAllString(first, ""))
	bare = strings.ReplaceAll(strings.ReplaceAll(bare, "am/pm", "h"), "general", "")
	day := strings.ContainsAny(bare, "yd")
	clock := strings.ContainsAny(bare, "hs")
	switch {
	case elapsed:
		return "General" // a length of time is a number of days
	case day && clock:
		return isoMoment
	case clock:
		return isoTime
	case day, strings.Contains(bare, "m"):
		return isoDate
	}
	if m := grouping.FindStringSubmatch(strings.TrimSpace(bare)); m != nil {
		return "0." + m[2]
	}
	return "General"
}

// builtin gives the codes of the formats that have a number and no text in the file, where
// they matter here. (ECMA-376 part 1, 18.8.30)
func builtin(id int) string {
	switch {
	case id == 2, id == 4:
		return "0.00"
	case 14 <= id && id <= 17, 27 <= id && id <= 31, id == 36, 50 <= id && id <= 54, id == 57, id == 58:
		return isoDate
	case 18 <= id && id <= 21, 32 <= id && id <= 35, id == 45, id == 47, id == 55, id == 56:
		return isoTime
	case id == 22:
		return isoMoment
	}
	return "General"
}
