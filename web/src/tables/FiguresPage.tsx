import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useRegister, useTable } from "../api/queries";
import { useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { Button, ButtonLink } from "../design/Button";
import { Chart } from "../design/Chart";
import { Select } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { TableHead, TableSub } from "./TableHead";

const figures = [
  { value: "sum", name: "sum of" },
  { value: "mean", name: "mean of" },
  { value: "median", name: "median of" },
  { value: "lowest", name: "lowest" },
  { value: "highest", name: "highest" },
];

/** Figures of columns of numbers by the values of a category, as bars and lines and to the last decimal. */
export function FiguresPage() {
  const { book, table } = useBook();
  const { data, error } = useTable(table);
  const where = useWhere(table);
  const register = useRegister(table, data?.revision, where.text);
  const [query, setQuery] = useSearchParams();
  const numbers = register.data?.filter((p) => p.reading === "number").map((p) => p.column) ?? [];
  const category = query.get("category") ?? data?.columns[0] ?? "";
  const asked = query.getAll("measure");
  const measures = asked.length > 0 ? asked : ["rows", ...numbers.slice(0, 1).map((c) => `sum:${c}`)];
  const choose = (category: string, measure: string[]) => {
    const next = new URLSearchParams({ category });
    for (const m of measure) next.append("measure", m);
    setQuery(next, { replace: true });
  };
  const measured = useQuery({
    queryKey: ["measures", table, data?.revision, category, measures, where.text],
    enabled: register.data !== undefined && category !== "",
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/measures", {
          params: {
            path: { table },
            query: { category, measure: measures, revision: data!.revision, where: where.text },
          },
        }),
      ),
  });
  const set = (i: number, m: string) =>
    choose(
      category,
      measures.map((old, j) => (i === j ? m : old)),
    );
  return (
    <Spread
      left={
        <Page
          side="left"
          title={data?.name ?? "…"}
          tab={data && `Figures of ${data.name}`}
          sub={data && <TableSub table={data} />}
        >
          {(error ?? measured.error) && <ProblemNotice error={error ?? measured.error} />}
          {data && <TableHead table={data} />}
          <WhereStrip revision={data?.revision} />
          <div className="flex flex-wrap items-center gap-2 py-1">
            <span className="text-ink-2">By</span>
            <Select
              label="Category"
              value={category}
              options={(data?.columns ?? []).map((c) => ({ value: c, name: c }))}
              onChange={(v) => choose(v, measures)}
              className="w-44"
            />
            {measures.map((m, i) => (
              <MeasureChoice
                key={i}
                measure={m}
                numbers={numbers}
                onChange={(next) => set(i, next)}
                onRemove={
                  measures.length > 1
                    ? () =>
                        choose(
                          category,
                          measures.filter((_, j) => j !== i),
                        )
                    : undefined
                }
              />
            ))}
            {measures.length < 4 && numbers.length > 0 && (
              <Button kind="quiet" onClick={() => choose(category, [...measures, `mean:${numbers[0]}`])}>
                Add a figure
              </Button>
            )}
            <ButtonLink className="ml-auto" to={tablePath(book, table, `/cross?lines=${encodeURIComponent(category)}`)}>
              Count by another column instead
            </ButtonLink>
          </div>
          {measured.isPending && !measured.error && <Loading />}
          {measured.data && !measured.error && (
            <Measured measured={measured.data} category={category} names={measures.map(named)} />
          )}
        </Page>
      }
    />
  );
}

function named(measure: string): string {
  if (measure === "rows") return "Rows";
  const [of, ...column] = measure.split(":");
  const figure = figures.find((f) => f.value === of)?.name ?? of ?? "";
  return `${figure.charAt(0).toUpperCase()}${figure.slice(1)} ${column.join(":")}`;
}

interface MeasureChoiceProps {
  measure: string;
  numbers: string[];
  onChange: (measure: string) => void;
  onRemove?: () => void;
}

function MeasureChoice({ measure, numbers, onChange, onRemove }: MeasureChoiceProps) {
  const [of, ...rest] = measure.split(":");
  const column = rest.join(":");
  return (
    <span className="flex items-center gap-1 rounded-[3px] border border-rule px-1.5 py-0.5">
      <Select
        label="Figure"
        value={of ?? "rows"}
        options={[{ value: "rows", name: "rows" }, ...(numbers.length > 0 ? figures : [])]}
        onChange={(v) => onChange(v === "rows" ? "rows" : `${v}:${column || numbers[0]}`)}
        className="w-28"
      />
      {of !== "rows" && (
        <Select
          label="Of the column"
          value={column}
          options={numbers.map((c) => ({ value: c, name: c }))}
          onChange={(v) => onChange(`${of}:${v}`)}
          className="w-32"
        />
      )}
      {onRemove && (
        <Button kind="quiet" aria-label={`Remove ${named(measure)}`} onClick={onRemove}>
          remove
        </Button>
      )}
    </span>
  );
}

interface MeasuredProps {
  measured: Schemas["Measured"];
  category: string;
  names: string[];
}

function Measured({ measured: m, category, names }: MeasuredProps) {
  // More would be too narrow to read; the table has them all.
  const drawn = m.lines.slice(0, 24);
  const unread = m.unread.reduce((sum, rows) => Math.max(sum, rows), 0);
  return (
    <>
      <Chart
        label={`${names.join(", ")} by ${category}`}
        categories={drawn.map((l) => l.value)}
        series={names.map((name, i) => ({ name, values: drawn.map((l) => l.figures[i] ?? null) }))}
      />
      {unread > 0 && (
        <p className="mt-2 text-ochre">{count(unread, "row")} hold no number and are in no figure but the rows.</p>
      )}
      <div className="mt-3 min-h-0 flex-1 overflow-auto">
        <table className="w-full text-right" aria-label={`${names.join(", ")} by ${category}`}>
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="sticky top-0 bg-paper py-1 text-left">{category}</th>
              {names.map((name, i) => (
                <th key={i} className="sticky top-0 bg-paper text-right">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {m.lines.map((l) => (
              <tr key={l.value} className="h-[27px] border-b border-rule-2">
                <td className="max-w-64 truncate text-left">
                  <Value value={l.value} />
                </td>
                {l.written.map((w, i) => (
                  <td key={i}>{w === "" ? "–" : grouped(w)}</td>
                ))}
              </tr>
            ))}
            {m.others > 0 && (
              <tr>
                <td className="py-1 text-left text-ink-2" colSpan={names.length + 1}>
                  {count(m.others, "value")} with fewer rows {m.others === 1 ? "is" : "are"} not listed.
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </div>
    </>
  );
}

/** A plain decimal with its thousands apart, every decimal kept. */
function grouped(written: string): string {
  const [whole = "", fraction] = written.split(".");
  const apart = `${whole.startsWith("-") ? "−" : ""}${n(Math.abs(Number(whole)))}`;
  return fraction ? `${apart}.${fraction}` : apart;
}
