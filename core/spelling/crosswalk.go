package spelling

// Decision is one line of a crosswalk: this spelling becomes that value.
type Decision struct{ Variant, Standard string }

// Standing gives the standard value of each variant, from decisions in the order they
// were made. The last decision on a variant holds. A standard value that was itself
// mapped later is followed on; one that was mapped earlier and has since been chosen
// as a standard again is not, so there are no circles.
func Standing(decisions []Decision) map[string]string {
	last := make(map[string]int, len(decisions))
	for i, d := range decisions {
		last[d.Variant] = i
	}
	out := make(map[string]string, len(last))
	for variant, i := range last {
		standard := decisions[i].Standard
		for next, ok := last[standard]; ok && next > i; next, ok = last[standard] {
			i, standard = next, decisions[next].Standard
		}
		if standard != variant {
			out[variant] = standard
		}
	}
	return out
}
