import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, Problem, problemOf, type Schemas } from "./client";

/** The short forms of a book, and how they are replaced; proposals are made anew then. */
export function useShortForms(book: number) {
  const client = useQueryClient();
  const params = { path: { book } };
  const query = useQuery({
    queryKey: ["short forms", book],
    queryFn: () => ask(api.GET("/books/{book}/forms", { params })),
  });
  const save = useMutation({
    mutationFn: (forms: Record<string, string>) => ask(api.PUT("/books/{book}/forms", { params, body: { forms } })),
    onSuccess: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: ["short forms", book] }),
        client.invalidateQueries({ queryKey: ["spellings"] }),
      ]),
  });
  return { query, save };
}

/** A change of a crosswalk by hand. */
export type CrosswalkEdit =
  | { do: "decide"; change: Schemas["CrosswalkChange"] }
  | { do: "forget"; value: string }
  | { do: "say"; standard: Schemas["StandardValue"] }
  | { do: "rename"; from: string; to: string }
  | { do: "close"; closed: boolean }
  | { do: "read"; file: File; overrule?: boolean };

export function useCrosswalkEdit(book: number, name: string) {
  const client = useQueryClient();
  const params = { path: { book, name } };
  return useMutation({
    mutationFn: async (edit: CrosswalkEdit): Promise<Schemas["CrosswalkChanged"] | undefined> => {
      switch (edit.do) {
        case "decide":
          return ask(api.POST("/books/{book}/crosswalks/{name}/decisions", { params, body: edit.change }));
        case "forget":
          return ask(api.POST("/books/{book}/crosswalks/{name}/forget", { params, body: { value: edit.value } }));
        case "say":
          return ask(api.PUT("/books/{book}/crosswalks/{name}/standards", { params, body: edit.standard }));
        case "rename":
          return ask(
            api.POST("/books/{book}/crosswalks/{name}/standards", { params, body: { from: edit.from, to: edit.to } }),
          );
        case "close":
          return ask(api.PUT("/books/{book}/crosswalks/{name}/closed", { params, body: { closed: edit.closed } }));
        case "read":
          return readFile(book, name, edit.file, edit.overrule ?? false);
      }
    },
    onSuccess: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: ["crosswalk", book, name] }),
        client.invalidateQueries({ queryKey: ["contents"] }),
        client.invalidateQueries({ queryKey: ["spellings"] }),
      ]),
  });
}

const path = (book: number, name: string) => `/api/books/${book}/crosswalks/${encodeURIComponent(name)}/file`;

/** The address of a crosswalk as a file. */
export const crosswalkFile = (book: number, name: string, format: string) => `${path(book, name)}?format=${format}`;

async function readFile(book: number, name: string, file: File, overrule: boolean) {
  const query = new URLSearchParams({ name: file.name, overrule: String(overrule) });
  const answer = await fetch(`${path(book, name)}?${query}`, {
    method: "POST",
    headers: { "Content-Type": "application/octet-stream" },
    body: file,
  });
  const body: unknown = await answer.json();
  if (!answer.ok) throw new Problem(problemOf(body, answer.status));
  return body as Schemas["CrosswalkChanged"];
}
