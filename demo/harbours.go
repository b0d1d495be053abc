package demo

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
)

// The rows that the other two harbours send.
const (
	gullSpring, gullSummer = 1_180, 1_467
	skerryNotes            = 1_912
)

// gullPoint makes the workbook of Gull Point: two sheets of the same shape, a title above
// each, weights in tonnes, dates that are dates.
func (g *generator) gullPoint() []byte {
	g.r, g.elsewhere = rand.New(rand.NewPCG(2031, 11)), true // of its own, so that the other files stay as they are
	f := excelize.NewFile()
	defer f.Close()
	day, err := f.NewStyle(&excelize.Style{NumFmt: 15})
	check(err)
	number := 1
	for i, sheet := range []struct {
		name        string
		from, month int
		rows        int
	}{{"Spring 2031", 3, 3, gullSpring}, {"Summer 2031", 6, 4, gullSummer}} {
		if i == 0 {
			check(f.SetSheetName("Sheet1", sheet.name))
		} else {
			_, err := f.NewSheet(sheet.name)
			check(err)
		}
		w, err := f.NewStreamWriter(sheet.name)
		check(err)
		check(w.SetRow("A1", []any{"Harbour office Gull Point, landings " + sheet.name}))
		check(w.MergeCell("A1", "E1"))
		check(w.SetRow("A2", []any{"drawn up", "1 October 2031"}))
		check(w.SetRow("A4", []any{"Note", "Landed", "Boat", "Master", "Species", "Gear", "Tonnes", "Price per kg", "Sold to"}))
		for row := range sheet.rows {
			at := time.Date(2031, time.Month(sheet.from), 1+g.r.IntN(30*sheet.month), 0, 0, 0, 0, time.UTC)
			boat, master, fish, gear, buyer := g.vesselName(), g.skipper(), g.one(species), g.gear(), g.buyer()
			tonnes := float64(int(20*(1+g.r.ExpFloat64()*14))) / 1000
			var price any = float64(int(100*(0.4+g.r.ExpFloat64()*3.5))) / 100
			if g.in(90) {
				price = "n/a"
			}
			check(w.SetRow(fmt.Sprintf("A%d", row+5), []any{fmt.Sprintf("GP %04d", number), excelize.Cell{StyleID: day, Value: at}, boat, master, fish, gear, tonnes, price, buyer}))
			number++
		}
		check(w.Flush())
	}
	var out bytes.Buffer
	_, err = f.WriteTo(&out)
	check(err)
	return inOrder(out.Bytes())
}

// inOrder packs an archive anew with its parts by name: the library packs them in any order.
func inOrder(packed []byte) []byte {
	r, err := zip.NewReader(bytes.NewReader(packed), int64(len(packed)))
	check(err)
	slices.SortFunc(r.File, func(a, b *zip.File) int { return strings.Compare(a.Name, b.Name) })
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, part := range r.File {
		check(w.Copy(part))
	}
	check(w.Close())
	return out.Bytes()
}

// skerryBay makes the JSON Lines of Skerry Bay: one note a line, its catches a list in it.
func (g *generator) skerryBay() []byte {
	g.r, g.elsewhere = rand.New(rand.NewPCG(2031, 12)), true
	type catch struct {
		Species string  `json:"species"`
		Kg      float64 `json:"kg"`
		Price   float64 `json:"price,omitempty"`
	}
	var out bytes.Buffer
	e := json.NewEncoder(&out)
	e.SetEscapeHTML(false)
	for i := range skerryNotes {
		v := g.vessels[g.r.IntN(len(g.vessels))]
		catches := []catch{}
		for range g.r.IntN(4) {
			c := catch{Species: g.one(species), Kg: float64(int(200*(1+g.r.ExpFloat64()*6))) / 10}
			if !g.in(20) {
				c.Price = float64(int(100*(0.4+g.r.ExpFloat64()*3.5))) / 100
			}
			catches = append(catches, c)
		}
		note := map[string]any{
			"note":   fmt.Sprintf("SB-%05d", 20001+i),
			"landed": map[string]any{"on": time.Date(2031, 3, 1+g.r.IntN(214), 0, 0, 0, 0, time.UTC).Format(time.DateOnly), "by": g.skipper()},
			"vessel": map[string]any{"name": v.name, "port_letters": v.port}, "gear": g.gear(), "catch": catches,
		}
		if g.in(6) {
			note["remarks"] = g.one(remarks)
		}
		check(e.Encode(note))
	}
	return out.Bytes()
}

// check stops the making of the demo: it writes to memory alone, which takes everything.
func check(err error) {
	if err != nil {
		panic(err)
	}
}
