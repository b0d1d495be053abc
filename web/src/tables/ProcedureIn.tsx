import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { Button } from "../design/Button";
import { Select } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Heading } from "../design/Spread";
import { count } from "../design/words";
import { useBook } from "../shell/useBook";
import type { Line } from "./AmendEntries";

interface Props {
  columns: string[];
  onSteps: (lines: Line[]) => void;
}

/** Brings the steps of a procedure in behind the entries; its columns are mapped to those of this table. */
export function ProcedureIn({ columns, onSteps }: Props) {
  const { table } = useBook();
  const [text, setText] = useState<string>();
  const [names, setNames] = useState<Record<string, string>>({});
  const fitted = useQuery({
    queryKey: ["fitted", table, text, names],
    enabled: text !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask(
        api.POST("/tables/{table}/procedure", {
          params: { path: { table } },
          body: { text: text ?? "", columns: names },
        }),
      ),
  });
  const f = text === undefined ? undefined : fitted.data;
  const column = (c: { name: string; column?: string }) => names[c.name] ?? c.column ?? "";
  const open = (f?.columns ?? []).filter((c) => column(c) === "");
  const ready = f !== undefined && open.length === 0;
  // Names that are like those of the table are taken as chosen.
  const chosen = Object.fromEntries((f?.columns ?? []).map((c) => [c.name, column(c)]));
  const take = async () => {
    const mapped = await ask(
      api.POST("/tables/{table}/procedure", {
        params: { path: { table } },
        body: { text: text ?? "", columns: chosen },
      }),
    );
    const first = -Date.now(); // numbers of their own, however many procedures are brought in
    const own = new Map(mapped.steps.map((s, i) => [s.entry, first - i]));
    onSteps(
      mapped.steps.map((s) => ({
        entry: own.get(s.entry)!,
        kind: s.kind,
        words: s.words,
        params:
          s.kind === "return"
            ? { entry: own.get((s.params as { entry: number }).entry) ?? (s.params as { entry: number }).entry }
            : s.params,
      })),
    );
    setText(undefined);
    setNames({});
  };
  return (
    <>
      <Heading>From a procedure</Heading>
      <label className="block pb-1 text-ink-2">
        A journal that was exported as a procedure, its steps done behind these entries:{" "}
        <input
          type="file"
          accept=".json,.yaml,.yml"
          aria-label="Procedure"
          className="mt-1 block text-[12px] file:mr-2 file:rounded-[3px] file:border file:border-ink-3 file:bg-paper file:px-2 file:py-1 file:font-semibold"
          onChange={async (e) => {
            const file = e.target.files?.[0];
            setNames({});
            setText(file && (await file.text()));
          }}
        />
      </label>
      {text !== undefined && fitted.error ? <ProblemNotice error={fitted.error} /> : null}
      {f && f.columns.length > 0 && (
        <table className="mb-2 w-full table-fixed" aria-label="Columns of the procedure">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="py-1">Column of {f.name}</th>
              <th>Is here</th>
            </tr>
          </thead>
          <tbody>
            {f.columns.map((c) => (
              <tr key={c.name} className="border-b border-rule-2">
                <td className="truncate">{c.name}</td>
                <td className="py-0.5">
                  <Select
                    label={`Column for ${c.name}`}
                    value={column(c)}
                    options={[{ value: "", name: "choose…" }, ...columns.map((value) => ({ value, name: value }))]}
                    onChange={(to) => setNames({ ...names, [c.name]: to })}
                    className="w-56"
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {f && (
        <Button kind="small" disabled={!ready} onClick={() => void take()}>
          {ready
            ? `Put ${count(f.steps.length, "step")} behind the entries`
            : `${count(open.length, "column")} to choose`}
        </Button>
      )}
    </>
  );
}
