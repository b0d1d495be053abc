import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import type { Draft } from "../api/queries";
import { Button } from "../design/Button";
import { Input, Segments } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { usePosting } from "../tables/PostBar";
import { TableHead, TableSub } from "../tables/TableHead";
import { usePinned } from "../tables/usePinned";
import { blankCondition, Group } from "./Builder";
import { setWhere, useWhere, type Condition } from "./useWhere";
import { useCount } from "./WhereStrip";

/** Conditions on rows: each shows what it holds by itself, and together they narrow every view and any entry. */
export function ConditionsPage() {
  const { book, table } = useBook();
  const pinned = usePinned(table);
  const { condition } = useWhere(table);
  const columns = pinned.table?.columns ?? [];
  const [local, setLocal] = useState<Condition | null>(null);
  const shown: Condition =
    local ??
    (condition && (condition.op === "all" || condition.op === "any")
      ? condition
      : { op: "all", of: condition ? [condition] : columns[0] ? [blankCondition(columns[0])] : [] });
  const whole = complete(shown);
  const counted = useCount(table, pinned.revision, whole);
  const change = (next: Condition | null) => {
    setLocal(next);
    const usable = next && complete(next);
    setWhere(table, usable?.of?.length ? usable : null);
  };
  const [keep, setKeep] = useState<"keep" | "aside">("keep");
  const holds = (whole?.of?.length ?? 0) > 0;
  const draft: Draft | null =
    holds && !counted.error && pinned.revision !== undefined
      ? { revision: pinned.revision, kind: "rows", params: { holding: whole!, keep: keep === "keep" } }
      : null;
  const posting = usePosting({ pinned, draft, idle: "Give a condition", onPosted: () => change(null) });
  const rows = counted.data?.count.rows ?? 0;
  const total = counted.data?.total ?? pinned.table?.rows ?? 0;
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title={pinned.table?.name ?? "…"}
          tab={pinned.table && `Conditions on ${pinned.table.name}`}
          sub={pinned.table && <TableSub table={pinned.table} />}
        >
          {pinned.error ? <ProblemNotice error={pinned.error} /> : null}
          {pinned.table && <TableHead table={pinned.table} />}
          <p className="py-1 text-ink-2">
            Each condition shows the rows it holds by itself. What they leave together is what every view of this table
            shows.
          </p>
          {columns.length > 0 && (
            <Group
              table={table}
              revision={pinned.revision}
              columns={columns}
              condition={shown}
              counted={align(shown, counted.data?.count)}
              onChange={change}
            />
          )}
          {counted.error && <ProblemNotice error={counted.error} />}
          {holds && counted.data && rows === 0 && whole!.op === "all" && (whole!.of?.length ?? 0) > 1 && (
            <p className="py-2 text-ochre">
              Together they hold no row, though each holds some. Perhaps “any of” is meant.
            </p>
          )}
          <Kept book={book} condition={holds ? whole : null} onChoose={change} />
        </Page>
      }
      right={
        <Page
          side="right"
          title={holds ? `${n(rows)} of ${n(total)} rows` : "No condition yet"}
          sub={holds ? (counted.data?.words ?? "…") : "All rows are shown."}
          foot={posting.strip}
        >
          {posting.notices}
          {holds && (
            <>
              <Bar rows={rows} total={total} />
              <Heading>Look at them</Heading>
              <p className="flex flex-wrap gap-x-4">
                {[
                  ["Rows", "/rows"],
                  ["Columns", ""],
                  ["Duplicates among them", "/duplicates"],
                  ["Tidy them", "/tidy"],
                ].map(([name, rest]) => (
                  <Link key={name} className="text-pencil underline" to={tablePath(book, table, rest)}>
                    {name}
                  </Link>
                ))}
                <Button kind="quiet" className="h-auto! p-0!" onClick={() => change(null)}>
                  Show all rows again
                </Button>
              </p>
              <Heading>Or change the table by them</Heading>
              <Segments
                label="What the entry does"
                value={keep}
                options={[
                  { value: "keep", name: "keep only these rows" },
                  { value: "aside", name: "set these rows aside" },
                ]}
                onChange={setKeep}
              />
              <p className="mt-1.5 text-ink-2">
                {n(keep === "keep" ? total - rows : rows)} rows are set aside; they stay openable and can be returned.
              </p>
            </>
          )}
        </Page>
      }
    />
  );
}

/** The parts that say enough to be worked out; null where there is none. */
function complete(c: Condition): Condition | null {
  switch (c.op) {
    case "all":
    case "any": {
      const of = (c.of ?? []).flatMap((p) => complete(p) ?? []);
      return { ...c, of };
    }
    case "is":
      return c.values?.length ? c : null;
    case "range":
      return c.from || c.to ? c : null;
    case "blank":
    case "unread":
      return c;
    case "differs":
      return c.other ? c : null;
  }
  return c.text ? c : null;
}

type Count = { rows: number; of?: Count[] };

/** Gives the parts of a condition their counts; parts that do not say enough yet have none. */
function align(c: Condition, count: Count | undefined): Count | undefined {
  if (!count || !c.of) return count;
  let at = 0;
  const of = c.of.map((p) => (complete(p) ? align(p, count.of?.[at++]) : undefined));
  return { rows: count.rows, of: of as Count[] };
}

function Bar({ rows, total }: { rows: number; total: number }) {
  return (
    <div className="mt-1 h-3 w-full bg-paper-2" role="img" aria-label={`${n(rows)} of ${n(total)} rows`}>
      <div className="h-full bg-pencil" style={{ width: `${total ? (100 * rows) / total : 0}%` }} />
    </div>
  );
}

interface KeptProps {
  book: number;
  condition: Condition | null;
  onChoose: (condition: Condition) => void;
}

/** The conditions kept under a name, for any table of the book. */
function Kept({ book, condition, onChoose }: KeptProps) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const kept = useQuery({
    queryKey: ["conditions", book],
    queryFn: () => ask(api.GET("/books/{book}/conditions", { params: { path: { book } } })),
  });
  const refresh = () => client.invalidateQueries({ queryKey: ["conditions", book] });
  const keep = useMutation({
    mutationFn: () =>
      ask(api.PUT("/books/{book}/conditions", { params: { path: { book } }, body: { name, condition: condition! } })),
    onSuccess: () => {
      setName("");
      return refresh();
    },
  });
  const drop = useMutation({
    mutationFn: (name: string) =>
      ask(api.DELETE("/books/{book}/conditions", { params: { path: { book }, query: { name } } })),
    onSuccess: refresh,
  });
  const group = (c: Condition): Condition => (c.op === "all" || c.op === "any" ? c : { op: "all", of: [c] });
  return (
    <>
      <Heading>Kept under a name</Heading>
      {(kept.error ?? keep.error ?? drop.error) && <ProblemNotice error={kept.error ?? keep.error ?? drop.error} />}
      <ul>
        {kept.data?.map((k) => (
          <li key={k.name} className="flex items-center gap-2 border-b border-rule-2">
            <Button kind="quiet" onClick={() => onChoose(group(k.condition))}>
              {k.name}
            </Button>
            <Button
              kind="quiet"
              className="ml-auto"
              aria-label={`Forget ${k.name}`}
              onClick={() => drop.mutate(k.name)}
            >
              Forget
            </Button>
          </li>
        ))}
      </ul>
      {kept.data?.length === 0 && !condition && <p className="text-ink-2">None yet.</p>}
      {condition && (
        <form
          className="mt-1.5 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            keep.mutate();
          }}
        >
          <Input
            aria-label="Name of the condition"
            placeholder="name"
            value={name}
            onChange={(e) => setName(e.target.value)}
            required
          />
          <Button type="submit" kind="small" disabled={keep.isPending}>
            Keep it
          </Button>
        </form>
      )}
    </>
  );
}
