import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, ask, type Entry, type Schemas } from "../api/client";
import type { Draft } from "../api/queries";
import { Button, ButtonLink } from "../design/Button";
import { Input, Labelled, Segments } from "../design/Field";
import { Keys, useKeys } from "../design/Keys";
import { Loading, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { VirtualList } from "../design/VirtualList";
import { count, n, share } from "../design/words";
import { columnPath, tablePath, useBook } from "../shell/useBook";
import { EffectPairs } from "./EffectPairs";
import { PostedNotice, usePosting } from "./PostBar";
import { usePinned } from "./usePinned";
import { useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";

type Line = Schemas["Line"];
type Part = "" | "read" | "unread" | "blank";

/** A line with the rows up to it, itself among them, and its shape where that is the order. */
interface TallyLine extends Line {
  upTo: number;
  shape?: string;
}

function told(t: Schemas["Tally"]): TallyLine[] {
  let upTo = t.before;
  return t.lines.map((l, i) => ({ ...l, upTo: (upTo += l.rows), shape: t.shapes[i] }));
}

/** A column's tally: its distinct values with their counts. Changing a value changes every cell with it. */
export function TallyPage() {
  const { book, table } = useBook();
  const [query] = useSearchParams();
  const column = query.get("column") ?? "";
  const pinned = usePinned(table);
  const [order, setOrder] = useState<"count" | "alphabet" | "shape">("count");
  const [part, setPart] = useState<Part>("");
  const [typed, setTyped] = useState("");
  const find = useDeferredValue(typed);
  const [chosen, choose] = useState(0);
  const [posted, setPosted] = useState<Entry>();
  const where = useWhere(table);
  const of = { column, order, part, find: find || undefined, revision: pinned.revision, where: where.text };
  const page = (from: number, number: number) =>
    ask(api.GET("/tables/{table}/tally", { params: { path: { table }, query: { ...of, from, count: number } } }));
  const name = ["tally", table, of];
  // The share of the rows up to each line; by alphabet it would say nothing.
  const summed = order === "count" && !find;
  const grid =
    order === "alphabet" || find
      ? "grid-cols-[1fr_90px_70px]"
      : order === "shape"
        ? "grid-cols-[1fr_110px_80px_64px]"
        : "grid-cols-[1fr_90px_64px_84px]";
  const head = useQuery({
    queryKey: [...name, "head"],
    enabled: pinned.revision !== undefined,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () => page(0, 1),
  });
  const found = head.data?.found ?? 0;
  const at = Math.min(chosen, Math.max(found - 1, 0));
  const line = useQuery({
    queryKey: [...name, "line", at],
    enabled: found > 0,
    staleTime: Infinity,
    queryFn: async () => (await page(at, 1)).lines[0] ?? null,
  });
  const search = useRef<HTMLInputElement>(null);
  const editor = useRef<HTMLInputElement>(null);
  useKeys({
    ArrowDown: () => choose(Math.min(at + 1, found - 1)),
    ArrowUp: () => choose(Math.max(at - 1, 0)),
    PageDown: () => choose(Math.min(at + 15, found - 1)),
    PageUp: () => choose(Math.max(at - 15, 0)),
    e: () => editor.current?.select(),
    "/": () => search.current?.focus(),
  });
  const total = head.data?.rows ?? 0;
  return (
    <Spread
      left={
        <Page
          side="left"
          title={`Tally of ${column}`}
          tab={`Tally of ${column}`}
          sub={
            head.data &&
            `${count(head.data.total, "distinct value")} in ${count(total, "row")}${head.data.missing > 0 ? `; ${n(head.data.missing)} rows have no cell` : ""}.`
          }
          foot={
            <Keys
              keys={[
                [["↑", "↓"], "value"],
                [["E"], "change it"],
                [["/"], "search"],
              ]}
            />
          }
        >
          {(pinned.error ?? head.error) && <ProblemNotice error={pinned.error ?? head.error} />}
          {posted && <PostedNotice entry={posted} />}
          <WhereStrip revision={pinned.revision} />
          <div className="mb-2 flex flex-wrap items-center gap-2">
            <Segments
              label="Order"
              value={order}
              options={[
                { value: "count", name: "By count" },
                { value: "alphabet", name: "By alphabet" },
                { value: "shape", name: "By shape" },
              ]}
              onChange={setOrder}
            />
            <Input
              ref={search}
              className="w-36"
              placeholder="Search the values"
              aria-label="Search the values"
              value={typed}
              onChange={(e) => {
                setTyped(e.target.value);
                choose(0);
              }}
            />
          </div>
          <div className="mb-2 flex items-center gap-2">
            {head.data && <Parts tally={head.data} part={part} onPart={setPart} />}
            <span className="ml-auto flex gap-1.5">
              <ButtonLink to={columnPath(book, table, "spellings", column)}>Spellings</ButtonLink>
              <ButtonLink to={columnPath(book, table, "tidy", column)}>Tidy</ButtonLink>
              <ButtonLink to={columnPath(book, table, "compare", column)}>Compare</ButtonLink>
            </span>
          </div>
          {head.isPending && !head.error && <Loading />}
          {head.data && found === 0 && (
            <p className="py-4 text-ink-2">{find ? "No value holds that." : "The column holds no value."}</p>
          )}
          {found > 0 && (
            <VirtualList<TallyLine>
              name={name}
              total={found}
              page={async (from, number) => told(await page(from, number))}
              label={`Values of ${column}`}
              selected={at}
              scrollTo={at}
              header={
                <div
                  className={`sticky top-0 z-10 grid ${grid} border-b border-ink bg-paper py-1 text-[12px] text-ink-2`}
                >
                  <span role="status">
                    {find && head.data
                      ? `${count(found, "value")} found, ${count(head.data.foundRows, "row")}`
                      : "Value"}
                  </span>
                  {order === "shape" && <span>Shape</span>}
                  <span className="text-right">Rows</span>
                  <span className="text-right">Share</span>
                  {summed && <span className="text-right">Up to here</span>}
                </div>
              }
              line={(l, i) => (
                <div
                  className={`grid h-full cursor-pointer ${grid} items-center hover:bg-paper-2`}
                  onClick={() => choose(i)}
                >
                  <span role="gridcell" className="truncate pr-3">
                    <Value value={l.value} />
                  </span>
                  {order === "shape" && (
                    <span role="gridcell" className="truncate pr-2 font-mono text-[12px] text-ink-2" title={l.shape}>
                      {l.shape}
                    </span>
                  )}
                  <span role="gridcell" className="text-right">
                    {n(l.rows)}
                  </span>
                  <span role="gridcell" className="text-right text-ink-2">
                    {share(l.rows, total)}
                  </span>
                  {summed && (
                    <span role="gridcell" className="text-right text-ink-2">
                      {share(l.upTo, total)}
                    </span>
                  )}
                </div>
              )}
            />
          )}
        </Page>
      }
      right={
        line.data ? (
          <ChangeValue
            key={`${pinned.revision} ${line.data.value}`}
            pinned={pinned}
            column={column}
            line={line.data}
            total={total}
            editor={editor}
            onPosted={setPosted}
          />
        ) : (
          <Page side="right" title="…">
            {null}
          </Page>
        )
      }
    />
  );
}

interface PartsProps {
  tally: Schemas["Tally"];
  part: Part;
  onPart: (part: Part) => void;
}

/** What is read, what is not and what is blank, apart; nothing where all of it is read. */
function Parts({ tally, part, onPart }: PartsProps) {
  const names = { read: "Read", unread: "Not read", blank: "Blank" };
  const parts = tally.parts.filter((p) => p.rows > 0);
  if (parts.length < 2) return null;
  return (
    <Segments
      label="Part of the values"
      value={part}
      options={[
        { value: "" as Part, name: "All" },
        ...parts.map((p) => ({ value: p.part as Part, name: `${names[p.part]} ${n(p.rows)}` })),
      ]}
      onChange={onPart}
    />
  );
}

interface ChangeProps {
  pinned: ReturnType<typeof usePinned>;
  column: string;
  line: Line;
  total: number;
  editor: React.RefObject<HTMLInputElement | null>;
  onPosted: (entry: Entry) => void;
}

/** The right page: one value, and what it is to become. */
function ChangeValue({ pinned, column, line, total, editor, onPosted }: ChangeProps) {
  const { book, table } = useBook();
  const [to, setTo] = useState(line.value);
  const draft: Draft | null =
    to !== line.value && pinned.revision !== undefined
      ? { revision: pinned.revision, kind: "values", params: { column, changes: [{ from: line.value, to }] } }
      : null;
  const posting = usePosting({
    pinned,
    draft: useDeferredValue(draft),
    idle: "Type what the value is to become",
    onDiscard: () => setTo(line.value),
    onPosted,
  });
  return (
    <Page
      side="right"
      title={<Value value={line.value} />}
      sub={`${count(line.rows, "row")}, ${share(line.rows, total)} of the table.`}
      foot={posting.strip}
    >
      {posting.notices}
      <Labelled label="Change it, in every cell that holds it, to">
        <Input
          ref={editor}
          value={to}
          onChange={(e) => setTo(e.target.value)}
          className={to !== line.value ? "text-pencil" : ""}
        />
      </Labelled>
      <p className="mt-3 flex gap-2">
        <ButtonLink
          to={tablePath(
            book,
            table,
            `/rows?column=${encodeURIComponent(column)}&value=${encodeURIComponent(line.value)}`,
          )}
        >
          Show its rows
        </ButtonLink>
        {line.value !== line.value.trim().replace(/ {2,}/g, " ") && (
          <Button kind="small" onClick={() => setTo(line.value.trim().replace(/ {2,}/g, " "))}>
            Without the loose spaces
          </Button>
        )}
      </p>
      {draft && posting.drafted.data && (
        <>
          <Heading>What will change</Heading>
          <EffectPairs effect={posting.drafted.data.effect} />
          {posting.drafted.data.effect.pairs.some((p) => p.collides) && (
            <p className="mt-2 text-ochre">The new value stands in other rows already; the two become one.</p>
          )}
        </>
      )}
      {!draft && (
        <p className="mt-4 text-[12px] text-ink-2">
          Several spellings of one thing?{" "}
          <Link className="text-pencil underline" to={columnPath(book, table, "spellings", column)}>
            Variant spellings
          </Link>{" "}
          finds them together.
        </p>
      )}
    </Page>
  );
}
