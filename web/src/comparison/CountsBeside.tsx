import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Table } from "../api/client";
import { useRegister } from "../api/queries";
import { Select } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Value } from "../design/Value";
import { count, figure, n } from "../design/words";
import { useBook } from "../shell/useBook";
import type { Asked } from "./ComparisonPage";

interface Props {
  asked: Asked;
  before: Table;
  after: Table;
}

/** How often each value of a column stands in both tables, with the sum and the mean of another. */
export function CountsBeside({ asked, before, after }: Props) {
  const { book } = useBook();
  const both = before.columns.filter((c) => after.columns.includes(c));
  const register = useRegister(before.id, before.revision);
  const [chosen, setBy] = useState("");
  const [of, setOf] = useState("");
  // A category says more than an id: the first column of few values.
  const few = (register.data ?? []).find((p) => both.includes(p.column) && p.distinct > 1 && p.distinct <= 200);
  const by = chosen || (register.data ? (few?.column ?? both[0] ?? "") : "");
  const numbers = (register.data ?? []).filter((p) => p.reading === "number" && both.includes(p.column));
  const counts = useQuery({
    queryKey: ["compared counts", book, asked, by, of],
    enabled: by !== "",
    retry: false,
    queryFn: () =>
      ask(
        api.POST("/books/{book}/comparison/counts", {
          params: {
            path: { book },
            query: { before: by, after: by, measures: of ? [`sum:${of}`, `mean:${of}`] : undefined },
          },
          body: asked,
        }),
      ),
  });
  if (both.length === 0) return <p className="py-4 text-ink-2">The tables have no column of the same name.</p>;
  return (
    <>
      <p className="mb-3 flex flex-wrap items-center gap-2 text-ink-2">
        Rows by
        <Select
          label="Count by"
          value={by}
          options={both.map((value) => ({ value, name: value }))}
          onChange={setBy}
          className="w-44"
        />
        with the sum and mean of
        <Select
          label="Sum and mean of"
          value={of}
          options={[{ value: "", name: "nothing" }, ...numbers.map((p) => ({ value: p.column, name: p.column }))]}
          onChange={setOf}
          className="w-40"
        />
      </p>
      {counts.error && <ProblemNotice error={counts.error} />}
      {counts.isPending && !counts.error && <Loading />}
      {counts.data && (
        <>
          <p className="mb-2 text-ink-2">
            {counts.data.differ === 0
              ? `All ${count(counts.data.values, "value")} stand in as many rows of both.`
              : `${n(counts.data.differ)} of ${count(counts.data.values, "value")} stand in another number of rows.`}
          </p>
          <table className="w-full table-fixed" aria-label="Counts side by side">
            <thead>
              <tr className="border-b border-ink text-[12px] text-ink-2">
                <th className="py-1">{by}</th>
                <th className="w-[11%] text-right">First</th>
                <th className="w-[11%] text-right">Second</th>
                <th className="w-[11%] text-right">Change</th>
                {of && <th className="w-[30%] text-right">Sum of {of}</th>}
                {of && <th className="w-[18%] text-right">Mean</th>}
              </tr>
            </thead>
            <tbody>
              {counts.data.lines.map((l) => (
                <tr key={l.value} className="h-[27px] border-b border-rule-2">
                  <td className="truncate pr-2">
                    <Value value={l.value} />
                  </td>
                  <td className="text-right">{n(l.before)}</td>
                  <td className="text-right">{n(l.after)}</td>
                  <td className={`text-right ${l.before === l.after ? "text-ink-3" : "text-red"}`}>
                    {l.after > l.before ? "+" : l.after < l.before ? "−" : ""}
                    {n(Math.abs(l.after - l.before))}
                  </td>
                  {of && <Two before={l.figuresBefore[0]} after={l.figuresAfter[0]} />}
                  {of && <Two before={l.figuresBefore[1]} after={l.figuresAfter[1]} />}
                </tr>
              ))}
            </tbody>
          </table>
          {counts.data.values > counts.data.lines.length && (
            <p className="mt-2 text-ink-2">The {n(counts.data.lines.length)} most changed are listed.</p>
          )}
        </>
      )}
    </>
  );
}

/** A figure of both tables, once where it is the same. */
function Two({ before, after }: { before?: string; after?: string }) {
  return (
    <td className="truncate pl-2 text-right" title={`${before || "–"} → ${after || "–"}`}>
      {before === after ? (
        <span className="text-ink-2">{figure(before ?? "")}</span>
      ) : (
        <>
          {figure(before || "–")} → <span className="text-red">{figure(after || "–")}</span>
        </>
      )}
    </td>
  );
}
