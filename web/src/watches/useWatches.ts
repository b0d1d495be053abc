import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../api/client";

/** The watches of a table, checked on a revision. */
export function useWatches(table: number, revision: number | undefined) {
  return useQuery({
    queryKey: ["watches", table, revision],
    enabled: revision !== undefined,
    queryFn: () => ask(api.GET("/tables/{table}/watches", { params: { path: { table }, query: { revision } } })),
  });
}

/** Adds a watch, or drops one. */
export function useWatchChange(table: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (change: { add: Schemas["WatchRule"] } | { drop: number }) => {
      if ("add" in change) {
        await ask(api.POST("/tables/{table}/watches", { params: { path: { table } }, body: change.add }));
      } else {
        await ask(api.DELETE("/tables/{table}/watches/{watch}", { params: { path: { table, watch: change.drop } } }));
      }
    },
    onSettled: () => client.invalidateQueries({ queryKey: ["watches", table] }),
  });
}
