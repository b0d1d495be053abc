import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useTable } from "../api/queries";
import { setWhere, useWhere, type Condition } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { ButtonLink } from "../design/Button";
import { Select } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { TableHead, TableSub } from "./TableHead";

/** Rows counted by the values of two columns. */
export function CrossPage() {
  const { book, table } = useBook();
  const { data, error } = useTable(table);
  const [query, setQuery] = useSearchParams();
  const names = data?.columns ?? [];
  const lines = query.get("lines") ?? names[0] ?? "";
  const columns = query.get("columns") ?? names.find((c) => c !== lines) ?? "";
  const where = useWhere(table).text;
  const cross = useQuery({
    queryKey: ["cross", table, data?.revision, lines, columns, where],
    enabled: data !== undefined && lines !== "" && columns !== "",
    staleTime: Infinity,
    placeholderData: (last) => last,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/cross", {
          params: { path: { table }, query: { lines, columns, revision: data!.revision, where } },
        }),
      ),
  });
  const choose = (part: { lines?: string; columns?: string }) =>
    setQuery({ lines, columns, ...part }, { replace: true });
  const options = names.map((c) => ({ value: c, name: c }));
  return (
    <Spread
      left={
        <Page
          side="left"
          title={data?.name ?? "…"}
          tab={data && `Cross table of ${data.name}`}
          sub={data && <TableSub table={data} />}
        >
          {(error ?? cross.error) && <ProblemNotice error={error ?? cross.error} />}
          {data && <TableHead table={data} />}
          <WhereStrip revision={data?.revision} />
          <p className="flex items-center gap-2 py-1">
            <span className="text-ink-2">Rows of</span>
            <Select
              label="Lines"
              value={lines}
              options={options}
              onChange={(v) => choose({ lines: v })}
              className="w-44"
            />
            <span className="text-ink-2">by</span>
            <Select
              label="Columns"
              value={columns}
              options={options}
              onChange={(v) => choose({ columns: v })}
              className="w-44"
            />
            <ButtonLink
              className="ml-auto"
              to={tablePath(book, table, `/figures?category=${encodeURIComponent(lines)}`)}
            >
              Chart figures instead
            </ButtonLink>
          </p>
          {cross.isPending && !cross.error && <Loading />}
          {cross.data && <Counts cross={cross.data} lines={lines} columns={columns} />}
        </Page>
      }
    />
  );
}

interface CountsProps {
  cross: Schemas["Cross"];
  lines: string;
  columns: string;
}

function Counts({ cross, lines, columns }: CountsProps) {
  const { book, table } = useBook();
  const where = useWhere(table).condition;
  const most = Math.max(1, ...cross.rows.slice(0, -1).flatMap((r) => r.slice(0, -1)));
  const restOfLines = cross.rows.at(-1)!;
  const others = restOfLines.some((v) => v > 0);
  const restOfColumns = cross.rows.some((r) => r.at(-1)! > 0);
  const narrow = (line: string, column: string) => {
    const is = (name: string, v: string): Condition =>
      v.trim() === "" ? { op: "blank", column: name } : { op: "is", column: name, values: [v] };
    setWhere(table, { op: "all", of: [...(where ? [where] : []), is(lines, line), is(columns, column)] });
  };
  const total = (at: number) => cross.rows.reduce((sum, r) => sum + r[at]!, 0);
  return (
    <div className="min-h-0 overflow-auto">
      <table className="text-right" aria-label={`${lines} by ${columns}`}>
        <thead>
          <tr className="border-b border-ink text-[12px]">
            <th className="sticky top-0 left-0 z-10 bg-paper py-1 pr-4 text-left">{lines}</th>
            {cross.columns.map((c) => (
              <th key={c.value} className="sticky top-0 max-w-28 truncate bg-paper pl-4 text-right" title={c.value}>
                <Value value={c.value} />
              </th>
            ))}
            {restOfColumns && <th className="sticky top-0 bg-paper pl-4 text-right text-ink-2">others</th>}
            <th className="sticky top-0 bg-paper pl-4 text-right">All</th>
          </tr>
        </thead>
        <tbody>
          {cross.lines.map((l, i) => (
            <tr key={l.value} className="h-[27px] border-b border-rule-2">
              <th className="sticky left-0 max-w-56 truncate bg-paper pr-4 text-left font-normal" title={l.value}>
                <Value value={l.value} />
              </th>
              {cross.columns.map((c, j) => (
                <Cell key={c.value} rows={cross.rows[i]![j]!} most={most}>
                  <Link
                    to={tablePath(book, table, "/rows")}
                    onClick={() => narrow(l.value, c.value)}
                    className="hover:underline"
                  >
                    {n(cross.rows[i]![j]!)}
                  </Link>
                </Cell>
              ))}
              {restOfColumns && <td className="pl-4 text-ink-2">{n(cross.rows[i]!.at(-1)!)}</td>}
              <td className="pl-4 font-semibold">{n(l.rows)}</td>
            </tr>
          ))}
          {others && (
            <tr className="h-[27px] border-b border-rule-2 text-ink-2">
              <th className="sticky left-0 bg-paper pr-4 text-left font-normal">others</th>
              {restOfLines.slice(0, restOfColumns ? undefined : -1).map((v, j) => (
                <td key={j} className="pl-4">
                  {n(v)}
                </td>
              ))}
              <td className="pl-4 font-semibold">{n(restOfLines.reduce((a, b) => a + b, 0))}</td>
            </tr>
          )}
          <tr className="h-[27px] font-semibold">
            <th className="sticky left-0 bg-paper pr-4 text-left">All</th>
            {cross.columns.map((c, j) => (
              <td key={c.value} className="pl-4">
                {n(total(j))}
              </td>
            ))}
            {restOfColumns && <td className="pl-4">{n(total(cross.columns.length))}</td>}
            <td className="border-b-[3px] border-double border-ink pl-4">{n(cross.total)}</td>
          </tr>
        </tbody>
      </table>
    </div>
  );
}

/** A count with its share of the largest one as a bar below it; nothing where there is no row. */
function Cell({ rows, most, children }: { rows: number; most: number; children: React.ReactNode }) {
  if (rows === 0) return <td className="pl-4 text-ink-3">·</td>;
  return (
    <td className="relative pl-4">
      {children}
      <span className="absolute right-0 bottom-0 h-[2px] bg-pencil" style={{ width: `${(100 * rows) / most}%` }} />
    </td>
  );
}
