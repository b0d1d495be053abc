import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas, type Table } from "../api/client";
import { useContents, useIdempotencyKey } from "../api/queries";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Input, Labelled, Segments, Select } from "../design/Field";
import { Empty, Loading, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { n } from "../design/words";
import { JobLine } from "../shell/Jobs";
import { useBook } from "../shell/useBook";
import { useJobToTable } from "../shell/useJobToTable";
import { figures } from "../tables/PostBar";
import { ColumnsToBring } from "./ColumnsToBring";
import { CoverageView } from "./CoverageView";

type On = Schemas["On"];
type Join = Schemas["Join"];
type Rows = Join["rows"];

/** Joins two tables into a new consolidated one: coverage and what fails to match first, then the columns, then the post. */
export function JoinPage() {
  const { book } = useBook();
  const { data } = useContents(book);
  const [query] = useSearchParams();
  if (!data) return <Spread left={<Loading what="Opening the book…" />} />;
  const tables = [...data.tables, ...data.consolidated];
  if (tables.length < 2) {
    return (
      <Spread
        left={
          <Page side="left" title="Join two tables">
            <Empty>A join needs two tables. Bring in another file first.</Empty>
          </Page>
        }
      />
    );
  }
  const left = tables.find((t) => t.id === Number(query.get("left"))) ?? tables[0]!;
  const shares = (t: Table) => t.id !== left.id && t.columns.some((c) => left.columns.includes(c));
  const right =
    tables.find((t) => t.id === Number(query.get("right"))) ??
    tables.find(shares) ??
    tables.find((t) => t.id !== left.id)!;
  return <Joining key={book} tables={tables} start={[left.id, right.id]} />;
}

/** The first column both have by name, else the first of each. */
function propose(left: Table, right: Table): On[] {
  const common = left.columns.find((c) => right.columns.includes(c));
  return [{ left: common ?? left.columns[0]!, right: common ?? right.columns[0]! }];
}

function Joining({ tables, start }: { tables: Table[]; start: [number, number] }) {
  const { book } = useBook();
  const [sides, setSides] = useState(start);
  const left = tables.find((t) => t.id === sides[0])!;
  const right = tables.find((t) => t.id === sides[1])!;
  const [on, setOn] = useState<On[]>(() => propose(left, right));
  const [rows, setRows] = useState<Rows>("left");
  const [typed, setName] = useState<string>();
  const [bring, setBring] = useState<{ left?: Schemas["Bring"][]; right?: Schemas["Bring"][] }>({});
  const walks = useContents(book).data?.crosswalks.map((c) => c.name) ?? [];
  const name = typed ?? `${left.name} with ${right.name}`;

  const change = (next: [number, number]) => {
    setSides(next);
    setOn(
      propose(
        tables.find((t) => t.id === next[0])!,
        tables.find((t) => t.id === next[1])!,
      ),
    );
    setBring({});
  };
  const join: Join = {
    name,
    left: { table: left.id, revision: left.revision },
    right: { table: right.id, revision: right.revision },
    on,
    rows,
    ...(bring.left && { bringLeft: bring.left }),
    ...(bring.right && { bringRight: bring.right }),
  };
  const asked = useDeferredValue(JSON.stringify({ ...join, name: "draft" }));
  const drafted = useQuery({
    queryKey: ["join", book, asked],
    retry: false,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask(api.POST("/books/{book}/joins/draft", { params: { path: { book } }, body: JSON.parse(asked) as Join })),
  });
  const key = useIdempotencyKey(join);
  const post = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/books/{book}/joins", { params: { path: { book }, header: { "Idempotency-Key": key } }, body: join }),
      ),
  });
  const { job, busy: working } = useJobToTable(book, post.data?.id);
  const busy = post.isPending || working;

  const choices = tables.map((t) => ({ value: String(t.id), name: t.name }));
  const d = drafted.error ? undefined : drafted.data;
  const edit = (i: number, part: Partial<On>) => {
    setOn(on.map((p, at) => (at === i ? { ...p, ...part } : p)));
    setBring({});
  };
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title="Join two tables"
          tab="Join two tables"
          sub="Every figure is over all rows of both tables."
        >
          <div className="grid grid-cols-[minmax(0,1fr)_150px_minmax(0,1fr)_24px] items-center gap-x-1.5 gap-y-1.5">
            <Select
              label="Left table"
              value={String(left.id)}
              options={choices.filter((c) => c.value !== String(right.id))}
              onChange={(v) => change([Number(v), right.id])}
              className="w-full font-semibold"
            />
            <span className="text-center text-ink-2">with</span>
            <Select
              label="Right table"
              value={String(right.id)}
              options={choices.filter((c) => c.value !== String(left.id))}
              onChange={(v) => change([left.id, Number(v)])}
              className="w-full font-semibold"
            />
            <span />
            {on.map((p, i) => (
              <div key={i} className="contents">
                <Select
                  label={`Left column ${i + 1}`}
                  value={p.left}
                  options={options(left.columns)}
                  onChange={(v) => edit(i, { left: v })}
                  className="w-full"
                />
                <Select
                  label={`How pair ${i + 1} is compared`}
                  value={p.crosswalk ? `by ${p.crosswalk}` : (p.as ?? "")}
                  options={[...ways, ...walks.map((w) => ({ value: `by ${w}`, name: `by crosswalk ${w}` }))]}
                  onChange={(v) =>
                    edit(
                      i,
                      v.startsWith("by ")
                        ? { as: "folded", crosswalk: v.slice(3) }
                        : { as: v as On["as"], crosswalk: undefined },
                    )
                  }
                  className="w-full"
                />
                <Select
                  label={`Right column ${i + 1}`}
                  value={p.right}
                  options={options(right.columns)}
                  onChange={(v) => edit(i, { right: v })}
                  className="w-full"
                />
                <span className="text-right">
                  {on.length > 1 && (
                    <button
                      type="button"
                      aria-label={`Leave pair ${i + 1} out`}
                      className="px-1 text-ink-2 hover:text-red"
                      onClick={() => setOn(on.filter((_, at) => at !== i))}
                    >
                      ×
                    </button>
                  )}
                </span>
              </div>
            ))}
          </div>
          <p className="mt-1.5">
            <Button kind="small" onClick={() => setOn([...on, propose(left, right)[0]!])} disabled={on.length > 7}>
              And another pair of columns
            </Button>
          </p>
          {drafted.error && <ProblemNotice error={drafted.error} />}
          {drafted.isPending && <Loading what="Matching rows…" />}
          {d && <CoverageView draft={d} left={left} right={right} on={on} />}
        </Page>
      }
      right={
        <Page
          side="right"
          title={name || "Consolidated table"}
          sub="What the join would give. Nothing is stored until you post."
          foot={
            <Balance
              figures={
                d
                  ? [
                      ...figures({ balance: d.balance, columns: [], pairs: [], changed: 0 })
                        .slice(0, -1)
                        .map((f, i) => (i === 0 ? { ...f, label: `Rows of ${left.name}` } : f)),
                      { label: "Rows after", value: n(d.coverage.result), final: true },
                    ]
                  : []
              }
            >
              <Button
                kind="main"
                disabled={!d || busy || drafted.isFetching || name.trim() === ""}
                onClick={() => post.mutate()}
              >
                {busy ? "Drawing…" : "Post the table"}
              </Button>
            </Balance>
          }
        >
          {post.error && <ProblemNotice error={post.error} />}
          {job && job.state !== "done" && (
            <div className="mb-3">
              <JobLine book={book} job={job} />
            </div>
          )}
          <Labelled label="Name of the consolidated table">
            <Input value={name} onChange={(e) => setName(e.target.value)} maxLength={200} />
          </Labelled>
          <Heading>Rows to keep</Heading>
          <Segments<Rows>
            label="Rows to keep"
            value={rows}
            options={[
              { value: "both", name: "found in both" },
              { value: "left", name: "all of the left" },
              { value: "right", name: "all of the right" },
              { value: "all", name: "all of both" },
            ]}
            onChange={setRows}
          />
          {d && (
            <ColumnsToBring
              left={left}
              right={right}
              broughtLeft={bring.left ?? d.left}
              broughtRight={bring.right ?? d.right}
              onChange={(l, r) => setBring({ left: l, right: r })}
            />
          )}
        </Page>
      }
    />
  );
}

/** The ways in which two cells of a key are compared. */
const ways = [
  { value: "", name: "= to the letter" },
  { value: "folded", name: "= case and marks aside" },
  { value: "words", name: "= words in any order" },
  { value: "read", name: "= as they are read" },
];

const options = (columns: string[]) => columns.map((c) => ({ value: c, name: c }));
