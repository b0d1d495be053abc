package reconcile

// assign pairs rows with columns at the least cost overall, as many as there are of the fewer; it gives the column of each row, -1 for none.
//
// This is the method of H. Kuhn (1955) with shortest augmenting paths (R. Jonker and A. Volgenant, Computing 38, 1987). Cost: O(n³).
func assign(costs [][]int) []int {
	n := len(costs)
	if n == 0 {
		return nil
	}
	m := len(costs[0])
	if n > m { // the shorter side is assigned to the longer
		turned := make([][]int, m)
		for j := range turned {
			turned[j] = make([]int, n)
			for i := range costs {
				turned[j][i] = costs[i][j]
			}
		}
		out := make([]int, n)
		for i := range out {
			out[i] = -1
		}
		for j, i := range assign(turned) {
			out[i] = j
		}
		return out
	}
	const inf = int(1) << 50
	u, v, row, way := make([]int, n+1), make([]int, m+1), make([]int, m+1), make([]int, m+1)
	for i := 1; i <= n; i++ {
		row[0] = i
		j0 := 0
		low, used := make([]int, m+1), make([]bool, m+1)
		for j := range low {
			low[j] = inf
		}
		for {
			used[j0] = true
			i0, delta, j1 := row[j0], inf, 0
			for j := 1; j <= m; j++ {
				if used[j] {
					continue
				}
				if c := costs[i0-1][j-1] - u[i0] - v[j]; c < low[j] {
					low[j], way[j] = c, j0
				}
				if low[j] < delta {
					delta, j1 = low[j], j
				}
			}
			for j := 0; j <= m; j++ {
				if used[j] {
					u[row[j]] += delta
					v[j] -= delta
				} else {
					low[j] -= delta
				}
			}
			j0 = j1
			if row[j0] == 0 {
				break
			}
		}
		for j0 != 0 {
			j1 := way[j0]
			row[j0] = row[j1]
			j0 = j1
		}
	}
	out := make([]int, n)
	for i := range out {
		out[i] = -1
	}
	for j := 1; j <= m; j++ {
		if row[j] > 0 {
			out[row[j]-1] = j - 1
		}
	}
	return out
}
