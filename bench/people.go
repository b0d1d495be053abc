package main

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"grandledger/core/linkage"
	"grandledger/core/table"
	"grandledger/formats"
	"grandledger/formats/intake"
)

// person is a record of an invented person.
type person struct {
	cells [8]string // given name, surname, born, street, suburb, postcode, state, phone
	of    int       // who it is
}

var peopleHeader = "id,given_name,surname,dob,street,suburb,postcode,state,phone\n"

// generatePeople writes records of invented people, a sixth of whom are there two to four times with one to three slips, blanks, swaps or moves each, and beside them who each record is.
func generatePeople(file, truth string, rows int) error {
	r := rand.New(rand.NewPCG(71, 72))
	skew := func(n int, by float64) int { // the first ones more often than the last
		return int(math.Pow(r.Float64(), by) * float64(n))
	}
	given, surnames, streets, suburbs := names(r, 6_000), names(r, 40_000), names(r, 15_000), names(r, 4_000)
	states, kinds := strings.Fields("nsw vic qld wa sa tas act nt"), strings.Fields("street road avenue court place drive")
	one := func() (p [8]string) {
		s := skew(len(suburbs), 1.6)
		return [8]string{given[skew(len(given), 2.2)], surnames[skew(len(surnames), 2)], fmt.Sprintf("%d-%02d-%02d", 1930+r.IntN(75), 1+r.IntN(12), 1+r.IntN(28)),
			fmt.Sprintf("%d %s %s", 1+r.IntN(300), streets[skew(len(streets), 1.5)], kinds[r.IntN(6)]), suburbs[s], fmt.Sprint(1000 + s*7919%8000), states[s%8], fmt.Sprintf("0%d %04d %04d", 2+r.IntN(7), r.IntN(10000), r.IntN(10000))}
	}
	slip := func(v string) string {
		b := []byte(v)
		if len(b) < 3 {
			return v
		}
		i := r.IntN(len(b) - 1)
		switch r.IntN(4) {
		case 0:
			return string(append(b[:i:i], b[i+1:]...))
		case 1:
			return string(b[:i]) + string(rune('a'+r.IntN(26))) + string(b[i:])
		case 2:
			b[i] = byte('a' + r.IntN(26))
		default:
			b[i], b[i+1] = b[i+1], b[i]
		}
		return string(b)
	}
	var all []person
	for who := 0; len(all) < rows; who++ {
		p := one()
		all = append(all, person{p, who})
		if r.IntN(6) > 0 {
			continue
		}
		for range 1 + max(0, r.IntN(10)-6) {
			q := p
			for range 1 + r.IntN(3) {
				switch change := r.IntN(14); change {
				case 0, 1, 3, 4, 5:
					at := []int{0, 1, 0, 1, 3, 4}[change]
					q[at] = slip(q[at])
				case 2, 6, 7, 8:
					q[[]int{2, 2, 0, 0, 0, 0, 3, 5, 7}[change]] = ""
				case 9:
					q[0], q[1] = q[1], q[0]
				case 10:
					if len(q[2]) == 10 {
						q[2] = q[2][:5] + q[2][8:] + "-" + q[2][5:7]
					}
				case 11:
					if len(q[2]) == 10 {
						q[2] = q[2][:9] + strconv.Itoa(r.IntN(10))
					}
				case 12:
					q[5] = slip(q[5])
				default: // moved
					m := one()
					copy(q[3:], m[3:])
				}
			}
			all = append(all, person{q, who})
		}
	}
	all = all[:rows]
	r.Shuffle(rows, func(i, j int) { all[i], all[j] = all[j], all[i] })
	for name, line := range map[string]func(w *bufio.Writer){
		file: func(w *bufio.Writer) {
			w.WriteString(peopleHeader)
			for i, p := range all {
				fmt.Fprintf(w, "%d,%s\n", i, strings.Join(p.cells[:], ","))
			}
		},
		truth: func(w *bufio.Writer) {
			for _, p := range all {
				fmt.Fprintln(w, p.of)
			}
		},
	} {
		f, err := os.Create(name)
		if err != nil {
			return err
		}
		w := bufio.NewWriterSize(f, 1<<20)
		line(w)
		if err := w.Flush(); err != nil {
			return err
		}
		if err := f.Close(); err != nil {
			return err
		}
	}
	return nil
}

// runPeople links generated records within one file: the engine's pairs of three blocking rules with a weighted sum in SQL, and ours without a specification.
func runPeople(rows, rounds int) error {
	dir := filepath.Join("bench", "work")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	if err := installEngine(); err != nil {
		return err
	}
	file, truth := filepath.Join(dir, fmt.Sprintf("people-%d.csv", rows)), filepath.Join(dir, fmt.Sprintf("people-%d.txt", rows))
	if _, err := os.Stat(truth); err != nil {
		if err := generatePeople(file, truth, rows); err != nil {
			return err
		}
	}
	self, err := os.Executable()
	if err != nil {
		return err
	}
	var us, engine []Measured
	for range rounds {
		m, err := measure(exec.Command("node", "reference/people.mjs", file, filepath.Join(dir, "engine.csv"), fmt.Sprint(threads)))
		if err != nil {
			return err
		}
		engine = append(engine, m)
		if m, err = measure(exec.Command(self, "--one-people", file)); err != nil {
			return err
		}
		us = append(us, m)
	}
	e, o := median(engine, "link"), median(us, "link")
	fmt.Printf("%d records: engine %.1f s, %d MiB; ours %.1f s, %d MiB; %.2f of the time\n", rows, e, most(engine), o, most(us), o/e)
	for name, pairs := range map[string]string{"engine": "engine.csv", "ours": "ours.csv"} {
		s, err := scored(filepath.Join(dir, pairs), truth)
		if err != nil {
			return err
		}
		fmt.Printf("%s: precision %.4f, recall %.4f, F1 %.4f\n", name, s.Precision(), s.Recall(), s.F1())
	}
	return nil
}

// scored holds pairs of records, by their numbers from 0, against who each is.
func scored(pairs, truth string) (s linkage.Score, err error) {
	text, err := os.ReadFile(truth)
	if err != nil {
		return s, err
	}
	who := strings.Fields(string(text))
	of := map[string]int{}
	for _, w := range who {
		s.There += of[w]
		of[w]++
	}
	if text, err = os.ReadFile(pairs); err != nil {
		return s, err
	}
	for line := range strings.Lines(string(text)) {
		x, y, _ := strings.Cut(strings.TrimSpace(line), ",")
		a, err1 := strconv.Atoi(x)
		b, err2 := strconv.Atoi(y)
		if err1 != nil || err2 != nil || a >= len(who) || b >= len(who) {
			continue // the header
		}
		s.Found++
		if who[a] == who[b] {
			s.Right++
		}
	}
	return s, nil
}

// oursPeople reads, links and writes the pairs: the whole job.
func oursPeople(file string) error {
	begun := time.Now()
	m := Measured{Seconds: map[string]float64{}}
	ctx := context.Background()
	src, done, err := formats.File(file)
	if err != nil {
		return err
	}
	defer done.Close()
	how, err := formats.Sniff(src)
	if err != nil {
		return err
	}
	t, _, err := formats.Read(ctx, []formats.Source{src}, how, intake.Options{})
	if err != nil {
		return err
	}
	r, err := linkage.Link(ctx, []*table.Table{t}, linkage.Spec{})
	if err != nil {
		return err
	}
	out, err := os.Create(filepath.Join(filepath.Dir(file), "ours.csv"))
	if err != nil {
		return err
	}
	w := bufio.NewWriterSize(out, 1<<20)
	for _, p := range r.Pairs {
		if p.Verdict == linkage.Linked {
			fmt.Fprintf(w, "%d,%d\n", p.LeftRow, p.RightRow)
		}
	}
	if err := w.Flush(); err != nil {
		return err
	}
	if err := out.Close(); err != nil {
		return err
	}
	m.Seconds["link"], m.Peak, m.Answers.Kept = time.Since(begun).Seconds(), peak(), len(r.Pairs)
	return json.NewEncoder(os.Stdout).Encode(m)
}
