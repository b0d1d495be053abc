import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { Loading, ProblemNotice } from "../design/Notice";
import { Turn } from "../design/Turn";
import { Value } from "../design/Value";
import { useBook } from "../shell/useBook";
import type { Asked } from "./ComparisonPage";

interface Props {
  asked: Asked;
  which: "changed" | "before" | "after";
  column: string;
  keyPairs: Schemas["ComparePair"][];
}

const perPage = 40;
/** How many columns are shown of rows that one table has alone. */
const shownColumns = 7;

/** Rows that differ, cell by cell, or that one of the tables has alone. */
export function ComparedRows({ asked, which, column, keyPairs }: Props) {
  const { book } = useBook();
  const what = JSON.stringify([asked, which, column]);
  const [at, setAt] = useState({ what, from: 0 });
  const from = at.what === what ? at.from : 0;
  const rows = useQuery({
    queryKey: ["compared rows", book, asked, which, column, from],
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask(
        api.POST("/books/{book}/comparison/rows", {
          params: { path: { book }, query: { which, column: column || undefined, from, count: perPage } },
          body: asked,
        }),
      ),
  });
  if (rows.error) return <ProblemNotice error={rows.error} />;
  if (!rows.data) return <Loading what="Fetching rows…" />;
  const d = rows.data;
  if (d.total === 0) return <p className="py-4 text-ink-2">There are none.</p>;
  return (
    <>
      {which === "changed" ? (
        <Changed rows={d} keyPairs={keyPairs} />
      ) : (
        <Alone rows={d} which={which} keyPairs={keyPairs} />
      )}
      <Turn from={from} shown={perPage} total={d.total} onFrom={(from) => setAt({ what, from })} />
    </>
  );
}

type Rows = Schemas["ComparedRows"];

const cell = (row: Schemas["Row"], columns: string[], name: string) => row.cells[columns.indexOf(name)] ?? null;

/** One line for each cell that differs; the key stands once for its row. */
function Changed({ rows: d, keyPairs }: { rows: Rows; keyPairs: Props["keyPairs"] }) {
  return (
    <table className="w-full table-fixed" aria-label="Changed rows">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="w-[26%] py-1">{keyPairs.map((k) => k.before).join(" + ") || "Row"}</th>
          <th className="w-[18%]">Column</th>
          <th>First</th>
          <th>Second</th>
        </tr>
      </thead>
      <tbody>
        {d.rows.map((row, i) =>
          row.cells.map((name, j) => (
            <tr key={`${i} ${name}`} className={`h-[26px] ${j === row.cells.length - 1 ? "border-b border-rule" : ""}`}>
              <td className="truncate pr-2 font-medium">
                {j === 0 &&
                  keyPairs.map((k, x) => (
                    <span key={x}>
                      {x > 0 && " + "}
                      <Value value={cell(row.before!, d.beforeColumns, k.before)} />
                    </span>
                  ))}
              </td>
              <td className="truncate pr-2 text-ink-2">{name}</td>
              <td className="truncate pr-2">
                <Value value={cell(row.before!, d.beforeColumns, name)} className="struck" />
              </td>
              <td className="truncate text-red">
                <Value value={cell(row.after!, d.afterColumns, name)} />
              </td>
            </tr>
          )),
        )}
      </tbody>
    </table>
  );
}

/** Rows that one of the tables has alone, their key first. */
function Alone({ rows: d, which, keyPairs }: { rows: Rows; which: "before" | "after"; keyPairs: Props["keyPairs"] }) {
  const all = which === "before" ? d.beforeColumns : d.afterColumns;
  const key = keyPairs.map((k) => k[which]);
  const names = [...key, ...all.filter((c) => !key.includes(c))].slice(0, shownColumns);
  return (
    <table className="w-full table-fixed" aria-label="Rows of one table alone">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          {names.map((c) => (
            <th key={c} className="truncate py-1 pr-2" title={c}>
              {c}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {d.rows.map((row, i) => (
          <tr key={i} className="h-[26px] border-b border-rule-2">
            {names.map((c) => (
              <td key={c} className="truncate pr-2">
                <Value value={cell((which === "before" ? row.before : row.after)!, all, c)} />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
