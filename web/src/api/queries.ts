import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, ask, type Schemas } from "./client";

export function useBooks() {
  return useQuery({ queryKey: ["books"], queryFn: () => ask(api.GET("/books")) });
}

export function useContents(book: number) {
  return useQuery({
    queryKey: ["contents", book],
    queryFn: () => ask(api.GET("/books/{book}", { params: { path: { book } } })),
  });
}

/** The tables of a book, those made by joining last. */
export function useTables(book: number) {
  const { data } = useContents(book);
  return [...(data?.tables ?? []), ...(data?.consolidated ?? [])];
}

export function useTable(table: number) {
  return useQuery({
    queryKey: ["table", table],
    queryFn: () => ask(api.GET("/tables/{table}", { params: { path: { table } } })),
  });
}

export function useRegister(table: number, revision?: number, where?: string) {
  return useQuery({
    queryKey: ["register", table, revision, where],
    enabled: revision !== undefined,
    staleTime: Infinity,
    queryFn: () =>
      ask(api.GET("/tables/{table}/register", { params: { path: { table }, query: { revision, where } } })),
  });
}

export function useReading(table: number, revision: number | undefined, column: string) {
  return useQuery({
    queryKey: ["reading", table, revision, column],
    enabled: revision !== undefined && column !== "",
    staleTime: Infinity,
    queryFn: () =>
      ask(api.GET("/tables/{table}/reading", { params: { path: { table }, query: { column, revision } } })),
  });
}

export function useJournal(table: number) {
  return useQuery({
    queryKey: ["journal", table],
    queryFn: () => ask(api.GET("/tables/{table}/entries", { params: { path: { table } } })),
  });
}

export function useSpellings(
  table: number,
  revision: number | undefined,
  column: string,
  accept: Schemas["Rung"],
  kind: Schemas["ColumnKind"],
  crosswalk: string,
) {
  return useQuery({
    queryKey: ["spellings", table, revision, column, accept, kind, crosswalk],
    enabled: revision !== undefined,
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/spellings", {
          params: { path: { table }, query: { column, accept, kind, revision, crosswalk: crosswalk || undefined } },
        }),
      ),
  });
}

/** The groups of a rule, and with merge what each becomes; rows chosen by hand are marked by the server too. */
export function useRepeats(
  table: number,
  revision: number | undefined,
  of: Schemas["Duplicates"] | null,
  where?: string,
  differs?: string,
  merge?: Schemas["Merge"],
) {
  const rule = JSON.stringify({ ...of, only: undefined });
  return useQuery({
    queryKey: ["repeats", table, revision, of && rule, where, differs, merge],
    enabled: revision !== undefined && of !== null,
    retry: false,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () => {
      const query = { rule, revision, where, differs: differs || undefined, merge: merge && JSON.stringify(merge) };
      return ask(api.GET("/tables/{table}/repeats", { params: { path: { table }, query } }));
    },
  });
}

export function useCrosswalk(book: number, name: string) {
  return useQuery({
    queryKey: ["crosswalk", book, name],
    queryFn: () => ask(api.GET("/books/{book}/crosswalks/{name}", { params: { path: { book, name } } })),
  });
}

export function useJobs(book: number) {
  return useQuery({
    queryKey: ["jobs", book],
    queryFn: () => ask(api.GET("/books/{book}/jobs", { params: { path: { book } } })),
  });
}

export type Draft = Schemas["Draft"];

/** What an entry would do; nothing is asked while there is no draft. */
export function useDraft(table: number, draft: Draft | null) {
  return useQuery({
    queryKey: ["draft", table, draft],
    enabled: draft !== null,
    retry: false,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () => ask(api.POST("/tables/{table}/draft", { params: { path: { table } }, body: draft! })),
  });
}

/** Keeps apart, or takes that back, and has the proposals made anew. */
export function useApart(book: number, name: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ value, other, withdraw }: { value: string; other: string; withdraw?: boolean }) => {
      const params = { path: { book, name } };
      return withdraw
        ? ask(api.POST("/books/{book}/crosswalks/{name}/withdraw", { params, body: { value, other } }))
        : ask(api.POST("/books/{book}/crosswalks/{name}/apart", { params, body: { value, other } }));
    },
    onSuccess: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: ["spellings"] }),
        client.invalidateQueries({ queryKey: ["crosswalk", book, name] }),
      ]),
  });
}

/** A key for one change: the same while what is asked stays the same, so that a repeated request is done once. */
export function useIdempotencyKey(of: unknown): string {
  const what = JSON.stringify(of);
  // A new key whenever what is asked changes; the key itself says nothing of it.
  // oxlint-disable-next-line exhaustive-deps
  return useMemo(() => crypto.randomUUID(), [what]);
}
