import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas, type Table } from "../api/client";
import { useContents, useTables, useJournal, useRegister } from "../api/queries";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Segments, Select } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { ComparedRows } from "./ComparedRows";
import { CountsBeside } from "./CountsBeside";

export type Asked = Schemas["TablesAsked"];
type View = "changed" | "before" | "after" | "counts";

/** Two tables, or one at two times, row by row and by the counts of their values. */
export function ComparisonPage() {
  const { book } = useBook();
  const contents = useContents(book);
  const tables = useTables(book);
  const [query, setQuery] = useSearchParams();
  const id = (name: string) => Number(query.get(name)) || 0;
  const before = tables.find((t) => t.id === id("before"));
  const after = tables.find((t) => t.id === id("after"));
  const [key, setKey] = useState<Schemas["ComparePair"][]>([]);
  const [cells, setCells] = useState<NonNullable<Asked["cells"]>>("");
  const [chosenView, setView] = useState<View>();
  const [column, setColumn] = useState("");
  const at = (side: "before" | "after", of: Table) => {
    const entry = query.get(`${side}Entry`);
    return { table: of.id, ...(entry !== null && entry !== "" && { entry: Number(entry) }) };
  };
  const asked: Asked | null =
    before && after ? { before: at("before", before), after: at("after", after), key, cells } : null;
  const compared = useQuery({
    queryKey: ["comparison", book, asked, before?.revision, after?.revision],
    enabled: asked !== null,
    retry: false,
    queryFn: () => ask(api.POST("/books/{book}/comparison", { params: { path: { book } }, body: asked! })),
  });
  const c = compared.error ? undefined : compared.data;
  const view = chosenView ?? (c ? firstOf(c) : "changed");
  const set = (part: Record<string, string>) => {
    const next = new URLSearchParams(query);
    for (const [k, v] of Object.entries(part)) next.set(k, v);
    setKey([]);
    setColumn("");
    setQuery(next, { replace: true });
  };
  return (
    <Spread
      widths="5fr 7fr"
      left={
        <Page side="left" title="Compare two tables" tab="Compare" sub="Every figure is over all rows of both.">
          {contents.error && <ProblemNotice error={contents.error} />}
          <div className="grid grid-cols-[70px_1fr] items-center gap-y-2">
            <Side label="First" side="before" tables={tables} table={before} query={query} onSet={set} />
            <Side label="Second" side="after" tables={tables} table={after} query={query} onSet={set} />
          </div>
          {before && after && (
            <KeyPairs before={before} after={after} pairs={key} onChange={setKey} cells={cells} onCells={setCells} />
          )}
          {c && <Columns compared={c} chosen={column} onChoose={setColumn} onShow={() => setView("changed")} />}
        </Page>
      }
      right={
        <Page
          side="right"
          title={c ? said(c) : "What differs"}
          sub={c && repeated(c)}
          foot={
            c && (
              <Balance
                figures={[
                  { label: "Rows of the first", value: n(c.before) },
                  { label: "Only there", value: `−${n(c.onlyBefore)}`, tone: c.onlyBefore > 0 ? "red" : undefined },
                  { label: "The same", value: n(c.same) },
                  { label: "Changed", value: n(c.changed), tone: c.changed > 0 ? "ochre" : undefined },
                  { label: "Only in the second", value: `+${n(c.onlyAfter)}`, tone: "green" },
                  { label: "Rows of the second", value: n(c.after), final: true },
                ]}
              />
            )
          }
        >
          {compared.error && <ProblemNotice error={compared.error} />}
          {!asked && <p className="py-4 text-ink-2">Choose two tables, or one table at two times.</p>}
          {asked && compared.isPending && !compared.error && <Loading what="Comparing rows…" />}
          {c && asked && (
            <>
              <div className="mb-3 shrink-0">
                <Segments
                  label="What is shown"
                  value={view}
                  options={[
                    { value: "changed", name: `Changed ${n(c.changed)}` },
                    { value: "before", name: `Only in the first ${n(c.onlyBefore)}` },
                    { value: "after", name: `Only in the second ${n(c.onlyAfter)}` },
                    { value: "counts", name: "Counts" },
                  ]}
                  onChange={setView}
                />
              </div>
              {view === "counts" ? (
                <CountsBeside asked={asked} before={before!} after={after!} />
              ) : (
                <>
                  {view === "changed" && column && (
                    <p className="mb-2 text-ink-2">
                      Rows in which <b className="font-semibold text-ink">{column}</b> differs.{" "}
                      <Button kind="quiet" onClick={() => setColumn("")}>
                        show all that changed
                      </Button>
                    </p>
                  )}
                  <ComparedRows asked={asked} which={view} column={view === "changed" ? column : ""} keyPairs={key} />
                </>
              )}
            </>
          )}
        </Page>
      }
    />
  );
}

/** The first view that has something to show. */
const firstOf = (c: Schemas["ComparedTables"]): View =>
  c.changed > 0 ? "changed" : c.onlyBefore > 0 ? "before" : c.onlyAfter > 0 ? "after" : "counts";

const said = (c: Schemas["ComparedTables"]) =>
  c.changed + c.onlyBefore + c.onlyAfter === 0
    ? "They hold the same rows"
    : `${n(c.same)} of ${count(c.before, "row")} ${c.same === 1 ? "is" : "are"} the same`;

function repeated(c: Schemas["ComparedTables"]): string {
  const parts: string[] = [];
  const [first, second] = c.repeated;
  if (first! + second! > 0) {
    parts.push(
      `${n(first!)} rows of the first and ${n(second!)} of the second share their key; they are paired in the order they stand`,
    );
  }
  const [a, b] = c.noKey;
  if (a! + b! > 0) parts.push(`${n(a!)} and ${n(b!)} have a blank key and are paired with none`);
  return parts.length > 0 ? `${parts.join(". ")}.` : "Rows that tell the same key are one row.";
}

interface SideProps {
  label: string;
  side: "before" | "after";
  tables: Table[];
  table: Table | undefined;
  query: URLSearchParams;
  onSet: (part: Record<string, string>) => void;
}

function Side({ label, side, tables, table, query, onSet }: SideProps) {
  return (
    <>
      <span className="text-ink-2">{label}</span>
      <span className="flex flex-wrap gap-2">
        <Select
          label={`${label} table`}
          value={table ? String(table.id) : ""}
          options={[{ value: "", name: "choose…" }, ...tables.map((t) => ({ value: String(t.id), name: t.name }))]}
          onChange={(v) => onSet({ [side]: v, [`${side}Entry`]: "" })}
          className="w-56 font-semibold"
        />
        {table && <When side={side} label={label} table={table.id} query={query} onSet={onSet} />}
      </span>
    </>
  );
}

type WhenProps = Pick<SideProps, "side" | "label" | "query" | "onSet"> & { table: number };

function When({ side, label, table, query, onSet }: WhenProps) {
  const journal = useJournal(table);
  return (
    <Select
      label={`${label} table at`}
      value={query.get(`${side}Entry`) ?? ""}
      options={[
        { value: "", name: "as it stands" },
        ...(journal.data ?? []).map((e) => ({
          value: String(e.number),
          name: e.number === 0 ? "as it came" : `after entry ${e.number}`,
        })),
      ]}
      onChange={(v) => onSet({ [`${side}Entry`]: v })}
      className="w-36"
    />
  );
}

interface KeyProps {
  before: Table;
  after: Table;
  pairs: Schemas["ComparePair"][];
  onChange: (pairs: Schemas["ComparePair"][]) => void;
  cells: string;
  onCells: (cells: NonNullable<Asked["cells"]>) => void;
}

const ways = [
  { value: "", name: "to the letter" },
  { value: "folded", name: "case, spacing, accents aside" },
  { value: "words", name: "words in any order" },
  { value: "read", name: "as read: 1.0 is 1" },
];

/** Which columns tell a row, and how the other cells are compared. */
function KeyPairs({ before, after, pairs, onChange, cells, onCells }: KeyProps) {
  const set = (i: number, part: Partial<Schemas["ComparePair"]>) =>
    onChange(pairs.map((p, j) => (i === j ? { ...p, ...part } : p)));
  const names = (t: Table) => t.columns.map((value) => ({ value, name: value }));
  const register = useRegister(before.id, before.revision);
  const free = before.columns.filter((c) => !pairs.some((p) => p.before === c));
  const unique = free.find((c) => register.data?.some((p) => p.column === c && p.rows > 0 && p.unique === p.rows));
  const first = unique ?? free[0] ?? before.columns[0] ?? "";
  return (
    <>
      <Heading>A row is told by</Heading>
      {pairs.length === 0 && (
        <p className="mb-1.5 text-ink-2">all columns that both have: a row that changed is another.</p>
      )}
      {pairs.map((p, i) => (
        <p key={i} className="mb-1.5 flex items-center gap-1.5">
          <Select
            label={`Key of the first, ${i + 1}`}
            value={p.before}
            options={names(before)}
            onChange={(v) => set(i, { before: v, ...(after.columns.includes(v) && { after: v }) })}
            className="w-[26%]"
          />
          =
          <Select
            label={`Key of the second, ${i + 1}`}
            value={p.after}
            options={names(after)}
            onChange={(v) => set(i, { after: v })}
            className="w-[26%]"
          />
          <Select
            label={`How key ${i + 1} is compared`}
            value={p.as ?? ""}
            options={ways}
            onChange={(v) => set(i, { as: v as Schemas["KeyAs"] })}
            className="w-32"
          />
          <Button kind="quiet" onClick={() => onChange(pairs.filter((_, j) => j !== i))}>
            remove
          </Button>
        </p>
      ))}
      <Button
        kind="small"
        onClick={() =>
          onChange([
            ...pairs,
            { before: first, after: after.columns.includes(first) ? first : (after.columns[0] ?? "") },
          ])
        }
      >
        {pairs.length === 0 ? "Choose a key" : "And another column"}
      </Button>
      <p className="mt-3 flex items-center gap-2 text-ink-2">
        Cells are compared
        <Select
          label="How cells are compared"
          value={cells}
          options={ways}
          onChange={(v) => onCells(v as NonNullable<Asked["cells"]>)}
          className="w-52"
        />
      </p>
    </>
  );
}

interface ColumnsProps {
  compared: Schemas["ComparedTables"];
  chosen: string;
  onChoose: (column: string) => void;
  onShow: () => void;
}

/** The columns, with the cells of rows found in both that differ. */
function Columns({ compared, chosen, onChoose, onShow }: ColumnsProps) {
  return (
    <>
      <Heading>Columns</Heading>
      <table className="w-full table-fixed" aria-label="Compared columns">
        <tbody>
          {compared.columns.map((c) => (
            <tr
              key={`${c.column} ${c.state}`}
              className={`h-[27px] border-b border-rule-2 ${c.column === chosen ? "bg-pencil-bg" : ""}`}
            >
              <td className={`truncate font-semibold ${c.state === "went" ? "struck" : ""}`} title={c.column}>
                {c.column}
              </td>
              <td className="w-[46%] text-right">
                {c.state === "went" && <span className="text-ink-2">only in the first</span>}
                {c.state === "came" && <span className="text-ink-2">only in the second</span>}
                {c.state === "stays" && c.cells === 0 && <span className="text-ink-3">no cell differs</span>}
                {c.state === "stays" && c.cells > 0 && (
                  <Button
                    kind="quiet"
                    onClick={() => {
                      onChoose(c.column);
                      onShow();
                    }}
                  >
                    {count(c.cells, "cell")} {c.cells === 1 ? "differs" : "differ"}
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
