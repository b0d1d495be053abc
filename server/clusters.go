package server

import (
	"cmp"
	"context"
	"slices"

	"grandledger/api"
	"grandledger/core/linkage"
)

// clusterPlace is a cluster in the order of the list: its links by place in the cluster, and the weight of the weakest that it needs.
type clusterPlace struct {
	number  int
	weakest float64
	links   []api.ClusterLink
}

// shownOf is how many records of a cluster are shown.
const shownOf = 50

// clusters puts the clusters in the order of what they hang together by.
func (l *linked) clusters() []clusterPlace {
	l.inOrder.Do(func() {
		l.at = map[linkage.Row]int{}
		within := map[linkage.Row]int{}
		for i, c := range l.result.Clusters {
			for n, row := range c {
				l.at[row], within[row] = i, n
			}
			l.places = append(l.places, clusterPlace{number: i})
		}
		for _, p := range l.result.Pairs {
			a, b := linkage.Row{Table: p.LeftTable, Row: p.LeftRow}, linkage.Row{Table: p.RightTable, Row: p.RightRow}
			x, ok := l.at[a]
			if y, also := l.at[b]; !ok || !also || x != y || p.Verdict != linkage.Linked {
				continue
			}
			l.places[x].links = append(l.places[x].links, api.ClusterLink{Left: within[a], Right: within[b], Weight: p.Weight, Probability: p.Probability, Decided: p.Decided})
		}
		for i := range l.places {
			l.places[i].weakest = weakest(l.places[i].links, len(l.result.Clusters[i]))
		}
		slices.SortStableFunc(l.places, func(a, b clusterPlace) int { return cmp.Compare(a.weakest, b.weakest) })
	})
	return l.places
}

// weakest is the weight of the weakest link that holds records together, if each is tied by the strongest there are (a spanning tree of most weight). What somebody
// decided is as strong as can be.
func weakest(links []api.ClusterLink, records int) float64 {
	order := slices.Clone(links)
	weight := func(l api.ClusterLink) float64 {
		if l.Decided {
			return 100
		}
		return l.Weight
	}
	slices.SortStableFunc(order, func(a, b api.ClusterLink) int { return cmp.Compare(weight(b), weight(a)) })
	top := make([]int, records)
	for i := range top {
		top[i] = i
	}
	root := func(i int) int {
		for top[i] != i {
			i = top[i]
		}
		return i
	}
	out := 100.0
	for _, l := range order {
		if x, y := root(l.Left), root(l.Right); x != y {
			top[y] = x
			out = weight(l)
		}
	}
	return out
}

// joins is how many records the cluster of a pair would have, were it one thing.
func (l *linked) joins(p linkage.Pair) int {
	l.clusters()
	size := func(row linkage.Row) (int, int) {
		if at, ok := l.at[row]; ok {
			return at, len(l.result.Clusters[at])
		}
		return -1, 1
	}
	a, n := size(linkage.Row{Table: p.LeftTable, Row: p.LeftRow})
	b, k := size(linkage.Row{Table: p.RightTable, Row: p.RightRow})
	if a >= 0 && a == b {
		return n
	}
	return n + k
}

// GetClusters gives a page of clusters, those that hang together by the least first.
func (s *Server) GetClusters(ctx context.Context, r api.GetClustersRequestObject) (api.GetClustersResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	all := l.clusters()
	if r.Params.With != "" {
		all = slices.DeleteFunc(slices.Clone(all), func(c clusterPlace) bool {
			return !slices.ContainsFunc(l.result.Clusters[c.number], func(row linkage.Row) bool { return l.key(row.Table, row.Row) == r.Params.With })
		})
	}
	out := api.GetClusters200JSONResponse{Total: len(all), Clusters: []api.Cluster{}}
	from := min(max(r.Params.From, 0), len(all))
	for _, place := range all[from:min(from+page(r.Params.Count, 50), len(all))] {
		rows := l.result.Clusters[place.number]
		c := api.Cluster{Number: place.number + 1, Size: len(rows), Weakest: place.weakest, Records: []api.ClusterRecord{}, Links: []api.ClusterLink{}}
		for _, row := range rows[:min(len(rows), shownOf)] {
			c.Records = append(c.Records, api.ClusterRecord{Record: recordOf(l, row.Table, row.Row), Values: cutAll(l.values(row.Table, row.Row))})
		}
		for _, link := range place.links {
			if link.Left < shownOf && link.Right < shownOf {
				c.Links = append(c.Links, link)
			}
		}
		out.Clusters = append(out.Clusters, c)
	}
	return out, nil
}
