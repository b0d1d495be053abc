import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "./client";

const at = (reconciliation: number) => ({ path: { reconciliation } });

export function useReconciliation(id: number) {
  return useQuery({
    queryKey: ["reconciliation", id],
    retry: false,
    queryFn: () => ask(api.GET("/reconciliations/{reconciliation}", { params: at(id) })),
  });
}

export function useReconciledItems(id: number, name: string, from: number, count: number) {
  return useQuery({
    queryKey: ["reconciliation", id, "items", name, from],
    retry: false,
    enabled: name !== "",
    queryFn: () =>
      ask(
        api.GET("/reconciliations/{reconciliation}/items", {
          params: { ...at(id), query: { class: name, from, count } },
        }),
      ),
  });
}

export function useNewReconciliation(book: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; ours: number; theirs: number }) =>
      ask(api.POST("/books/{book}/reconciliations", { params: { path: { book } }, body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["contents"] }),
  });
}

function useChange<T>(id: number, change: (body: T) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => client.invalidateQueries({ queryKey: ["reconciliation", id] }),
  });
}

export const useSetSettling = (id: number) =>
  useChange(id, (body: Schemas["SettleSpec"]) =>
    ask(api.PUT("/reconciliations/{reconciliation}/spec", { params: at(id), body })),
  );

export function useDecideItems(id: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["ItemDecision"]) =>
      ask(api.POST("/reconciliations/{reconciliation}/decisions", { params: at(id), body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["reconciliation", id] }),
  });
}

export const useWithdrawItems = (id: number) =>
  useChange(id, (number: number) =>
    ask(
      api.DELETE("/reconciliations/{reconciliation}/decisions/{number}", {
        params: { path: { reconciliation: id, number } },
      }),
    ),
  );

export const useClose = (id: number) =>
  useChange(id, (body: { signed: string; note?: string }) =>
    ask(api.POST("/reconciliations/{reconciliation}/closing", { params: at(id), body })),
  );

export const useReopen = (id: number) =>
  useChange(id, () => ask(api.DELETE("/reconciliations/{reconciliation}/closing", { params: at(id) })));
