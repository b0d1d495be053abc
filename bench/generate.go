package main

import (
	"bufio"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
)

// generate writes landing notes of 10 columns from a fixed seed: codes, dates, names
// of few and of many distinct values, numbers, remarks with commas and quotes.
func generate(file string, rows int) error {
	f, err := os.Create(file)
	if err != nil {
		return err
	}
	defer f.Close()
	w := bufio.NewWriterSize(f, 1<<20)
	r := rand.New(rand.NewPCG(2031, 11))
	skippers, vessels, buyers := names(r, 12_000), names(r, 9_000), names(r, 200_000)
	species, gears := names(r, 80), names(r, 40)
	fmt.Fprintln(w, "note_no,landed_on,vessel,skipper,species,gear,weight_kg,price,buyer,remarks")
	for i := range rows {
		remark := ""
		if r.IntN(3) == 0 {
			remark = fmt.Sprintf(`"box %d, graded ""%s"" on board"`, r.IntN(5000), species[r.IntN(len(species))])
		}
		fmt.Fprintf(w, "LK-%07d,2031-%02d-%02d,%s,%s,%s,%s,%d.%d,%d.%02d,%s,%s\n", i, 1+r.IntN(12), 1+r.IntN(28),
			vessels[r.IntN(len(vessels))], skippers[r.IntN(len(skippers))], species[r.IntN(len(species))], gears[r.IntN(len(gears))],
			r.IntN(9000), r.IntN(10), r.IntN(40), r.IntN(100), buyers[r.IntN(len(buyers))], remark)
	}
	return w.Flush()
}

// names makes n distinct made-up names.
func names(r *rand.Rand, n int) []string {
	parts := strings.Fields("bra cor dun el fair gar hal is kes lin mor nes or pet quo ran sel tar un vel wick yor")
	seen := map[string]bool{}
	out := make([]string, 0, n)
	for len(out) < n {
		var b strings.Builder
		for word := range 1 + r.IntN(2) {
			if word > 0 {
				b.WriteByte(' ')
			}
			for syllable := range 2 + r.IntN(3) {
				p := parts[r.IntN(len(parts))]
				if syllable == 0 {
					p = strings.ToUpper(p[:1]) + p[1:]
				}
				b.WriteString(p)
			}
		}
		if name := b.String(); !seen[name] {
			seen[name] = true
			out = append(out, name)
		}
	}
	return out
}
