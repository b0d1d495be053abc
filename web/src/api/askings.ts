import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "./client";

const at = (asking: number) => ({ path: { asking } });

export function useAsking(asking: number) {
  return useQuery({
    queryKey: ["asking", asking],
    retry: false,
    refetchInterval: (q) => (q.state.data?.job ? 1500 : false),
    queryFn: () => ask(api.GET("/askings/{asking}", { params: at(asking) })),
  });
}

export type AskedState = "identified" | "undecided" | "not listed";

export function useAskedValues(asking: number, state: AskedState, search: string, from: number, count: number) {
  return useQuery({
    queryKey: ["asking", asking, "values", state, search, from],
    retry: false,
    queryFn: () =>
      ask(api.GET("/askings/{asking}/values", { params: { ...at(asking), query: { state, search, from, count } } })),
  });
}

export function useNewAsking(book: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["NewAsking"]) =>
      ask(api.POST("/books/{book}/askings", { params: { path: { book } }, body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["contents"] }),
  });
}

export function useAskService(asking: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => ask(api.POST("/askings/{asking}/ask", { params: at(asking) })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["asking", asking] }),
  });
}

export function useEntries(asking: number, text: string) {
  return useQuery({
    queryKey: ["asking", asking, "entries", text],
    enabled: text.trim().length > 1,
    queryFn: () => ask(api.GET("/askings/{asking}/entries", { params: { ...at(asking), query: { text } } })),
  });
}

/** What is said of values, or that it is taken back. */
export interface AskedDecisions {
  values: Schemas["AskedDecision"][];
  withdraw?: boolean;
}

export function useDecideAsked(asking: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: AskedDecisions) => ask(api.POST("/askings/{asking}/decisions", { params: at(asking), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["asking", asking] }),
  });
}

export function useTrouble(asking: number, wanted: boolean) {
  return useQuery({
    queryKey: ["asking", asking, "trouble"],
    enabled: wanted,
    queryFn: () => ask(api.GET("/askings/{asking}/trouble", { params: at(asking) })),
  });
}
