import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Entry, type Schemas } from "../api/client";
import { ButtonLink } from "../design/Button";
import { Select } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Value } from "../design/Value";
import { count, n } from "../design/words";

interface Props {
  book: number;
  table: number;
  entry: Entry;
  entries: Entry[];
}

const called = (number: number) => (number === 0 ? "the opening" : `entry ${number}`);

/** What lies between how the table stood after an entry and after another one. */
export function Between({ book, table, entry, entries }: Props) {
  const [other, setOther] = useState("");
  const [from, to] = [Number(other), entry.number].toSorted((a, b) => a - b) as [number, number];
  const d = useQuery({
    queryKey: ["difference", table, from, to],
    enabled: other !== "",
    retry: false,
    staleTime: Infinity,
    queryFn: () => ask(api.GET("/tables/{table}/difference", { params: { path: { table }, query: { from, to } } })),
  });
  return (
    <div className="mb-3">
      <p className="flex items-center gap-2 text-ink-2">
        Compare the table after it with
        <Select
          label="Compare with"
          value={other}
          options={[
            { value: "", name: "choose…" },
            ...entries
              .filter((e) => e.number !== entry.number && e.kind !== "amend")
              .map((e) => ({ value: String(e.number), name: `after ${called(e.number)}` })),
          ]}
          onChange={setOther}
          className="w-44"
        />
      </p>
      {other !== "" && d.isPending && !d.error && <Loading what="Comparing…" />}
      {d.error ? <ProblemNotice error={d.error} /> : null}
      {other !== "" && d.data && <Difference of={d.data} from={from} to={to} />}
      {other !== "" && (
        <p className="mt-2">
          <ButtonLink
            to={`/books/${book}/comparison?before=${table}&beforeEntry=${from}&after=${table}&afterEntry=${to}`}
          >
            Row by row
          </ButtonLink>
        </p>
      )}
    </div>
  );
}

function Difference({ of: d, from, to }: { of: Schemas["Difference"]; from: number; to: number }) {
  return (
    <>
      <p className="my-2">
        From {called(from)} to {called(to)}: {count(d.added, "row")} added, {n(d.setAside)} set aside,{" "}
        {count(d.cells, "cell")} {d.cells === 1 ? "holds" : "hold"} something else. {n(d.before)} + {n(d.added)} −{" "}
        {n(d.setAside)} = {n(d.after)} rows.
      </p>
      {d.columns.length === 0 ? (
        <p className="text-ink-2">No column differs.</p>
      ) : (
        <table className="w-full table-fixed" aria-label="What differs">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="w-[24%] py-1">Column</th>
              <th className="w-[13%] pr-3 text-right">Cells</th>
              <th>Values that came</th>
              <th>Values that went</th>
            </tr>
          </thead>
          <tbody>
            {d.columns.map((c) => (
              <tr key={`${c.column} ${c.state}`} className="border-b border-rule-2 align-top">
                <td className={`truncate py-1 pr-2 ${c.state === "went" ? "struck" : ""}`} title={c.column}>
                  {c.column}
                  {c.state === "came" && <i className="ml-1 text-ink-2">new</i>}
                </td>
                <td className="py-1 pr-3 text-right">{c.state === "stays" ? n(c.cells) : ""}</td>
                <td className="py-1 pr-2">
                  <Some values={c.values} all={c.come} />
                </td>
                <td className="py-1">
                  <Some values={c.lost} all={c.went} struck />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

function Some({ values, all, struck }: { values: Schemas["Line"][]; all: number; struck?: boolean }) {
  const shown = values.slice(0, 4);
  return (
    <>
      {shown.map((v) => (
        <span key={v.value} className="block truncate">
          <Value value={v.value} className={struck ? "struck" : ""} /> <span className="text-ink-2">{n(v.rows)}</span>
        </span>
      ))}
      {all > shown.length && <span className="text-[12px] text-ink-2">and {n(all - shown.length)} more</span>}
    </>
  );
}
