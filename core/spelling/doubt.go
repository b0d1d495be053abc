package spelling

import (
	"fmt"
	"strings"
)

// rareTimes is how many times as frequent a standard value is as what is plainly a slip of it.
const rareTimes = 10

// Doubts says why a group is to be looked at before it is taken; "" where nothing speaks against taking it with
// others: strict evidence, or slips that are rare beside what they are slips of, and no other place where a value
// could belong.
func Doubts(g Group) string {
	var why []string
	if g.Weakest == Sound || g.Weakest == Likeness {
		why = append(why, "rests on "+Rungs[g.Weakest])
	}
	most := 0
	for _, m := range g.Members {
		if m.Value == g.Standard {
			most = m.Rows
		}
	}
	for _, m := range g.Members {
		if m.Rung == Slips && m.Value != g.Standard && m.Rows*rareTimes > most {
			why = append(why, fmt.Sprintf("“%s” is not rare beside it", m.Value))
			break
		}
	}
	for _, m := range g.Members {
		if len(m.Against) > 0 {
			why = append(why, fmt.Sprintf("“%s” has %s", m.Value, m.Against[0]))
			break
		}
	}
	for _, h := range g.Held {
		if strings.HasPrefix(h.Why, asNear) {
			why = append(why, fmt.Sprintf("“%s” is %s", h.Value, h.Why))
			break
		}
	}
	return strings.Join(why, "; ")
}
