package demo

import (
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"
	"time"
)

// Pair is a row of our ledger and one of theirs that belong together, counted from 1 below the header.
type Pair struct{ Ours, Theirs int }

// sales makes the co-operative's ledger of fish sold in October and the auction house's statement of the same lots, with every kind of trouble in believable amounts: other dates, references written
// otherwise or missing, digits swapped, a slide of the decimal mark, a sign turned, net for gross, lots paid in two parts, twice, on one side alone. It draws from a seed of its own.
func (g *generator) sales() (ours, theirs []byte) {
	r := rand.New(rand.NewPCG(2031, 11))
	const lots = 640
	books := [][]string{{"sold_on", "lot", "buyer", "amount"}}
	statement := [][]string{{"booked", "reference", "text", "credit", "debit"}}
	minor := func(v int64) string { return strconv.FormatFloat(float64(v)/100, 'f', 2, 64) }
	for i := range lots {
		day := time.Date(2031, 10, 1+r.IntN(31), 0, 0, 0, 0, time.UTC)
		amount := int64(2_000 + r.IntN(480_000))
		if r.IntN(25) == 0 {
			amount = -amount // a lot taken back
		}
		buyer := firms[r.IntN(len(firms))]
		lot := fmt.Sprintf("TI-%05d", 31_400+i)
		our := []string{day.Format("2006-01-02"), lot, buyer, minor(amount)}
		line := func(v int64) []string {
			booked := day.AddDate(0, 0, r.IntN(4)).Format("02.01.2006")
			reference := strings.TrimPrefix(lot, "TI-")
			text := strings.ToUpper(buyer)
			if r.IntN(14) == 0 {
				reference, text = "", text+" LOT "+reference
			}
			out := []string{booked, reference, text, "", ""}
			if v < 0 {
				out[4] = minor(-v)
			} else {
				out[3] = minor(v)
			}
			return out
		}
		post := func(v int64) {
			statement = append(statement, line(v))
			g.truth.Sales = append(g.truth.Sales, Pair{len(books) - 1, len(statement) - 1})
		}
		switch kind := r.IntN(120); kind {
		case 0, 1: // theirs alone
			statement = append(statement, line(amount))
			continue
		case 2, 3: // ours alone
			books = append(books, our)
			continue
		case 4:
			books = append(books, our)
			digits := []byte(strconv.FormatInt(max(amount, -amount), 10))
			digits[0], digits[1] = digits[1], digits[0]
			v, _ := strconv.ParseInt(string(digits), 10, 64)
			if amount < 0 {
				v = -v
			}
			post(v)
		case 5:
			books = append(books, our)
			post(amount * 10)
		case 6:
			books = append(books, our)
			post(-amount)
		case 7:
			books = append(books, our)
			post((amount*1200 + 500) / 1000)
		case 8, 9:
			books = append(books, our)
			part := amount / 3
			post(part)
			post(amount - part)
		case 10: // posted twice by them
			books = append(books, our)
			post(amount)
			statement = append(statement, append([]string{}, statement[len(statement)-1]...))
		default:
			books = append(books, our)
			post(amount)
		}
	}
	return write(books), write(statement)
}
