import { useMutation } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useContents } from "../api/queries";
import { Button } from "../design/Button";
import { Notice, ProblemNotice } from "../design/Notice";
import { n } from "../design/words";
import { JobLine } from "../shell/Jobs";
import { useJobToTable } from "../shell/useJobToTable";

/** Whether received files may be the next delivery of a table of the book: one that was asked for, or whose columns they have. */
export function useNextDelivery(book: number, files: Schemas["Upload"][]): { busy: boolean; notice: ReactNode } {
  const [query] = useSearchParams();
  const contents = useContents(book);
  const names = new Set(files[0]?.preview.names ?? []);
  const asked = Number(query.get("for") ?? 0);
  const alike = (contents.data?.tables ?? [])
    .map((table) => ({ table, shared: table.columns.filter((c) => names.has(c)).length }))
    .filter(({ table, shared }) => table.id === asked || shared * 2 > Math.max(table.columns.length, names.size))
    .toSorted((a, b) => Number(b.table.id === asked) - Number(a.table.id === asked) || b.shared - a.shared)
    .slice(0, 3);
  const start = useMutation({
    mutationFn: (table: number) =>
      ask(
        api.POST("/tables/{table}/refresh", {
          params: { path: { table } },
          body: { uploads: files.map((f) => f.id) },
        }),
      ),
  });
  const { job, busy } = useJobToTable(book, start.data?.id, "/refresh");
  if (alike.length === 0) return { busy: false, notice: null };
  return {
    busy: start.isPending || busy,
    notice: (
      <Notice tone={asked ? "green" : "ochre"}>
        {start.error && <ProblemNotice error={start.error} />}
        {job && job.state !== "done" ? (
          <JobLine book={book} job={job} />
        ) : (
          <ul className="flex flex-col gap-1.5">
            {alike.map(({ table, shared }) => (
              <li key={table.id} className="flex items-baseline justify-between gap-3">
                <span className="min-w-0">
                  {shared === table.columns.length
                    ? "It has all columns"
                    : `It has ${n(shared)} of ${n(table.columns.length)} columns`}{" "}
                  of <b className="font-semibold">{table.name}</b>.
                </span>
                <Button
                  kind={table.id === asked ? "main" : "small"}
                  disabled={start.isPending || busy}
                  onClick={() => start.mutate(table.id)}
                >
                  Read it as its next delivery
                </Button>
              </li>
            ))}
          </ul>
        )}
      </Notice>
    ),
  };
}
