import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "./client";
import { useIdempotencyKey } from "./queries";

const at = (linkage: number) => ({ path: { linkage } });

export function useLinkage(linkage: number) {
  return useQuery({
    queryKey: ["linkage", linkage],
    retry: false,
    // What is linked in the background is asked for until it is there.
    refetchInterval: (q) => (q.state.data?.waits && q.state.data.job ? 1500 : false),
    queryFn: () => ask(api.GET("/linkages/{linkage}", { params: at(linkage) })),
  });
}

/** Links large tables in the background. */
export function useStartLinkage(linkage: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => ask(api.POST("/linkages/{linkage}/runs", { params: at(linkage) })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["linkage", linkage] }),
  });
}

export type Which = "review" | "links" | "undecided" | "spot";

export function useLinkedPairs(
  linkage: number,
  which: Which | undefined,
  from: number,
  count: number,
  reviewer: string,
) {
  return useQuery({
    queryKey: ["linkage", linkage, "pairs", which, from, reviewer],
    retry: false,
    enabled: which !== undefined,
    queryFn: () =>
      ask(
        api.GET("/linkages/{linkage}/pairs", {
          params: { ...at(linkage), query: { which, from, count, reviewer: which === "review" ? reviewer : "" } },
        }),
      ),
  });
}

/** Opens a linkage. */
export function useNewLinkage(book: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (of: { name: string; tables: number[] }) =>
      ask(api.POST("/books/{book}/linkages", { params: { path: { book } }, body: of })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["contents"] }),
  });
}

/** What is said of pairs, or that it is taken back. */
export interface Decided {
  pairs: Schemas["PairDecision"][];
  withdraw?: boolean;
}

export function useDecidePairs(linkage: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Decided) => ask(api.POST("/linkages/{linkage}/decisions", { params: at(linkage), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["linkage", linkage] }),
  });
}

/** What is found of a pair of a spot check. */
export function useSpotPair(linkage: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["PairDecision"]) =>
      ask(api.POST("/linkages/{linkage}/spot", { params: at(linkage), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["linkage", linkage] }),
  });
}

export function useDisagreements(linkage: number, wanted: boolean) {
  return useQuery({
    queryKey: ["linkage", linkage, "disagreements"],
    enabled: wanted,
    queryFn: () => ask(api.GET("/linkages/{linkage}/disagreements", { params: at(linkage) })),
  });
}

export function useSetSpec(linkage: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["LinkageSpec"]) =>
      ask(api.PUT("/linkages/{linkage}/spec", { params: at(linkage), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["linkage", linkage] }),
  });
}

/** What the last change of how it is done gained and lost. */
export function useLinkageChange(linkage: number, which: "gained" | "lost", wanted: boolean) {
  return useQuery({
    queryKey: ["linkage", linkage, "changed", which],
    enabled: wanted,
    queryFn: () =>
      ask(api.GET("/linkages/{linkage}/changed", { params: { ...at(linkage), query: { which, count: 50 } } })),
  });
}

export function useClusters(linkage: number, from: number, count: number, wanted: boolean) {
  return useQuery({
    queryKey: ["linkage", linkage, "clusters", from],
    enabled: wanted,
    queryFn: () => ask(api.GET("/linkages/{linkage}/clusters", { params: { ...at(linkage), query: { from, count } } })),
  });
}

export function useConflicts(linkage: number, attribute: string, from: number) {
  return useQuery({
    queryKey: ["linkage", linkage, "conflicts", attribute, from],
    enabled: attribute !== "",
    queryFn: () =>
      ask(
        api.GET("/linkages/{linkage}/conflicts", { params: { ...at(linkage), query: { attribute, from, count: 50 } } }),
      ),
  });
}

export function usePick(linkage: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { golden: number; attribute: string; value: string; of?: string; by?: string }) =>
      ask(api.POST("/linkages/{linkage}/picks", { params: at(linkage), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["linkage", linkage] }),
  });
}

export function useDrawGolden(linkage: number, name: string, crossReference: boolean) {
  const client = useQueryClient();
  const key = useIdempotencyKey(`${linkage} ${name} ${crossReference}`);
  return useMutation({
    mutationFn: () =>
      ask(
        api.POST("/linkages/{linkage}/golden", {
          params: { ...at(linkage), header: { "Idempotency-Key": key } },
          body: { name, crossReference },
        }),
      ),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["contents"] });
      await client.invalidateQueries({ queryKey: ["linkage", linkage] });
    },
  });
}
