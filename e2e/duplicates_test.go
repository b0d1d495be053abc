package e2e

import "testing"

// Rows are the same though written otherwise; the newest of each group stays by a date, with what
// does not read pointed out; the other way round only the repeats stay, or what repeats nothing.
func TestDuplicatesByRules(t *testing.T) {
	w := open(t, serve(t, dataDir(t), "--demo"), 1)[0]
	w.see("h1", "Tern Islands Fishery")
	w.drop("licences.csv", []byte("no,skipper,issued\n1,Ana Larsen,2031-01-02\n2,\"Larsen, Ana\",2031-05-01\n3,ANA LARSEN,soon\n4,Bo Dahl,2031-02-01\n5,Cy Moe,2031-03-01\n6,Cy Moe ,2030-03-01\n"+
		"7,,2031-04-01\n8,,2031-04-02\n9,Dan Vik,2031-04-03\n10,Eve Sund,2031-04-04\n11,Flo Berg,2031-04-05\n12,Gro Lie,2031-04-06\n"+
		"13,Hal Nes,2031-04-07\n14,Ina Aas,2031-04-08\n15,Jon Bø,2031-04-09\n16,Kai Ek,2031-04-10\n17,Leo Ro,2031-04-11\n18,Mia Tveit,2031-04-12\n19,Nils Foss,2031-04-13\n"+
		"20,Ola Dale,2031-04-14\n21,Pia Ness,2031-04-15\n22,Rut Haug,2031-04-16\n23,Siv Moen,2031-04-17\n24,Tor Lund,2031-04-18\n"))
	w.press("^Bring in the table$")
	w.see("h1", "^Licences$")
	w.press("^Duplicates$")
	w.click("[aria-label='Key columns'] label", "^skipper$")
	w.see("h2", "^No row repeats another$")
	w.click("[role=combobox][aria-label='How skipper is compared']", "to the letter")
	w.click("[role=option]", "^case, spacing, accents aside$")
	w.see("h2", "^2 repeats in 2 groups$")
	w.click("[role=combobox][aria-label='How skipper is compared']", "accents aside")
	w.click("[role=option]", "^words in any order$")
	w.see("h2", "^3 repeats in 2 groups$")
	w.press("^by a rule$")
	w.click("[role=combobox][aria-label=Rule]", "the fullest")
	w.click("[role=option]", "^the newest by$")
	w.click("[role=combobox][aria-label='Column that tells']", "choose")
	w.click("[role=option]", "^no$")
	w.see("[role=alert]", "The newest row cannot be told by no, which is read as")
	w.click("[role=combobox][aria-label='Column that tells']", "no")
	w.click("[role=option]", "^issued$")
	w.see("tr", "kept.*Larsen, Ana")
	w.see("tr", "kept.*2031-03-01")
	w.see("p, [role=status]", "1 row of these groups has no issued that reads")
	w.balance("Rows after", "21")
	w.click("[role=combobox][aria-label='What stays']", "one row of each group")
	w.click("[role=option]", "^only the rows that repeat nothing$")
	w.balance("Rows after", "19")
	w.click("[role=combobox][aria-label='What stays']", "only")
	w.click("[role=option]", "^only the rows that repeat$")
	w.balance("Rows after", "5")
	w.press("^Post entry 1$")
	w.see("p", "Entry 1 is posted. 19 rows set aside")

	// Marked, and given new ids where they are different things.
	w.press("^Licences")
	w.press("^Shape$")
	w.press("^Mark repeats$")
	w.element("[aria-label='Key: skipper']").MustClick()
	w.click("[role=combobox][aria-label='How skipper is compared']", "to the letter")
	w.click("[role=option]", "^words in any order$")
	w.click("[role=combobox][aria-label='What the mark shows']", "whether")
	w.click("[role=option]", "^the number of its group$")
	w.see("[aria-label='Columns afterwards'] tr", "group.*2")
	w.press("^Post entry 2$")
	w.see("p", "Entry 2 is posted")
	w.press("^New ids$")
	w.click("[role=combobox][aria-label='Column of the ids']", "no")
	w.click("[role=option]", "^group$")
	w.element("[aria-label='Same thing: issued']").MustClick()
	w.balance("Cells rewritten", "3")
	w.press("^Post entry 3$")
	w.see("p", "Entry 3 is posted")
	w.press("^Journal$")
	w.see("td", "Give new ids to all but the first row with the same group where issued differ")
	w.see("td", `Keep only the rows of which others have the same skipper \(words in any order\)`)
}
