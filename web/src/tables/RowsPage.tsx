import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState, type FormEvent } from "react";
import { Link, useSearchParams } from "react-router";
import { api, ask, type Row } from "../api/client";
import { useTable } from "../api/queries";
import { useWhere, type Condition } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { Keys } from "../design/Keys";
import { Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { windowSize } from "../design/VirtualList";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { LayoutDialog } from "./LayoutDialog";
import { EditCell } from "./EditCell";
import { RowGrid, type Shown } from "./RowGrid";
import { TableHead, TableSub } from "./TableHead";
import { useCopy } from "./useCopy";
import { useLayout } from "./useLayout";

/** The rows of a table, as many as there are; or those that hold one value, a word, or the table's condition. */
export function RowsPage() {
  const { book, table } = useBook();
  const { data, error } = useTable(table);
  const [query] = useSearchParams();
  const column = query.get("column") ?? undefined;
  const value = query.get("value") ?? undefined;
  const where = useWhere(table);
  const [typed, setTyped] = useState("");
  const find = useDeferredValue(typed.trim());
  const [sort, setSort] = useState<string[]>([]);
  const [editing, setEditing] = useState<{ row: Row; column: Shown } | null>(null);
  const of = {
    revision: data?.revision,
    column,
    value,
    where: holding(where.condition, find),
    sort: sort.length ? sort : undefined,
  };
  const page = (from: number, number: number) =>
    ask(api.GET("/tables/{table}/rows", { params: { path: { table }, query: { ...of, from, count: number } } }));
  const first = useQuery({
    queryKey: ["rows", table, of, "total"],
    enabled: data !== undefined,
    staleTime: Infinity,
    placeholderData: (last) => last,
    queryFn: () => page(0, 1),
  });
  const [jump, setJump] = useState("");
  const [at, setAt] = useState<number>();
  const total = first.data?.total ?? 0;
  const layout = useLayout(table, first.data?.columns ?? []);
  const [layingOut, setLayingOut] = useState(false);
  const copy = useCopy(layout.shown, async (from, number) => (await page(from, number)).rows);
  const clear = copy.clear;
  const changed = JSON.stringify(of);
  useEffect(() => clear(), [changed, clear]);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    const row = Number(jump.replaceAll(",", ""));
    if (Number.isInteger(row) && row >= 1) setAt(Math.min(row, total) - 1);
  };
  const sortBy = (name: string, more: boolean) => {
    const now = sort.find((s) => s === name || s === `-${name}`);
    const others = more ? sort.filter((s) => s !== now) : [];
    const next = now === undefined ? [name] : now === name ? [`-${name}`] : [];
    setSort([...others, ...next]);
  };
  return (
    <Spread
      left={
        <Page
          side="left"
          title={data?.name ?? "…"}
          tab={data && `Rows of ${data.name}`}
          sub={data && <TableSub table={data} />}
          foot={
            <Keys
              keys={[
                [["click"], "mark a row"],
                [["Shift", "click"], "mark up to it"],
                [["Ctrl", "C"], copy.said ?? "copy the marked rows"],
                [["double click"], "change a cell"],
              ]}
            />
          }
        >
          {(error ?? first.error) && <ProblemNotice error={error ?? first.error} />}
          {data && (
            <TableHead table={data}>
              <Input
                className="h-6! w-36 text-[12px]"
                placeholder="Find in any column"
                aria-label="Find in any column"
                value={typed}
                onChange={(e) => setTyped(e.target.value)}
              />
              <form onSubmit={submit} className="flex gap-1.5">
                <Input
                  className="h-6! w-24 text-[12px]"
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
              <Button kind="small" onClick={() => setLayingOut(true)}>
                Columns shown
              </Button>
            </TableHead>
          )}
          <WhereStrip revision={data?.revision} />
          {(find || sort.length > 0) && first.data && (
            <p className="mb-1 text-ink-2" role="status">
              {find && `${count(total, "row")} with “${find}”. `}
              {sort.length > 0 &&
                `Sorted by ${sort.map((s) => s.replace(/^-(.*)$/, "$1, turned round")).join(", then ")}. `}
              <Button
                kind="quiet"
                className="h-auto! p-0!"
                onClick={() => {
                  setTyped("");
                  setSort([]);
                }}
              >
                As they stand
              </Button>
            </p>
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
              columns={layout.shown}
              total={total}
              page={async (from, number) => (await page(from, number)).rows}
              at={at}
              sort={sort}
              onSort={sortBy}
              onWiden={(name, width) => layout.set(layout.all.map((c) => (c.name === name ? { ...c, width } : c)))}
              marked={copy.marked}
              onMark={copy.mark}
              onEdit={(row, column) => setEditing({ row, column })}
            />
          )}
          {total > windowSize && (
            <p className="pt-2 text-[12px] text-ink-2">
              {n(windowSize)} rows are scrolled through at a time; jump to a row to reach the others.
            </p>
          )}
          {editing && <EditCell table={table} {...editing} onClose={() => setEditing(null)} />}
          <LayoutDialog
            open={layingOut}
            all={layout.all}
            onChange={layout.set}
            onReset={layout.reset}
            onClose={() => setLayingOut(false)}
          />
        </Page>
      }
    />
  );
}

/** The table's condition together with a word to find in any column. */
function holding(where: Condition | null, find: string): string | undefined {
  const parts: Condition[] = [...(where ? [where] : []), ...(find ? [{ op: "contains" as const, text: find }] : [])];
  if (parts.length === 0) return undefined;
  return JSON.stringify(parts.length === 1 ? parts[0] : { op: "all", of: parts });
}
