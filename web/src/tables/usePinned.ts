import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask, type Entry, type Table } from "../api/client";
import { useIdempotencyKey, useTable, type Draft } from "../api/queries";

export interface Pinned {
  table: Table | undefined;
  error: unknown;
  /** The revision the page was opened on. */
  revision: number | undefined;
  /** Whether another revision stands now. */
  moved: boolean;
  /** Takes the revision that stands now. */
  follow: () => void;
}

/** Keeps a page that drafts an entry on the revision it was opened on, so that nothing changes under the steward's hands. */
export function usePinned(id: number): Pinned {
  const live = useTable(id);
  const [pinned, pin] = useState<number>();
  const stands = live.data?.revision;
  useEffect(() => {
    if (pinned === undefined && stands !== undefined) pin(stands);
  }, [pinned, stands]);
  return {
    table: live.data,
    error: live.error,
    revision: pinned ?? stands,
    moved: pinned !== undefined && stands !== undefined && pinned !== stands,
    follow: () => pin(undefined),
  };
}

/** Posts the drafted entry once, however often the request is repeated. */
export function usePost(table: number, draft: Draft | null, onPosted: (entry: Entry) => void) {
  const client = useQueryClient();
  const key = useIdempotencyKey(draft);
  return useMutation({
    mutationFn: () =>
      ask(
        api.POST("/tables/{table}/entries", {
          params: { path: { table }, header: { "Idempotency-Key": key } },
          body: draft!,
        }),
      ),
    onSuccess: async (entry) => {
      await refresh(client, table);
      onPosted(entry);
    },
    onError: () => client.invalidateQueries({ queryKey: ["table", table] }),
  });
}

export type Change = { reverse?: number } | { repost: number; following?: boolean } | { mark: string };

/** Reverses the last entry, posts a reversed one again, or returns to a mark. */
export function useJournalChange(table: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ change, revision }: { change: Change; revision: number }) => {
      const header = { "Idempotency-Key": crypto.randomUUID() };
      if ("mark" in change) {
        return ask(
          api.POST("/tables/{table}/marks/{mark}", {
            params: { path: { table, mark: change.mark }, header },
            body: { revision },
          }),
        );
      }
      return "repost" in change
        ? ask(
            api.POST("/tables/{table}/entries/{number}/repost", {
              params: { path: { table, number: change.repost }, header },
              body: { revision, following: change.following },
            }),
          )
        : ask(
            api.POST("/tables/{table}/reverse", {
              params: { path: { table }, header },
              body: { revision, to: change.reverse },
            }),
          );
    },
    onSettled: () => refresh(client, table),
  });
}

async function refresh(client: ReturnType<typeof useQueryClient>, table: number) {
  await Promise.all([
    client.invalidateQueries({ queryKey: ["table", table] }),
    client.invalidateQueries({ queryKey: ["journal", table] }),
    client.invalidateQueries({ queryKey: ["marks", table] }),
    client.invalidateQueries({ queryKey: ["contents"] }),
    client.invalidateQueries({ queryKey: ["crosswalk"] }),
  ]);
}
