package e2e

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"grandledger/demo"
	"grandledger/store/cluster"
)

// A file whose dates could be read two ways is answered once; its next delivery, with a
// column renamed and weights in words, is compared, mended and posted, and the journal stands
// again on it; pasted columns are put beside.
func TestReadingsAndDeliveries(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.see("h1", demo.BookName)
	var march, april strings.Builder
	march.WriteString("no,landed,gear,kg\n")
	april.WriteString("no,landed,Gear type,kg,quay\n")
	for i := range 60 {
		fmt.Fprintf(&march, "%d,%d/%d/2031,%s,%d\n", i, 1+i%12, 1+i%9, []string{"GN", "Pots ", "Trawl"}[i%3], 10+i)
		fmt.Fprintf(&april, "%d,%d/%d/2031,%s,%s,East\n", i+20, 1+(i+20)%12, 1+(i+20)%9, []string{"GN", "Pots ", "Trawl"}[(i+20)%3], map[bool]string{true: "ten", false: fmt.Sprint(30 + i)}[i%5 == 0])
	}
	w.drop("march.csv", []byte(march.String()))
	w.press("^Bring in the table$")
	w.see("tr", "landed.*Date.*could be read two ways")
	w.click("[aria-label='Column register'] td", "^landed$")
	w.press("^Answer$")
	w.see("[role=status]", "Does the day come first, or the month")
	w.press("^the day comes first$")
	w.see("h2", "^Read landed as dates, day first$")
	w.see("[aria-label='What the values are understood as'] td", "^2031-0")
	w.press("^Post entry 1$")
	w.see("p", "Entry 1 is posted")
	w.see("h2", "^Read as dates, day first$")

	w.press("^March$")
	w.see("tr", "landed.*Date.*2031-01-01")
	w.click("[aria-label='Column register'] td", "^gear$")
	w.press("^Tidy$")
	w.see("h2", "in gear")
	w.press("^Post entry 2$")
	w.see("p", "Entry 2 is posted")

	// The next delivery finds its table by its columns.
	w.drop("april.csv", []byte(april.String()))
	w.see("[role=status]", "It has 3 of 4 columns of March")
	w.press("^Read it as its next delivery$")
	w.see("h1", "^Refresh March$")
	w.see("td", "is not there any more")
	w.see("td", "12 rows do not read as whole numbers; 0 before")
	w.see("[role=status]", "1 entry cannot be done on this delivery")
	w.see("p", "Cannot: the table has no column .gear.")
	w.press("^It has the values of gear$")
	w.gone("p", "Cannot: the table has no column")
	w.see("td", "Now: 20 cells rewritten; 60 rows stand")
	w.press("^Post entry 3$")
	w.see("p", "Entry 3 is posted")
	w.press("^Journal$")
	w.see("tr", "Refreshed from april.csv.*60")
	w.see("tr", "Trim spaces.*superseded")
	w.see("tr", "Trim spaces.*entry 2 done again")
	w.press("^Reverse entry 5$")
	w.see("tr", "5.*reversed")

	// Columns that are pasted stand beside.
	var berths strings.Builder
	berths.WriteString("berth\n")
	for i := range 12 {
		fmt.Fprintf(&berths, "B%d\n", i)
	}
	w.press("^Tern Islands Fishery$")
	w.drop("berths.csv", []byte(berths.String()))
	w.click("[role=combobox][aria-label='Put its columns beside']", "a table")
	w.click("[role=option]", "^Buyers$")
	w.see("h1", "^Beside Buyers$")
	w.balance("Cells added", "12")
	w.press("^Post entry 1$")
	w.see("p", "Entry 1 is posted. 12 cells added")
}

// Keys, tallies side by side and figures by a category, each a step from the register.
func TestLookingFurther(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.press("^Landings, Port Kestrel")
	w.press("^Keys$")
	w.see("[aria-label=Keys] tr", "landing_no.*37 rows|landing_no.*[0-9]+")
	w.click("[aria-label=Keys] tr", "^landing_no", "a")
	w.see("h1", "[Dd]uplicates")
	w.press("^Landings, Port Kestrel")
	w.click("[aria-label='Column register'] td", "^vessel$")
	w.press("^Open its tally$")
	w.press("^By shape$")
	w.see("[role=gridcell]", "^Aa… Aa…$")
	w.press("^Blank 15$")
	w.gone("[role=gridcell]", "^Aa… Aa…$")
	w.press("^Compare$")
	w.click("[role=combobox][aria-label='Table to compare with']", "Landings")
	w.click("[role=option]", "^Vessel list$")
	w.see("h1", "^vessel beside vessel$")
	w.press("^Only there 4$|^Only there [0-9]+$")
	w.see("[role=gridcell]", "^none$")
	w.press("^Landings, Port Kestrel")
	w.press("^Cross$")
	w.press("^Chart figures instead$")
	w.click("[role=combobox][aria-label=Category]", "landing_no")
	w.click("[role=option]", "^species$")
	w.element("figure[aria-label='Rows, Sum of weight_kg by species']")
	w.press("^Add a figure$")
	w.see("th", "^Mean of weight_kg$")
}

// A table of another database is copied, and what a database refuses is said.
func TestDatabaseSource(t *testing.T) {
	ctx := context.Background()
	c, stop, err := cluster.Throwaway(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer stop()
	address := strings.ReplaceAll(strings.ReplaceAll(c.URL, "&pool_max_conns=20", ""), "pool_max_conns=20", "")
	conn, err := pgx.Connect(ctx, address)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := conn.Exec(ctx, `create table quotas as select n as no, 'Cod' as species, n * 1.5 as tonnes from generate_series(1, 300) n`); err != nil {
		t.Fatal(err)
	}
	conn.Close(ctx)
	w := open(t, serve(t, dataDir(t), "--demo"), 1)[0]
	w.press("^a PostgreSQL database$")
	w.fill("Connection", address)
	w.fill("Table or query", "quota")
	w.press("^Copy it$")
	w.see("[role=alert]", `relation "quota" does not exist`)
	w.fill("Table or query", "quotas")
	w.press("^Copy it$")
	w.see("h1", "^quotas.csv$")
	w.press("^Bring in the table$")
	w.see("tr", "tonnes.*Number.*300")
}
