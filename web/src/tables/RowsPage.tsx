import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { Link, useSearchParams } from "react-router";
import { api, ask } from "../api/client";
import { useTable } from "../api/queries";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { windowSize } from "../design/VirtualList";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { RowGrid } from "./RowGrid";
import { TableHead, tableSub } from "./TableHead";

/** The rows of a table, as many as there are; or those that hold one value. */
export function RowsPage() {
  const { book, table } = useBook();
  const { data, error } = useTable(table);
  const [query] = useSearchParams();
  const column = query.get("column") ?? undefined;
  const value = query.get("value") ?? undefined;
  const of = { revision: data?.revision, column, value };
  const page = (from: number, number: number) =>
    ask(api.GET("/tables/{table}/rows", { params: { path: { table }, query: { ...of, from, count: number } } }));
  const first = useQuery({
    queryKey: ["rows", table, of, "total"],
    enabled: data !== undefined,
    staleTime: Infinity,
    queryFn: () => page(0, 1),
  });
  const [jump, setJump] = useState("");
  const [at, setAt] = useState<number>();
  const total = first.data?.total ?? 0;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const row = Number(jump.replaceAll(",", ""));
    if (Number.isInteger(row) && row >= 1) setAt(Math.min(row, total) - 1);
  };
  return (
    <Spread
      left={
        <Page side="left" title={data?.name ?? "…"} tab={data && `Rows of ${data.name}`} sub={data && tableSub(data)}>
          {(error ?? first.error) && <ProblemNotice error={error ?? first.error} />}
          {data && (
            <TableHead table={data}>
              <form onSubmit={submit} className="flex gap-1.5">
                <Input
                  className="h-6! w-28 text-[12px]"
                  placeholder="Row number"
                  aria-label="Row to jump to"
                  inputMode="numeric"
                  value={jump}
                  onChange={(e) => setJump(e.target.value)}
                />
                <Button kind="small" type="submit">
                  Jump
                </Button>
              </form>
            </TableHead>
          )}
          {value !== undefined && first.data && (
            <p className="mb-1 text-ink-2">
              {count(total, "row")} where {column} is <Value value={value} className="font-semibold text-ink" />.{" "}
              <Link className="text-pencil underline" to={tablePath(book, table, "/rows")}>
                Show all rows
              </Link>
            </p>
          )}
          {first.isPending && !error && <Loading what="Fetching rows…" />}
          {first.data && total === 0 && <p className="py-6 text-ink-2">No row stands here.</p>}
          {first.data && total > 0 && (
            <RowGrid
              name={["rows", table, of]}
              columns={first.data.columns}
              total={total}
              page={async (from, number) => (await page(from, number)).rows}
              at={at}
            />
          )}
          {total > windowSize && (
            <p className="pt-2 text-[12px] text-ink-2">
              {n(windowSize)} rows are scrolled through at a time; jump to a row to reach the others.
            </p>
          )}
        </Page>
      }
    />
  );
}
