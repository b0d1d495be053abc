import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Table = Schemas["Table"];
export type Profile = Schemas["Profile"];
export type Entry = Schemas["Entry"];
export type Effect = Schemas["Effect"];
export type Job = Schemas["Job"];
export type Group = Schemas["Group"];
export type Rung = Schemas["Rung"];
export type Row = Schemas["Row"];
export type ProblemDocument = Schemas["Problem"];

export const api = createClient<paths>({
  baseUrl: "/api",
  querySerializer: { array: { style: "form", explode: true } },
});

/** An answer of the server that says what is wrong and what to do. */
export class Problem extends Error {
  constructor(public readonly document: ProblemDocument) {
    super(document.detail || document.title);
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Gives what a call answered, or throws its problem. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new Problem({
      title: "No answer",
      status: 0,
      detail: "Grand Ledger does not answer.",
      remedy: "Look whether it still runs, then try again",
    });
  }
  if (answer.error !== undefined || !answer.response.ok) {
    throw new Problem(problemOf(answer.error, answer.response.status));
  }
  return answer.data as T;
}

export function problemOf(error: unknown, status: number): ProblemDocument {
  if (typeof error === "object" && error !== null && "title" in error && "detail" in error) {
    return error as ProblemDocument;
  }
  return { title: "Something went wrong", status, detail: `The server answered with status ${status}.` };
}
