import { useState } from "react";
import { Link } from "react-router";
import type { Profile, Table } from "../api/client";
import { Balance } from "../design/Balance";
import { ButtonLink } from "../design/Button";
import { Histogram } from "../design/Histogram";
import { Page } from "../design/Spread";
import { Value } from "../design/Value";
import { n, share } from "../design/words";
import { columnPath, tablePath } from "../shell/useBook";
import { setWhere, type Condition } from "../conditions/useWhere";
import { ColumnDetail } from "./ColumnDetail";
import { TimelineView } from "./TimelineView";
import { ReadAs } from "./ReadAs";
import { kinds } from "./readings";
import { repeats } from "./RegisterPage";

/** The right page of the register: one column, counted over every row, and what to do about it. */
export function ColumnPage({ table, profile: p }: { table: Table; profile: Profile }) {
  const to = (view: string) => columnPath(table.bookId, table.id, view, p.column);
  const blank = p.blank + p.missing;
  return (
    <Page
      side="right"
      title={p.column}
      sub="Counted over every row, not a sample."
      foot={
        <Balance
          figures={[
            { label: "Rows held", value: n(p.rows - blank - p.notRead) },
            ...(p.notRead > 0 ? [{ label: "Not read", value: n(p.notRead), tone: "ochre" as const }] : []),
            { label: "Blank", value: n(blank) },
            { label: "Rows in column", value: n(p.rows), final: true },
          ]}
        >
          <ButtonLink kind="plain" to={to("tally")}>
            Open its tally
          </ButtonLink>
        </Balance>
      }
    >
      <ReadAs table={table} profile={p} />
      {p.even && p.reading === "date" && <TimelineView key={p.column} table={table} profile={p} />}
      {p.even && p.reading !== "date" && <Distribution key={p.column} profile={p} />}
      <Findings table={table} profile={p} />
      {p.even && <Measures profile={p} />}
      <ColumnDetail key={p.column} table={table} profile={p} />
      {(!p.even || (p.top[0]?.rows ?? 0) > p.rows / 50) && <MostFrequent table={table} profile={p} />}
    </Page>
  );
}

function Distribution({ profile: p }: { profile: Profile }) {
  const [axis, setAxis] = useState<"even" | "log">(p.log ? "log" : "even");
  const h = axis === "log" && p.log ? p.log : p.even!;
  const choice = (which: "even" | "log", name: string) => (
    <button
      type="button"
      aria-pressed={axis === which}
      onClick={() => setAxis(which)}
      className={axis === which ? "border-b-2 border-green font-semibold" : "border-b-2 border-transparent text-ink-2"}
    >
      {name}
    </button>
  );
  return (
    <div className="mb-3">
      <div className="mb-2 flex items-center justify-between text-[12px] text-ink-2">
        <span>Rows by {p.column}</span>
        {p.log && (
          <span className="flex gap-3">
            {choice("even", "even steps")}
            {choice("log", "powers of ten")}
          </span>
        )}
      </div>
      <Histogram rows={h.rows ?? []} ticks={ticks(p, axis)} label={`Rows by ${p.column}`} />
      {h.below > 0 && (
        <p className="mt-1 text-[12px] text-ochre">
          {n(h.below)} rows are zero or negative and have no place on this axis.
        </p>
      )}
    </div>
  );
}

function ticks(p: Profile, axis: "even" | "log"): string[] {
  if (axis === "log" && p.log) {
    const { from, to } = p.log;
    const every = Math.max(1, Math.ceil((to - from) / 6));
    const out: string[] = [];
    for (let e = from; e <= to; e += every) out.push(power(e));
    return out;
  }
  const { from, to } = p.even!;
  return [0, 1, 2, 3, 4].map((i) => short(from + ((to - from) * i) / 4));
}

const power = (e: number) => (Math.abs(e) > 6 ? `10^${e}` : short(10 ** e));
const short = (v: number) => new Intl.NumberFormat("en-GB", { maximumSignificantDigits: 3 }).format(v);

/** What deserves a look, each with what to do. */
function Findings({ table, profile: p }: { table: Table; profile: Profile }) {
  const to = (view: string) => columnPath(table.bookId, table.id, view, p.column);
  const found: { what: string; rows: number; action: string; to: string; where?: Condition }[] = [];
  if (p.alike.values > 0)
    found.push({
      what: `${n(p.alike.values)} values differ from another in case, spacing or marks only`,
      rows: p.alike.rows,
      action: "Spellings",
      to: to("spellings"),
    });
  if (p.spaces.values > 0)
    found.push({
      what: `${n(p.spaces.values)} values have spaces at an edge or doubled`,
      rows: p.spaces.rows,
      action: "Tidy",
      to: to("tidy"),
    });
  if (p.notRead > 0)
    found.push({
      what: `Not read as ${kinds[p.reading].many}`,
      rows: p.notRead,
      action: "Rows",
      to: tablePath(table.bookId, table.id, "/rows"),
      where: { op: "unread", column: p.column },
    });
  if (repeats(p) > 0)
    found.push({
      what: "Repeat a value, and nearly all others are unique",
      rows: repeats(p),
      action: "Duplicates",
      to: tablePath(table.bookId, table.id, `/duplicates?key=${encodeURIComponent(p.column)}`),
    });
  if (p.missing > 0)
    found.push({
      what: "No cell: the row found no partner in a join",
      rows: p.missing,
      action: "Rows",
      to: tablePath(table.bookId, table.id, "/rows"),
    });
  if (found.length === 0) return null;
  return (
    <table className="mb-4 w-full">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="py-1">To look at</th>
          <th className="text-right">Rows</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {found.map((f) => (
          <tr key={f.what} className="border-b border-rule-2">
            <td className="py-1 pr-2 text-ochre">{f.what}</td>
            <td className="text-right">{n(f.rows)}</td>
            <td className="w-[1%] pl-3 text-right">
              <ButtonLink to={f.to} onClick={() => f.where && setWhere(table.id, f.where)}>
                {f.action}
              </ButtonLink>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Measures({ profile: p }: { profile: Profile }) {
  const lines: [string, string | undefined][] = [
    ["Lowest", p.lowest],
    ["Median", p.median],
    ["Highest", p.highest],
    ["Distinct values", n(p.distinct)],
  ];
  return (
    <dl className="mb-4 grid grid-cols-[1fr_auto]">
      {lines.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="border-b border-rule-2 py-1 text-ink-2">{name}</dt>
          <dd className="border-b border-rule-2 py-1 text-right">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

function MostFrequent({ table, profile: p }: { table: Table; profile: Profile }) {
  if (p.top.length === 0) return <p className="text-ink-2">The column holds nothing.</p>;
  if (p.unique === p.distinct) {
    return (
      <>
        <p className="mb-2 text-ink-2">No value stands in more than one row. The first by alphabet:</p>
        <ul>
          {p.top.map((l) => (
            <li key={l.value} className="h-[27px] truncate border-b border-rule-2 leading-[26px]">
              <Value value={l.value} />
            </li>
          ))}
        </ul>
      </>
    );
  }
  return (
    <table className="w-full table-fixed">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="py-1">Most frequent values</th>
          <th className="w-[20%] text-right">Rows</th>
          <th className="w-[18%] text-right">Share</th>
        </tr>
      </thead>
      <tbody>
        {p.top.map((l) => (
          <tr key={l.value} className="h-[27px] border-b border-rule-2">
            <td className="truncate">
              <Link
                className="hover:underline"
                to={tablePath(
                  table.bookId,
                  table.id,
                  `/rows?column=${encodeURIComponent(p.column)}&value=${encodeURIComponent(l.value)}`,
                )}
              >
                <Value value={l.value} />
              </Link>
            </td>
            <td className="text-right">{n(l.rows)}</td>
            <td className="text-right text-ink-2">{share(l.rows, p.rows)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
