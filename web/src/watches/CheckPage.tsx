import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useTable } from "../api/queries";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";

/** How many fields the form has. */
const fields = 60;

/** Whether a record is in the table already, exactly or nearly, told while it is typed. */
export function CheckPage() {
  const { table } = useBook();
  const { data, error } = useTable(table);
  const [record, setRecord] = useState<Record<string, string>>({});
  const typed = useDeferredValue(record);
  const filled = Object.fromEntries(Object.entries(typed).filter(([, v]) => v.trim() !== ""));
  const any = Object.keys(filled).length > 0;
  const found = useQuery({
    queryKey: ["check", table, data?.revision, filled],
    enabled: any && data !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask(api.POST("/tables/{table}/check", { params: { path: { table } }, body: { record: filled }, signal })),
  });
  const f = any ? found.data : undefined;
  return (
    <Spread
      widths="5fr 7fr"
      left={
        <Page
          side="left"
          title="Is it there already?"
          tab="Is it there already?"
          sub={data && `${data.name}, ${count(data.rows, "row")}. Type what you know of the record.`}
        >
          {error && <ProblemNotice error={error} />}
          <div className="grid grid-cols-[130px_1fr] items-center gap-y-1.5">
            {(data?.columns ?? []).slice(0, fields).map((name) => (
              <label key={name} className="contents">
                <span className="truncate pr-2 text-ink-2" title={name}>
                  {name}
                </span>
                <Input
                  aria-label={name}
                  className="w-full"
                  value={record[name] ?? ""}
                  onChange={(e) => setRecord({ ...record, [name]: e.target.value })}
                />
              </label>
            ))}
          </div>
          <Button kind="small" className="mt-3" disabled={!any} onClick={() => setRecord({})}>
            Clear
          </Button>
        </Page>
      }
      right={
        <Page side="right" title={f ? verdict(f) : "What is there"} sub={f && why(f)}>
          {found.error && any ? <ProblemNotice error={found.error} /> : null}
          {!any && <p className="py-4 text-ink-2">Rows that may be the same appear here as you type.</p>}
          {f?.matches.map((m, i) => (
            <Match key={i} match={m} columns={f.columns} asked={Object.keys(filled)} />
          ))}
        </Page>
      }
    />
  );
}

type Found = Schemas["RecordFound"];

function verdict(f: Found): string {
  if (f.verdict === "there") return f.exact === 1 ? "It is there" : `It is there, ${n(f.exact)} times`;
  return f.verdict === "perhaps" ? "It may be there" : "It is new";
}

function why(f: Found): string {
  if (f.verdict === "new") return "No row agrees with enough of it.";
  const nearly = f.matches.length - Math.min(f.exact, f.matches.length);
  return f.exact > 0
    ? `${count(f.exact, "row")} ${f.exact === 1 ? "agrees" : "agree"} to the letter${nearly > 0 ? `, ${n(nearly)} nearly` : ""}.`
    : `${count(f.matches.length, "row")} ${f.matches.length === 1 ? "agrees" : "agree"} nearly.`;
}

const tones = {
  same: "text-green",
  form: "text-pencil",
  close: "text-ochre",
  differs: "text-red",
  blank: "text-ink-3",
};
const words = {
  same: "the same",
  form: "the same but for form",
  close: "close",
  differs: "differs",
  blank: "blank",
};

/** A row that may be the record, with how each cell that was asked for agrees. */
function Match({ match: m, columns, asked }: { match: Schemas["RecordMatch"]; columns: string[]; asked: string[] }) {
  const rest = columns.filter((c) => !asked.includes(c)).slice(0, 6);
  return (
    <section className="mb-3 border-b border-rule pb-2" aria-label={`Source row ${m.row.source || m.row.row + 1}`}>
      <p className="mb-1 text-[12px] text-ink-2">
        {m.row.origin || `row ${n(m.row.row + 1)}`}, {n(Math.floor(m.score * 100))}% of what both say agrees
      </p>
      <table className="w-full table-fixed">
        <tbody>
          {asked.map((c) => (
            <tr key={c} className="h-[24px]">
              <td className="w-[24%] truncate text-ink-2">{c}</td>
              <td className="truncate pr-2 font-medium">
                <Value value={m.row.cells[columns.indexOf(c)] ?? null} />
              </td>
              <td className={`w-[28%] text-right ${tones[m.cells[c] ?? "blank"]}`}>{words[m.cells[c] ?? "blank"]}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rest.length > 0 && (
        <p className="truncate text-[12px] text-ink-2">
          {rest.map((c, i) => (
            <span key={c}>
              {i > 0 && " · "}
              {c} <Value value={m.row.cells[columns.indexOf(c)] ?? null} />
            </span>
          ))}
        </p>
      )}
    </section>
  );
}
