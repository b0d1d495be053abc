package server_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
)

// skippers are records of people, every second one twice with a slip.
func skippers(n int) string {
	var b strings.Builder
	b.WriteString("id,given name,family name,born,harbour,licence\n")
	parts := []string{"ka", "lo", "mer", "tin", "sha", "vor", "bel", "dun", "ri", "os", "an", "pet", "gul", "har", "wes"}
	name := func(i, k int) string { return parts[i%15] + parts[(i/15+k)%15] + parts[(i/7+2*k)%15] }
	for i := range n {
		row := func(id int, given string, licence string) {
			fmt.Fprintf(&b, "%d,%s,%s,%d-%02d-%02d,Harbour %d,%s\n", id, given, name(i*31+7, 2), 1940+i%60, 1+i%12, 1+i%28, i%7, licence)
		}
		row(2*i, name(i, 1), fmt.Sprintf("L%05d", i*37%99991))
		if i%2 == 0 {
			row(2*i+1, name(i, 1)[:4], fmt.Sprintf("L%05d", i*37%99991+i%3*900))
		}
	}
	return b.String()
}

// A linkage from changing how it is done to golden records that keep their identifiers: what is decided by two reviewers, what is left open, how right it is by a spot
// check, clusters that are taken apart, values picked by hand, and what becomes of identifiers.
func TestLinkageReviewedToTheEnd(t *testing.T) {
	c := serve(t)
	tab := c.bringIn("skippers", skippers(300))
	var made struct{ Id int64 }
	c.call("POST", "/books/1/linkages", answer{"name": "Skippers", "tables": []int64{tab}}, &made)
	path := fmt.Sprintf("/linkages/%d", made.Id)
	type view struct {
		linkageView
		Undecided, Disagreements, Asks, Identified int
		Prior, Missed                              float64
		Changed                                    bool
		Spec                                       answer
		Conflicts                                  map[string]int
		Bins                                       []struct {
			From, Expected float64
			Pairs          int
		}
		Strata []struct {
			Linked                     bool
			Pairs, Drawn, Asked, Right int
		}
		Precision, Recall struct{ Value, Low, High float64 }
	}
	look := func() (l view) {
		t.Helper()
		if status := c.call("GET", path, nil, &l); status != 200 {
			t.Fatal(status)
		}
		return l
	}
	l := look()
	if l.Links < 140 || l.Changed || len(l.Spec) == 0 {
		t.Fatalf("%+v", l)
	}
	inBins, inStrata := 0, 0
	for _, b := range l.Bins {
		inBins += b.Pairs
	}
	for _, s := range l.Strata {
		inStrata += s.Pairs
	}
	if inBins != l.Compared || inStrata != l.Compared {
		t.Errorf("%d pairs in bins and %d in strata of %d compared", inBins, inStrata, l.Compared)
	}

	// Other cuts, and an attribute left out: what that gained and lost adds up.
	var raw string
	if status := c.call("GET", path+"/changed", nil, &raw); status != 422 || !strings.Contains(raw, "nothing to compare with") {
		t.Errorf("%d %s", status, raw)
	}
	spec := l.Spec
	spec["link"], spec["possible"] = 0.9999, 0.000001
	if status := c.call("PUT", path+"/spec", spec, &raw); status != 204 {
		t.Fatalf("%d %s", status, raw)
	}
	strict := look()
	if !strict.Changed || strict.Links > l.Links || strict.Review <= l.Review {
		t.Errorf("%d links and %d to review, before %d and %d", strict.Links, strict.Review, l.Links, l.Review)
	}
	var change struct{ Gained, Lost, Kept int }
	if c.call("GET", path+"/changed?which=lost", nil, &change); change.Kept+change.Lost != l.Links || change.Kept+change.Gained != strict.Links {
		t.Errorf("%+v of %d links, now %d", change, l.Links, strict.Links)
	}
	wrong := answer{"attributes": []answer{{"name": "x", "kind": "smell", "columns": [][]string{{"id"}}}}}
	if status := c.call("PUT", path+"/spec", wrong, &raw); status != 422 || !strings.Contains(raw, "there is no kind") {
		t.Errorf("%d %s", status, raw)
	}

	// Two reviewers never get the same pair; what one leaves open is out of the way, with its note; where they disagree it is told.
	var ada, berta pairsView
	c.call("GET", path+"/pairs?which=review&reviewer=ada", nil, &ada)
	c.call("GET", path+"/pairs?which=review&reviewer=berta", nil, &berta)
	held := map[string]bool{}
	for _, p := range ada.Pairs {
		held[p.Left.Key+p.Right.Key] = true
	}
	for _, p := range berta.Pairs {
		if held[p.Left.Key+p.Right.Key] {
			t.Errorf("rows %d and %d are shown to both", p.Left.Row, p.Right.Row)
		}
	}
	if len(ada.Pairs) == 0 || len(berta.Pairs) == 0 {
		t.Fatalf("%d and %d pairs", len(ada.Pairs), len(berta.Pairs))
	}
	decide := func(p, by string, rest answer) {
		t.Helper()
		a, b, _ := strings.Cut(p, " ")
		pair := answer{"a": a, "b": b, "by": by}
		for k, v := range rest {
			pair[k] = v
		}
		if status := c.call("POST", path+"/decisions", answer{"pairs": []answer{pair}}, &raw); status != 204 {
			t.Fatalf("%d %s", status, raw)
		}
	}
	key := func(v pairsView, i int) string { return v.Pairs[i].Left.Key + " " + v.Pairs[i].Right.Key }
	decide(key(ada, 0), "ada", answer{"note": "ask the harbour master"})
	var open struct {
		Total int
		Pairs []struct{ Note, By string }
	}
	if c.call("GET", path+"/pairs?which=undecided", nil, &open); open.Total != 1 || open.Pairs[0].Note != "ask the harbour master" || open.Pairs[0].By != "ada" {
		t.Errorf("%+v", open)
	}
	decide(key(berta, 0), "berta", answer{"same": true})
	decide(key(berta, 0), "ada", answer{"same": false, "note": "another licence"})
	var disagree []struct{ By, Otherwise, Note, Left string }
	if c.call("GET", path+"/disagreements", nil, &disagree); len(disagree) != 1 || disagree[0].By != "ada" || disagree[0].Otherwise != "berta" || disagree[0].Note != "another licence" || disagree[0].Left == "" {
		t.Errorf("%+v", disagree)
	}
	if l = look(); l.Undecided != 1 || l.Disagreements != 1 {
		t.Errorf("%d undecided, %d disagreements", l.Undecided, l.Disagreements)
	}

	// A spot check, answered by the truth: the intervals hold what is true of the links.
	var spot struct {
		pairsView
		Pairs []struct {
			Left, Right struct {
				Key string
				Row int
			}
		}
	}
	c.call("GET", path+"/pairs?which=spot&count=200", nil, &spot)
	for _, p := range spot.Pairs {
		same := p.Right.Row-p.Left.Row == 1 && p.Left.Row%3 == 0
		if status := c.call("POST", path+"/spot", answer{"a": p.Left.Key, "b": p.Right.Key, "same": same}, &raw); status != 204 {
			t.Fatalf("%d %s", status, raw)
		}
	}
	if after := look(); after.Links != l.Links || after.Precision.Value < 0.9 || after.Precision.Low > after.Precision.Value || after.Recall.High < after.Recall.Value || after.Recall.Value == 0 {
		t.Errorf("%+v %+v", after.Precision, after.Recall)
	}

	// Golden records keep their identifiers when a cluster is taken apart; a picked value holds.
	given := func(columns []string) int { return slices.Index(columns, "given name") }
	golden := func(name string, cross bool) (ids map[string]string, rows int) {
		t.Helper()
		var table struct {
			Id   int64
			Rows int
		}
		if status := c.call("POST", path+"/golden", answer{"name": name, "crossReference": cross}, &table); status != 201 {
			t.Fatal(status)
		}
		ids = map[string]string{}
		for from := 0; from < table.Rows; from += 500 {
			var got struct {
				Columns []string
				Rows    []struct{ Cells []string }
			}
			c.call("GET", fmt.Sprintf("/tables/%d/rows?from=%d&count=500", table.Id, from), nil, &got)
			for _, r := range got.Rows {
				if cross {
					ids[r.Cells[2]] = r.Cells[3]
				} else {
					ids[r.Cells[0]] = r.Cells[given(got.Columns)]
				}
			}
		}
		return ids, table.Rows
	}
	var conflicts struct {
		Total     int
		Conflicts []struct {
			Golden int64
			Of     string
			Values []struct{ Value string }
			Picked string
			Asks   bool
		}
	}
	c.call("GET", path+"/conflicts?attribute=given+name", nil, &conflicts)
	if conflicts.Total == 0 || conflicts.Total != l.Conflicts["given name"] {
		t.Fatalf("%d conflicts, %d counted", conflicts.Total, l.Conflicts["given name"])
	}
	one := conflicts.Conflicts[0]
	one.Values = slices.Clone(one.Values)
	if status := c.call("POST", path+"/picks", answer{"golden": one.Golden, "attribute": "given name", "value": one.Values[1].Value, "of": one.Of, "by": "ada"}, &raw); status != 204 {
		t.Fatalf("%d %s", status, raw)
	}
	before, n := golden("Cross", true)
	if n != 450 {
		t.Errorf("%d records", n)
	}
	var clusters struct {
		Total    int
		Clusters []struct {
			Weakest float64
			Records []struct{ Record struct{ Key string } }
			Links   []struct{ Left, Right int }
		}
	}
	c.call("GET", path+"/clusters?count=5", nil, &clusters)
	if clusters.Total != l.Clusters || clusters.Clusters[0].Weakest > clusters.Clusters[1].Weakest || len(clusters.Clusters[0].Links) == 0 {
		t.Fatalf("%+v", clusters)
	}
	apart := clusters.Clusters[0]
	decide(apart.Records[0].Record.Key+" "+apart.Records[1].Record.Key, "ada", answer{"same": false})
	after, _ := golden("Cross again", true)
	changed := 0
	for id, was := range before {
		if after[id] != was {
			changed++
		}
	}
	if changed != 1 {
		t.Errorf("%d records stand under another identifier after one cluster was taken apart", changed)
	}
	for id, was := range before {
		if after[id] != was {
			var now struct{ Now []int64 }
			if c.call("GET", path+"/golden/"+was, nil, &now); len(now.Now) != 2 {
				t.Errorf("%s became %v", was, now.Now)
			}
		}
	}
	if status := c.call("GET", path+"/golden/99999", nil, &raw); status != 404 {
		t.Errorf("%d %s", status, raw)
	}
	values, _ := golden("People", false)
	if got := values[fmt.Sprint(one.Golden)]; got != one.Values[1].Value {
		t.Errorf("the golden record says %q, %q was picked", got, one.Values[1].Value)
	}
	c.call("GET", path+"/conflicts?attribute=given+name&count=200", nil, &conflicts)
	found := false
	for _, k := range conflicts.Conflicts {
		found = found || k.Golden == one.Golden && k.Picked == one.Values[1].Value && !k.Asks
	}
	if !found {
		t.Errorf("the picked value is not told: %d of %d, %+v", len(conflicts.Conflicts), conflicts.Total, conflicts.Conflicts[len(conflicts.Conflicts)-1])
	}

	// A record that is in no table finds the one it is.
	var matches []struct {
		Record struct{ Row int }
		Golden int64
		Weight float64
		Values []string
	}
	record := answer{}
	for i, a := range l.Attributes {
		record[a.Name] = ""
		if len(matches) == 0 && i == 0 {
			c.call("POST", path+"/matches", answer{"record": answer{"licence": "L00037", "born": "1941-02-02"}, "count": 3}, &matches)
		}
	}
	if len(matches) == 0 || matches[0].Golden == 0 || !strings.Contains(strings.Join(matches[0].Values, " "), "L00037") {
		t.Errorf("%+v", matches)
	}
	if status := c.call("POST", path+"/matches", answer{"record": record}, &raw); status != 422 {
		t.Errorf("%d %s", status, raw)
	}
}

// Tables that are too large to link while a page waits are linked in the background; then all is as if they had been linked at once, decisions and all.
func TestLargeLinkage(t *testing.T) {
	c := serve(t)
	tab := c.bringIn("skippers", skippers(200))
	var made struct{ Id int64 }
	c.call("POST", "/books/1/linkages", answer{"name": "Skippers", "tables": []int64{tab}}, &made)
	path := fmt.Sprintf("/linkages/%d", made.Id)
	type view struct {
		linkageView
		Waits bool
		Job   int64
	}
	var at, waits, after view
	var links, now pairsView
	c.call("GET", path, nil, &at)
	c.call("GET", path+"/pairs?which=links&count=200", nil, &links)
	c.srv.LinkAtOnce(100)
	if status := c.call("POST", "/books/1/linkages", answer{"name": "Again", "tables": []int64{tab}}, &made); status != 201 {
		t.Fatal(status)
	}
	path = fmt.Sprintf("/linkages/%d", made.Id)
	var raw string
	if status := c.call("GET", path, nil, &waits); status != 200 || !waits.Waits || waits.Records != 300 {
		t.Fatalf("%d %+v", status, waits)
	}
	if status := c.call("GET", path+"/pairs", nil, &raw); status != 422 || !strings.Contains(raw, "linked in the background") {
		t.Errorf("%d %s", status, raw)
	}
	var job struct {
		Id    int64
		State string
	}
	if status := c.call("POST", path+"/runs", answer{}, &job); status != 202 {
		t.Fatal(status)
	}
	c.finished(job.Id)
	if status := c.call("GET", path, nil, &after); status != 200 || after.Waits || after.Links != at.Links || after.Clusters != at.Clusters || after.Compared != at.Compared {
		t.Fatalf("%d %+v, at once %+v", status, after, at)
	}
	c.call("GET", path+"/pairs?which=links&count=200", nil, &now)
	for i, p := range now.Pairs {
		if q := links.Pairs[i]; p.Left.Row != q.Left.Row || p.Right.Row != q.Right.Row || p.Weight != q.Weight {
			t.Fatalf("pair %d is %+v, at once %+v", i, p, q)
		}
	}
	p := now.Pairs[0]
	if status := c.call("POST", path+"/decisions", answer{"pairs": []answer{{"a": p.Left.Key, "b": p.Right.Key, "same": false}}}, &raw); status != 204 {
		t.Fatal(raw)
	}
	if c.call("GET", path, nil, &after); after.Links != at.Links-1 {
		t.Errorf("%d links after one was kept apart, %d before", after.Links, at.Links)
	}
}
