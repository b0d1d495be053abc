package e2e

import (
	"fmt"
	"testing"
)

// October's sales are proved against the auction house's statement: what is offered is decided by keyboard, what is left is signed off, the period is closed with nothing unexplained, and opened again.
func TestProveOctober(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	w := open(t, r, 1)[0]
	w.see("h1", "Tern Islands")
	w.click("nav a", "^Prove two ledgers")
	w.see("h1", "^Prove two ledgers$")
	w.click("[role=combobox][aria-label='Our ledger']", "choose")
	w.click("[role=option]", "^Sales, October")
	w.click("[role=combobox][aria-label=Theirs]", "choose")
	w.click("[role=option]", "^Auction house, October")
	w.press("^Prove them$")
	w.see("h1", "^Sales, October and Auction house, October$")
	w.see("section[aria-label=Statement]", "Balance of Sales, October")
	w.see("section[aria-label=Statement]", `Unexplained\s+0\.00`)
	var about struct {
		Statement struct{ Offered, Open, Settled []int }
		Closed    bool
	}
	for range 60 {
		r.call("GET", "/reconciliations/1", nil, &about)
		left := about.Statement.Offered[0]
		if left == 0 {
			break
		}
		w.see("dl", fmt.Sprintf(`Offered\s+%d`, about.Statement.Offered[0]+about.Statement.Offered[1]))
		w.see("section[aria-label=Entry] h2", "^Offered, to be looked at$")
		if left%2 == 0 {
			w.key('k')
		} else {
			w.key('s')
		}
		w.gone("dl", fmt.Sprintf(`Offered\s+%d\b`, about.Statement.Offered[0]+about.Statement.Offered[1]))
	}
	if r.call("GET", "/reconciliations/1", nil, &about); about.Statement.Offered[0] != 0 {
		t.Fatalf("%+v", about)
	}
	w.click("button", "^in theirs alone")
	w.see("section[aria-label=Entry] h2", "^In theirs alone")
	w.fill("Signed by", "ada")
	w.press("^Close it$")
	w.see("[role=alert]", "Say why they may stay open")
	w.fill("Why", "asked the auction house")
	w.press("^Close it$")
	w.see("[role=status]", "Closed by ada: asked the auction house")
	w.press("^Reopen$")
	w.see("button", "^Close it$")
	if r.call("GET", "/reconciliations/1", nil, &about); about.Closed {
		t.Error("it is still closed")
	}
	// Without the pass for sums of several, their lots are open.
	var without struct {
		Spec      struct{ Without []int }
		Statement struct{ Settled []int }
	}
	w.press("^Change it$")
	w.click("label", "^Several that add up$")
	w.press("^Settle them so$")
	w.see("section[aria-label=Entry]", "without 1 of the six passes")
	if r.call("GET", "/reconciliations/1", nil, &without); fmt.Sprint(without.Spec.Without) != "[5]" || without.Statement.Settled[0] >= about.Statement.Settled[0] {
		t.Errorf("%+v, settled before %v", without, about.Statement.Settled)
	}
}
