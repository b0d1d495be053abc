import { useMutation } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, ask, type Schemas, type Table } from "../api/client";
import { useContents } from "../api/queries";
import { Button } from "../design/Button";
import { Select } from "../design/Field";
import { Notice, ProblemNotice } from "../design/Notice";
import { n } from "../design/words";
import { JobLine } from "../shell/Jobs";
import { tablePath } from "../shell/useBook";
import { useJobToTable } from "../shell/useJobToTable";

/** Whether received files may be the next delivery of a table of the book: one that was asked for, or whose columns they have. */
export function useNextDelivery(book: number, files: Schemas["Upload"][]): { busy: boolean; notice: ReactNode } {
  const [query] = useSearchParams();
  const contents = useContents(book);
  const names = new Set(files[0]?.preview.names ?? []);
  const asked = Number(query.get("for") ?? 0);
  const alike = (contents.data?.tables ?? [])
    .filter((t) => t.copyOf === undefined)
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
  const beside = useBeside(contents.data?.tables ?? [], files);
  if (alike.length === 0 && !beside) return { busy: false, notice: null };
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
        {beside}
      </Notice>
    ),
  };
}

/** The largest file whose columns can be put beside those of a table. */
const maxBeside = 8 << 20;

/** The way to put the columns of a small file beside those of a table with as many rows. */
function useBeside(tables: Table[], files: Schemas["Upload"][]): ReactNode {
  const [file] = files;
  const navigate = useNavigate();
  if (!file || files.length > 1 || file.bytes > maxBeside) return null;
  const rows = file.preview.rows.length;
  const names = file.preview.names;
  // The preview stops at 50 rows; a longer file may fit any longer table.
  const fit = tables.filter(
    (t) => (rows < 50 ? t.rows === rows : t.rows >= rows) && !t.columns.some((c) => names.includes(c)),
  );
  if (rows === 0 || fit.length === 0) return null;
  return (
    <div className="mt-1.5 flex items-center justify-between gap-3">
      <span>Or put its columns beside those of</span>
      <Select
        label="Put its columns beside"
        value=""
        options={[{ value: "", name: "a table…" }, ...fit.map((t) => ({ value: String(t.id), name: t.name }))]}
        onChange={(id) => id && void navigate(tablePath(file.bookId, Number(id), `/beside?upload=${file.id}`))}
        className="min-w-0 flex-1"
      />
    </div>
  );
}
