package spelling

import (
	"fmt"
	"testing"

	"grandledger/core/table"
)

func BenchmarkLadder(b *testing.B) {
	for _, n := range []int{100_000, 300_000} {
		d := table.NewDictBuilder()
		var codes []uint32
		for _, v := range names(n) {
			codes = append(codes, d.Add(v[:len(v)/2]+" "+v[len(v)/2:]))
		}
		c := &table.Column{Name: "v", Codes: &table.Codes{At: codes}, Dict: d.Dict()}
		t, err := table.New([]*table.Column{c}, len(codes))
		if err != nil {
			b.Fatal(err)
		}
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				Ladder(t, c, Decisions{}, Options{})
			}
		})
	}
}
