import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import type { Profile } from "../api/client";
import { useRegister, useTable } from "../api/queries";
import { Keys, useKeys } from "../design/Keys";
import { Empty, Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { columnPath, tablePath, useBook } from "../shell/useBook";
import { kinds } from "./readings";
import { ColumnPage } from "./ColumnPage";
import { useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { WatchLine } from "../watches/WatchLine";
import { TableHead, TableSub } from "./TableHead";

/** A table's front page: its columns, one line each, with what each holds and what deserves a look. */
export function RegisterPage() {
  const { book, table } = useBook();
  const { data, error } = useTable(table);
  const where = useWhere(table);
  const register = useRegister(table, data?.revision, where.text);
  const navigate = useNavigate();
  const [query, setQuery] = useSearchParams();
  const [find, setFind] = useState("");
  const all = register.data ?? [];
  const profiles = find ? all.filter((p) => p.column.toLowerCase().includes(find.toLowerCase())) : all;
  const at = Math.max(
    0,
    profiles.findIndex((p) => p.column === query.get("column")),
  );
  const chosen = profiles[at];
  const choose = (i: number) => {
    const p = profiles[Math.min(Math.max(i, 0), profiles.length - 1)];
    if (p) setQuery({ column: p.column }, { replace: true });
  };
  const open = (view: string) => chosen && void navigate(columnPath(book, table, view, chosen.column));
  useKeys({
    ArrowDown: () => choose(at + 1),
    ArrowUp: () => choose(at - 1),
    Enter: () => open("tally"),
    v: () => open("spellings"),
    t: () => open("tidy"),
    d: () => open("reading"),
    r: () => void navigate(tablePath(book, table, "/rows")),
  });
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title={data?.name ?? "…"}
          tab={data?.name}
          sub={data && <TableSub table={data} />}
          foot={
            <Keys
              keys={[
                [["↑", "↓"], "column"],
                [["Enter"], "open its tally"],
                [["V"], "variant spellings"],
                [["T"], "tidy"],
                [["D"], "reading"],
                [["R"], "rows"],
              ]}
            />
          }
        >
          {(error ?? register.error) && <ProblemNotice error={error ?? register.error} />}
          {data && <TableHead table={data} />}
          {data && <WatchLine table={data} />}
          <WhereStrip revision={data?.revision} />
          {register.isPending && !error && <Loading what="Counting every column…" />}
          {all.length > 20 && (
            <input
              aria-label="Find a column"
              placeholder={`Find one of ${n(all.length)} columns`}
              value={find}
              onChange={(e) => setFind(e.target.value)}
              className="mb-1 h-7 w-64 shrink-0 rounded-[3px] border border-rule bg-paper px-2"
            />
          )}
          {register.data && profiles.length === 0 && <Empty>No column goes by that name.</Empty>}
          {profiles.length > 0 && (
            <Register profiles={profiles} chosen={at} onChoose={choose} onOpen={() => open("tally")} />
          )}
        </Page>
      }
      right={chosen && data && <ColumnPage table={data} profile={chosen} />}
    />
  );
}

interface RegisterProps {
  profiles: Profile[];
  chosen: number;
  onChoose: (i: number) => void;
  onOpen: () => void;
}

/** How many columns are shown before the rest have to be looked for by name. */
const shown = 500;

function Register({ profiles, chosen, onChoose, onOpen }: RegisterProps) {
  return (
    <table className="w-full table-fixed" aria-label="Column register">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="sticky top-0 w-[17%] bg-paper py-1">Column</th>
          <th className="sticky top-0 w-[9%] bg-paper">Reads as</th>
          <th className="sticky top-0 w-[11%] bg-paper text-right">Distinct</th>
          <th className="sticky top-0 w-[10%] bg-paper text-right">Blank</th>
          <th className="sticky top-0 bg-paper pl-4">What it holds</th>
          <th className="sticky top-0 w-[20%] bg-paper pl-2">To look at</th>
        </tr>
      </thead>
      <tbody>
        {profiles.slice(0, shown).map((p, i) => {
          const blank = p.blank + p.missing;
          const [look, calm] = toLookAt(p);
          return (
            <tr
              key={p.column}
              aria-selected={i === chosen}
              onClick={() => onChoose(i)}
              onDoubleClick={onOpen}
              className={`h-[27px] cursor-pointer border-b border-rule-2 ${i === chosen ? "bg-pencil-bg" : "hover:bg-paper-2"}`}
            >
              <td className="truncate pr-2 font-semibold" title={p.column}>
                {p.column}
              </td>
              <td
                className={`truncate ${p.asks > 0 ? "text-ochre" : "text-ink-2"}`}
                title={`Read as ${p.readAs}${p.declared ? "" : ", as its values suggest"}`}
              >
                {kinds[p.reading].name}
                {p.asks > 0 && " ?"}
              </td>
              <td className="text-right">{n(p.distinct)}</td>
              <td className={`text-right ${blank === 0 ? "text-ink-3" : ""}`}>{n(blank)}</td>
              <td className="truncate pl-4 text-ink-2">
                <Holds profile={p} />
              </td>
              <td className={`truncate pl-2 ${calm ? "" : "text-ochre"}`} title={look}>
                {look}
              </td>
            </tr>
          );
        })}
        {profiles.length > shown && (
          <tr>
            <td colSpan={6} className="py-1.5 text-ink-2">
              {count(profiles.length - shown, "column")} more; find one by its name.
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

function Holds({ profile: p }: { profile: Profile }) {
  if (p.distinct === 0) return <i>nothing</i>;
  if (p.lowest !== undefined) {
    return (
      <>
        {p.lowest} — {p.highest}
        {p.reading === "number" && <>&ensp;median {p.median}</>}
      </>
    );
  }
  return p.top.slice(0, 4).map((l, i) => (
    <span key={l.value}>
      {i > 0 && " · "}
      <Value value={l.value} />
      {p.distinct < p.rows && ` ${n(l.rows)}`}
    </span>
  ));
}

/** Rows that repeat a value in a column that is otherwise unique; 0 where values are meant to come again. */
export function repeats(p: Profile): number {
  const held = p.rows - p.blank - p.missing;
  return p.reading === "code" && p.distinct > held * 0.9 ? held - p.distinct : 0;
}

/** What deserves a look first, and whether it is nothing to worry about. */
function toLookAt(p: Profile): [string, boolean] {
  if (p.asks > 0) return [`${n(p.asks)} could be read two ways`, false];
  if (p.notRead > 0) return [`${n(p.notRead)} not ${kinds[p.reading].many}`, false];
  if (repeats(p) > 0) return [`${n(repeats(p))} repeated`, false];
  if (p.alike.values > 0) return [`${n(p.alike.values)} look alike`, false];
  if (p.spaces.values > 0) return [`${n(p.spaces.values)} with loose spaces`, false];
  if (p.distinct > 0 && p.unique === p.rows) return ["unique", true];
  if (p.rows > 0 && p.distinct === 0) return ["empty", true];
  if (p.distinct === 1 && p.rows > 1 && p.blank + p.missing === 0) return ["always the same", true];
  return ["", true];
}
