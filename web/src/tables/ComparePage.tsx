import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useTables, useTable } from "../api/queries";
import { setWhere, useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Segments, Select } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { VirtualList } from "../design/VirtualList";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";

type Side = "" | "both" | "here" | "there";
type Line = Schemas["BesideLine"];

/** The distinct values of a column beside those of another: what both have, and what only one of them has. */
export function ComparePage() {
  const { book, table } = useBook();
  const [query, setQuery] = useSearchParams();
  const column = query.get("column") ?? "";
  const { data, error } = useTable(table);
  const where = useWhere(table);
  const [side, setSide] = useState<Side>("");
  const tables = useTables(book);
  const withTable = Number(query.get("withTable") ?? table);
  const other = tables.find((t) => t.id === withTable);
  const columns = (other?.columns ?? []).filter((c) => withTable !== table || c !== column);
  const asked = query.get("withColumn");
  const withColumn = asked && columns.includes(asked) ? asked : (columns.find((c) => c === column) ?? columns[0] ?? "");
  const choose = (part: Record<string, string>) =>
    setQuery({ column, withTable: String(withTable), withColumn, ...part }, { replace: true });
  const of = { column, withTable, withColumn, revision: data?.revision, where: where.text };
  const ready = data !== undefined && withColumn !== "";
  const page = (side: Side, from: number, number: number) =>
    ask(
      api.GET("/tables/{table}/compare", {
        params: { path: { table }, query: { ...of, side, from, count: number } },
      }),
    );
  const head = useQuery({
    queryKey: ["compare", table, of, side, "head"],
    enabled: ready,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () => page(side, 0, 1),
  });
  const counts = head.data?.counts ?? [];
  const at = (s: Side) => counts.find((c) => c.side === s);
  const names: Record<Exclude<Side, "">, string> = { both: "In both", here: "Only here", there: "Only there" };
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title={`${column} beside ${withColumn}`}
          tab={`${column} beside ${withColumn}`}
          sub={
            data && other && (withTable === table ? `Both of ${data.name}.` : `Of ${data.name}, beside ${other.name}.`)
          }
        >
          {(error ?? head.error) && <ProblemNotice error={error ?? head.error} />}
          <WhereStrip revision={data?.revision} />
          <p className="mb-2 flex items-center gap-2">
            <span className="text-ink-2">Beside</span>
            <Select
              label="Column to compare with"
              value={withColumn}
              options={columns.map((c) => ({ value: c, name: c }))}
              onChange={(v) => choose({ withColumn: v })}
              className="w-44"
            />
            <span className="text-ink-2">of</span>
            <Select
              label="Table to compare with"
              value={String(withTable)}
              options={tables.map((t) => ({ value: String(t.id), name: t.name }))}
              onChange={(v) => choose({ withTable: v })}
              className="w-52"
            />
          </p>
          {counts.length > 0 && (
            <div className="mb-2">
              <Segments<Side>
                label="Values to list"
                value={side}
                options={[
                  { value: "", name: "All" },
                  ...counts.map((c) => ({ value: c.side as Side, name: `${names[c.side]} ${n(c.values)}` })),
                ]}
                onChange={setSide}
              />
            </div>
          )}
          {head.isPending && !head.error && ready && <Loading />}
          {data && columns.length === 0 && <p className="text-ink-2">There is no other column to compare with.</p>}
          {head.data && head.data.found > 0 && (
            <VirtualList<Line>
              name={["compare", table, of, side]}
              total={head.data.found}
              page={async (from, number) => (await page(side, from, number)).lines}
              label="Values of both columns"
              header={
                <div className="sticky top-0 z-10 grid grid-cols-[1fr_100px_100px] border-b border-ink bg-paper py-1 text-[12px] text-ink-2">
                  <span>Value</span>
                  <span className="text-right">Rows here</span>
                  <span className="text-right">Rows there</span>
                </div>
              }
              line={(l) => (
                <div className="grid h-full grid-cols-[1fr_100px_100px] items-center">
                  <span role="gridcell" className="truncate pr-3">
                    <Value value={l.value} />
                  </span>
                  {[l.here, l.there].map((rows, i) => (
                    <span key={i} role="gridcell" className={`text-right ${rows === 0 ? "text-red" : ""}`}>
                      {rows === 0 ? "none" : n(rows)}
                    </span>
                  ))}
                </div>
              )}
            />
          )}
          {head.data && head.data.found === 0 && <p className="py-4 text-ink-2">No value is there.</p>}
        </Page>
      }
      right={
        <Page
          side="right"
          title="What they share"
          sub="Values are the same where they are equal to the letter; blank ones are left out."
          foot={
            head.data && (
              <Balance
                figures={[
                  { label: "In both", value: n(at("both")?.values ?? 0), tone: "green" },
                  { label: "Only here", value: n(at("here")?.values ?? 0), tone: "ochre" },
                  { label: "Only there", value: n(at("there")?.values ?? 0), tone: "ochre" },
                  { label: "Values", value: n(counts.reduce((sum, c) => sum + c.values, 0)), final: true },
                ]}
              />
            )
          }
        >
          {counts.length > 0 && (
            <table className="w-full" aria-label="What they share">
              <thead>
                <tr className="border-b border-ink text-[12px] text-ink-2">
                  <th className="py-1" />
                  <th className="text-right">Values</th>
                  <th className="text-right">Rows here</th>
                  <th className="text-right">Rows there</th>
                </tr>
              </thead>
              <tbody>
                {counts.map((c) => (
                  <tr key={c.side} className="h-[27px] border-b border-rule-2">
                    <td>{names[c.side]}</td>
                    <td className="text-right">{n(c.values)}</td>
                    <td className="text-right">{n(c.here)}</td>
                    <td className="text-right">{n(c.there)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {withTable === table && withColumn !== "" && (
            <p className="mt-4">
              <Button kind="small" onClick={() => setWhere(table, { op: "differs", column, other: withColumn })}>
                Narrow to the rows in which the two differ
              </Button>
            </p>
          )}
          {where.condition && (
            <p className="mt-3 text-[12px] text-ink-2">
              Narrowed to {count(data?.rows ?? 0, "row")} or fewer by the condition above.
            </p>
          )}
        </Page>
      }
    />
  );
}
