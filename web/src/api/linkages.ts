import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "./client";
import { useIdempotencyKey } from "./queries";

export function useLinkage(linkage: number) {
  return useQuery({
    queryKey: ["linkage", linkage],
    retry: false,
    queryFn: () => ask(api.GET("/linkages/{linkage}", { params: { path: { linkage } } })),
  });
}

export type Which = "review" | "links";

export function useLinkedPairs(linkage: number, which: Which, from: number, count: number) {
  return useQuery({
    queryKey: ["linkage", linkage, "pairs", which, from],
    retry: false,
    queryFn: () =>
      ask(api.GET("/linkages/{linkage}/pairs", { params: { path: { linkage }, query: { which, from, count } } })),
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

/** What a reviewer says of a pair: the same thing, two things, or neither any more. */
export interface Decided {
  pair: Schemas["LinkedPair"];
  same: boolean | undefined;
}

export function useDecidePair(linkage: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ pair, same }: Decided) =>
      ask(
        api.POST("/linkages/{linkage}/decisions", {
          params: { path: { linkage } },
          body: { a: pair.left.key, b: pair.right.key, same },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["linkage", linkage] }),
  });
}

export function useDrawGolden(linkage: number, name: string) {
  const client = useQueryClient();
  const key = useIdempotencyKey(`${linkage} ${name}`);
  return useMutation({
    mutationFn: () =>
      ask(
        api.POST("/linkages/{linkage}/golden", {
          params: { path: { linkage }, header: { "Idempotency-Key": key } },
          body: { name },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["contents"] }),
  });
}
