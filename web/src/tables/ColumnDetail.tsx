import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, ask, type Profile, type Table } from "../api/client";
import { setWhere, useWhere, type Condition } from "../conditions/useWhere";
import { Button } from "../design/Button";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { tablePath } from "../shell/useBook";

/** What a column holds beyond its line in the register: its shapes, where its numbers lie, what lies apart. */
export function ColumnDetail({ table, profile: p }: { table: Table; profile: Profile }) {
  const where = useWhere(table.id);
  const navigate = useNavigate();
  const detail = useQuery({
    queryKey: ["detail", table.id, table.revision, p.column, where.text],
    staleTime: Infinity,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/detail", {
          params: {
            path: { table: table.id },
            query: { column: p.column, revision: table.revision, where: where.text },
          },
        }),
      ),
  });
  const d = detail.data;
  if (!d) return null;
  const show = (condition: Condition) => {
    setWhere(table.id, where.condition ? { op: "all", of: [where.condition, condition] } : condition);
    void navigate(tablePath(table.bookId, table.id, "/rows"));
  };
  const suspects: { what: string; rows: number; condition: Condition }[] = [];
  if (d.zeros > 0) {
    suspects.push({ what: "are exactly zero", rows: d.zeros, condition: range(p.column, "0", "0") });
  }
  for (const l of d.lumps) {
    const times = n(10 ** Math.abs(l.power));
    suspects.push({
      what: `lie about ${times} times ${l.power > 0 ? "above" : "below"} the rest; another unit?`,
      rows: l.rows,
      condition: range(p.column, l.lowest, l.most),
    });
  }
  if (d.farOut && d.farOut.above > 0) {
    suspects.push({
      what: "lie far above the others",
      rows: d.farOut.above,
      condition: { op: "range", column: p.column, from: d.farOut.from },
    });
  }
  if (d.farOut && d.farOut.below > 0) {
    suspects.push({
      what: "lie far below the others",
      rows: d.farOut.below,
      condition: { op: "range", column: p.column, to: d.farOut.to },
    });
  }
  // Long values leave room for the middle and the edges alone.
  const long = d.quantiles.some((q) => q.value.length > 7);
  const quantiles = long ? d.quantiles.filter((q) => [5, 50, 95].includes(q.percent)) : d.quantiles;
  return (
    <>
      {suspects.length > 0 && (
        <table className="mb-4 w-full">
          <tbody>
            {suspects.map((s) => (
              <tr key={s.what} className="border-b border-rule-2">
                <td className="py-1 pr-2 text-ochre">
                  {count(s.rows, "row")} {s.what}
                </td>
                <td className="w-[1%]">
                  <Button kind="small" onClick={() => show(s.condition)}>
                    Rows
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {d.quantiles.length > 0 && (
        <table className="mb-4 w-full text-right" aria-label={`Quantiles of ${p.column}`}>
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="py-1 text-left">Share at or below</th>
              {quantiles.map((q) => (
                <th key={q.percent} className="text-right">
                  {q.percent} %
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <tr className="border-b border-rule-2">
              <td className="py-1 text-left text-ink-2">{p.column}</td>
              {quantiles.map((q) => (
                <td key={q.percent} className="pl-2 whitespace-nowrap">
                  {q.value}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      )}
      {d.shapes.length > 0 && (
        <table className="mb-4 w-full table-fixed" aria-label={`Shapes of ${p.column}`}>
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="w-[34%] py-1">
                {d.shapesTotal > d.shapes.length ? `Shape, of ${n(d.shapesTotal)}` : "Shape"}
              </th>
              <th className="w-[38%]">Such as</th>
              <th className="text-right">Values</th>
              <th className="text-right">Rows</th>
            </tr>
          </thead>
          <tbody>
            {d.shapes.map((s) => (
              <tr key={s.shape} className="border-b border-rule-2">
                <td className="truncate py-1 pr-2">
                  <button
                    type="button"
                    className="max-w-full truncate font-mono text-[12px] text-pencil hover:underline"
                    title="Show these rows"
                    onClick={() => show({ op: "shape", column: p.column, text: s.shape })}
                  >
                    {s.shape}
                  </button>
                </td>
                <td className="truncate pr-2">
                  <Value value={s.example} />
                </td>
                <td className="text-right">{n(s.values)}</td>
                <td className="text-right">{n(s.rows)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {d.longest !== "" && [...d.shortest].length === d.longestSize && (
        <p className="mb-4 text-ink-2">Every value is {count(d.longestSize, "character")} long.</p>
      )}
      {[...d.shortest].length < d.longestSize && (
        <p className="mb-4 text-ink-2">
          Shortest <Value value={d.shortest} className="text-ink" />, longest{" "}
          <Value value={d.longest.slice(0, 60)} className="text-ink" />
          {d.longest.length > 60 && "…"} ({count(d.longestSize, "character")}).
        </p>
      )}
    </>
  );
}

const range = (column: string, from: string, to: string): Condition => ({ op: "range", column, from, to });
