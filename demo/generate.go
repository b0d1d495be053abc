// Package demo makes the demo book: the Tern Islands Fishery Co-operative, invented, in
// the year 2031. Everything comes from a fixed seed and its truth is known, so the demo
// is also a test.
package demo

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"
)

// BookName is the demo book's name.
const BookName = "Tern Islands Fishery"

// File is one file of the demo.
type File struct {
	Name  string // as a steward would receive it
	Table string // what its table is called
	Bytes []byte
}

// Truth is what is really so in the demo's files.
type Truth struct {
	Landings int               // rows of the landing notes
	Repeats  int               // landing notes that repeat another's number
	Gear     map[string]string // gear as written -> standard value, short forms left out
	Vessels  int               // vessels of the vessel list
	Gull     int               // rows of both sheets of Gull Point
	Skerry   int               // notes of Skerry Bay
	Sales    []Pair            // of the sales ledger and the auction house's statement
}

// Files makes the demo's files, the same on every run.
func Files() ([]File, Truth) {
	g := &generator{r: rand.New(rand.NewPCG(2031, 10)), truth: Truth{Gear: map[string]string{}, Gull: gullSpring + gullSummer, Skerry: skerryNotes}}
	g.makeVessels()
	files := []File{
		{"kestrel-landings.csv", "Landings, Port Kestrel", g.landings()},
		{"vessel-list.csv", "Vessel list", g.vesselList()},
		{"buyers.csv", "Buyers", g.buyers()},
		{"gull-point.xlsx", "Landings, Gull Point", g.gullPoint()},
		{"skerry-bay.jsonl", "Landings, Skerry Bay", g.skerryBay()},
	}
	ours, theirs := g.sales()
	files = append(files, File{"sales-october.csv", "Sales, October", ours}, File{"auction-house-october.csv", "Auction house, October", theirs})
	return files, g.truth
}

type vessel struct {
	name, port, owner, harbour string
	length                     float64
	built, kilowatts           int
}

type generator struct {
	r       *rand.Rand
	vessels []vessel
	truth   Truth

	elsewhere bool // another harbour than Port Kestrel is at hand
}

func (g *generator) one(of []string) string { return of[g.r.IntN(len(of))] }

// in says yes once in n times.
func (g *generator) in(n int) bool { return g.r.IntN(n) == 0 }

func (g *generator) person() string { return g.one(given) + " " + g.one(family) }

func (g *generator) makeVessels() {
	seen := map[string]bool{}
	for len(g.vessels) < 409 {
		name := g.one(vesselFirst) + " " + g.one(vesselLast)
		if seen[name] {
			name += [...]string{" II", " III", " IV"}[g.r.IntN(3)]
		}
		if seen[name] {
			continue
		}
		seen[name] = true
		at := g.r.IntN(3)
		g.vessels = append(g.vessels, vessel{name, fmt.Sprintf("%s %d", letters[at], 10+len(g.vessels)), g.person(), harbours[at],
			6 + float64(g.r.IntN(200))/10, 1962 + g.r.IntN(68), 40 + 10*g.r.IntN(60)})
	}
	// Two boats under one name: a join by name multiplies their landings.
	for _, i := range []int{3, 17, 40} {
		v := g.vessels[i]
		v.port, v.owner, v.length = fmt.Sprintf("%s %d", letters[1], 900+i), g.person(), v.length+3
		g.vessels = append(g.vessels, v)
	}
	g.truth.Vessels = len(g.vessels)
}

func (g *generator) vesselList() []byte {
	rows := [][]string{{"vessel", "port_letters", "length_m", "built", "owner", "home_harbour", "engine_kw"}}
	for _, v := range g.vessels {
		built := fmt.Sprint(v.built)
		if g.in(25) {
			built = ""
		}
		rows = append(rows, []string{v.name, v.port, fmt.Sprintf("%.1f", v.length), built, v.owner, v.harbour, fmt.Sprint(v.kilowatts)})
	}
	return write(rows)
}

func (g *generator) buyers() []byte {
	rows := [][]string{{"buyer", "account_no", "town", "terms_days"}}
	for i, f := range firms {
		rows = append(rows, []string{f, fmt.Sprintf("%05d", 411+7*i), g.one(harbours), g.one([]string{"14", "30", "30", "60"})})
	}
	return write(rows)
}

// landings makes 6,214 landing notes, some of them twice.
func (g *generator) landings() []byte {
	const unique, repeats = 6177, 37
	g.truth.Landings, g.truth.Repeats = unique+repeats, repeats
	rows := [][]string{{"landing_no", "landed_on", "vessel", "skipper", "species", "gear", "weight_kg", "price", "buyer", "remarks"}}
	for i := range unique {
		rows = append(rows, g.landing(4811+i))
	}
	for range repeats {
		again := append([]string{}, rows[1+g.r.IntN(unique)]...)
		if g.in(3) {
			again[9] = "entered twice?"
		}
		at := 1 + g.r.IntN(len(rows)-1)
		rows = append(rows[:at], append([][]string{again}, rows[at:]...)...)
	}
	return write(rows)
}

func (g *generator) landing(number int) []string {
	day := time.Date(2031, 3, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, g.r.IntN(214))
	fish := g.one(species)
	if g.in(9) {
		fish = g.one([]string{strings.ToLower(fish), strings.ToUpper(fish), fish + " ", fish + "*"})
	}
	remark := ""
	if g.in(5) {
		remark = g.one(remarks)
	}
	return []string{fmt.Sprintf("LK-%06d", number), g.date(day), g.vesselName(), g.skipper(), fish, g.gear(), g.weight(),
		g.price(), g.buyer(), remark}
}

func (g *generator) date(day time.Time) string {
	switch {
	case g.in(200):
		return day.Format("2/1/2006")
	case g.in(40):
		return day.Format("2 Jan 2006")
	}
	return day.Format(time.DateOnly)
}

func (g *generator) vesselName() string {
	if g.in(500) {
		return ""
	}
	v := g.vessels[g.r.IntN(len(g.vessels)*(1+g.r.IntN(4))/4)].name
	switch {
	case g.in(30):
		return strings.ToUpper(v)
	case g.in(40):
		return v + " "
	case g.in(60):
		return strings.Replace(v, " ", "  ", 1)
	case g.in(150): // a boat that is on no list
		return g.one(vesselFirst) + " " + g.one(family)
	}
	return v
}

func (g *generator) skipper() string {
	name := g.person()
	switch {
	case g.in(140):
		return ""
	case g.in(6):
		at := strings.LastIndexByte(name, ' ')
		return name[at+1:] + ", " + name[:at]
	case g.in(30):
		return strings.ToUpper(name)
	}
	return name
}

func (g *generator) gear() string {
	n := g.r.IntN(100)
	for _, kind := range gears {
		if n -= kind.weight; n >= 0 {
			continue
		}
		switch {
		case g.in(120) && kind.short != nil:
			return g.one(kind.short)
		case g.in(4):
			v := g.one(kind.variants)
			g.note(v, kind.standard)
			return v
		case g.in(2000):
			return ""
		}
		return kind.standard
	}
	return ""
}

func (g *generator) weight() string {
	kg := 20 * (1 + g.r.ExpFloat64()*14)
	switch {
	case g.in(300):
		return fmt.Sprintf("%.1f t", kg/100)
	case g.in(1200):
		return "see note"
	case g.in(700):
		return fmt.Sprintf("%.0f", kg*1000) // grams entered as kilograms
	}
	return fmt.Sprintf("%.1f", kg)
}

func (g *generator) price() string {
	if g.in(100) {
		return ""
	}
	return fmt.Sprintf("%.2f", 0.4+g.r.ExpFloat64()*3.5)
}

func (g *generator) buyer() string {
	b := g.one(firms)
	switch {
	case g.in(12):
		b = strings.ToUpper(b)
	case g.in(14):
		b += " "
	case g.in(20):
		b = strings.ReplaceAll(b, "ö", "o")
	case g.in(25):
		b = strings.ReplaceAll(b, " & ", " and ")
	case g.in(1000):
		b = ""
	}
	return b
}

func write(rows [][]string) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	if err := w.WriteAll(rows); err != nil {
		panic(err) // a buffer takes everything
	}
	return b.Bytes()
}

// note keeps what a spelling of gear stands for; Port Kestrel's alone are the truth that is
// tested.
func (g *generator) note(variant, standard string) {
	if !g.elsewhere {
		g.truth.Gear[variant] = standard
	}
}
