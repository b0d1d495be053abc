import { kinds as readings } from "../tables/readings";
import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Check, Input, Segments, Select } from "../design/Field";
import { Value } from "../design/Value";
import { count } from "../design/words";
import type { Condition } from "./useWhere";

type Op = Condition["op"];
type Count = Schemas["ConditionCount"];

const kinds: { value: Op; name: string; not: string }[] = [
  { value: "is", name: "is", not: "is not" },
  { value: "contains", name: "contains", not: "does not contain" },
  { value: "starts", name: "starts with", not: "does not start with" },
  { value: "ends", name: "ends with", not: "does not end with" },
  { value: "range", name: "is from … to", not: "is not from … to" },
  { value: "blank", name: "is blank", not: "is not blank" },
  { value: "unread", name: "does not read as", not: "reads as" },
  { value: "differs", name: "differs from", not: "is the same as" },
  { value: "shape", name: "has the shape", not: "has not the shape" },
  { value: "pattern", name: "matches the pattern", not: "does not match the pattern" },
];

export const blankCondition = (column: string): Condition => ({ op: "is", column, values: [] });

interface Props {
  table: number;
  revision: number | undefined;
  columns: string[];
  condition: Condition;
  counted?: Count;
  onChange: (condition: Condition) => void;
  onRemove?: () => void;
}

/** A group of conditions, all of or any of, each with the rows it holds by itself. */
export function Group(props: Props) {
  const { condition, counted, columns, onChange, onRemove } = props;
  const of = condition.of ?? [];
  const set = (i: number, next: Condition | null) =>
    onChange({ ...condition, of: next ? of.map((c, j) => (j === i ? next : c)) : of.filter((_, j) => j !== i) });
  const add = (c: Condition) => onChange({ ...condition, of: [...of, c] });
  return (
    <div
      role="group"
      aria-label={condition.op === "all" ? "All of" : "Any of"}
      className="border-l-2 border-ink-3 pl-3"
    >
      <div className="flex flex-wrap items-center gap-2 py-1">
        <Segments
          label="How they combine"
          value={condition.op as "all" | "any"}
          options={[
            { value: "all", name: "all of" },
            { value: "any", name: "any of" },
          ]}
          onChange={(op) => onChange({ ...condition, op })}
        />
        <Rows counted={counted} strong />
        {onRemove && (
          <Button kind="quiet" onClick={onRemove}>
            Remove the group
          </Button>
        )}
      </div>
      {of.map((part, i) =>
        part.op === "all" || part.op === "any" ? (
          <Group
            {...props}
            key={i}
            condition={part}
            counted={counted?.of?.[i]}
            onChange={(c) => set(i, c)}
            onRemove={() => set(i, null)}
          />
        ) : (
          <One
            {...props}
            key={i}
            condition={part}
            counted={counted?.of?.[i]}
            onChange={(c) => set(i, c)}
            onRemove={() => set(i, null)}
          />
        ),
      )}
      <p className="flex gap-2 py-1">
        <Button kind="small" onClick={() => add(blankCondition(columns[0] ?? ""))}>
          Add a condition
        </Button>
        <Button kind="small" onClick={() => add({ op: condition.op === "all" ? "any" : "all", of: [] })}>
          Add a group
        </Button>
      </p>
    </div>
  );
}

function Rows({ counted, strong }: { counted?: Count; strong?: boolean }) {
  return (
    <span className={`ml-auto whitespace-nowrap ${strong ? "font-semibold" : "text-ink-2"}`} data-rows>
      {counted ? count(counted.rows, "row") : "…"}
    </span>
  );
}

function One({ table, revision, columns, condition, counted, onChange, onRemove }: Props) {
  const set = (part: Partial<Condition>) => onChange({ ...condition, ...part });
  const anywhere = condition.op === "contains";
  return (
    <div className="flex items-center gap-2 border-b border-rule-2 py-1.5" role="group" aria-label="Condition">
      <Select
        label="Column"
        value={condition.column ?? ""}
        options={[
          ...(anywhere ? [{ value: "", name: "any column" }] : []),
          ...columns.map((c) => ({ value: c, name: c })),
        ]}
        onChange={(column) => set({ column: column || undefined })}
        className="w-32 shrink-0"
      />
      <Select
        label="Condition"
        value={`${condition.not ? "not " : ""}${condition.op}`}
        options={kinds.flatMap((k) => [
          { value: k.value, name: k.name },
          { value: `not ${k.value}`, name: k.not },
        ])}
        onChange={(v) => {
          const op = v.replace("not ", "") as Op;
          onChange({
            op,
            not: v.startsWith("not ") || undefined,
            column: condition.column ?? (op === "contains" ? undefined : columns[0]),
            text: op === "unread" || condition.op === "unread" ? undefined : condition.text,
            values: op === "is" ? (condition.values ?? []) : undefined,
            other: op === "differs" ? columns.find((c) => c !== condition.column) : undefined,
          });
        }}
        className="w-36 shrink-0"
      />
      <span className="flex min-w-0 flex-1 flex-wrap items-center gap-2">
        <Operand table={table} revision={revision} columns={columns} condition={condition} set={set} />
      </span>
      <Rows counted={counted} />
      <Button kind="quiet" aria-label="Remove the condition" onClick={onRemove}>
        ×
      </Button>
    </div>
  );
}

interface OperandProps {
  table: number;
  revision: number | undefined;
  columns: string[];
  condition: Condition;
  set: (part: Partial<Condition>) => void;
}

function Operand({ table, revision, columns, condition, set }: OperandProps) {
  switch (condition.op) {
    case "is":
      return (
        <Values
          table={table}
          revision={revision}
          column={condition.column ?? ""}
          values={condition.values ?? []}
          onChange={(values) => set({ values })}
        />
      );
    case "range":
      return (
        <>
          <Input
            aria-label="From"
            placeholder="from"
            className="w-20"
            value={condition.from ?? ""}
            onChange={(e) => set({ from: e.target.value || undefined })}
          />
          <Input
            aria-label="To"
            placeholder="to"
            className="w-20"
            value={condition.to ?? ""}
            onChange={(e) => set({ to: e.target.value || undefined })}
          />
        </>
      );
    case "unread":
      return (
        <Select
          label="Reading"
          value={condition.text ?? ""}
          options={[
            { value: "", name: "the column’s own reading" },
            ...Object.entries(readings).map(([value, k]) => ({ value, name: k.many })),
          ]}
          onChange={(text) => set({ text: text || undefined })}
        />
      );
    case "differs":
      return (
        <Select
          label="Other column"
          value={condition.other ?? ""}
          options={columns.map((c) => ({ value: c, name: c }))}
          onChange={(other) => set({ other })}
          className="w-40"
        />
      );
    case "blank":
      return null;
  }
  return (
    <>
      <Input
        aria-label="What to look for"
        placeholder={condition.op === "shape" ? "AA 999" : condition.op === "pattern" ? "^LK-\\d+$" : "text"}
        className="min-w-24 flex-1"
        value={condition.text ?? ""}
        onChange={(e) => set({ text: e.target.value })}
      />
      {(condition.op === "contains" || condition.op === "starts" || condition.op === "ends") && (
        <Check checked={condition.case ?? false} onChange={(on) => set({ case: on || undefined })}>
          as written
        </Check>
      )}
    </>
  );
}

interface ValuesProps {
  table: number;
  revision: number | undefined;
  column: string;
  values: string[];
  onChange: (values: string[]) => void;
}

/** Values picked from the column's tally. */
function Values({ table, revision, column, values, onChange }: ValuesProps) {
  const [typed, setTyped] = useState("");
  const list = useId();
  const found = useQuery({
    queryKey: ["tally", table, { column, find: typed, revision, pick: true }],
    enabled: column !== "" && revision !== undefined,
    staleTime: Infinity,
    placeholderData: (last) => last,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/tally", {
          params: { path: { table }, query: { column, revision, find: typed || undefined, count: 30 } },
        }),
      ),
  });
  const lines = found.data?.lines ?? [];
  const take = (v: string) => {
    if (!values.includes(v)) onChange([...values, v]);
    setTyped("");
  };
  return (
    <span className="flex min-w-36 flex-1 flex-wrap items-center gap-1">
      {values.map((v) => (
        <button
          key={v}
          type="button"
          title="Take it off"
          aria-label={`Take off ${v}`}
          className="max-w-52 truncate rounded-[3px] border border-pencil bg-pencil-bg px-1.5 leading-6 text-pencil hover:line-through"
          onClick={() => onChange(values.filter((o) => o !== v))}
        >
          <Value value={v} />
        </button>
      ))}
      <Input
        aria-label="Add a value"
        placeholder={values.length ? "or …" : "a value"}
        list={list}
        className="min-w-28 flex-1"
        value={typed}
        onChange={(e) => {
          const v = e.target.value;
          // Chosen from the list, which comes in one go and not letter by letter.
          if (v.length > typed.length + 1 && lines.some((l) => l.value === v)) take(v);
          else setTyped(v);
        }}
        onKeyDown={(e) => {
          if (e.key !== "Enter" || typed === "") return;
          take(lines.find((l) => l.value.toLowerCase() === typed.toLowerCase())?.value ?? typed);
        }}
        onBlur={() => lines.some((l) => l.value === typed) && take(typed)}
      />
      <datalist id={list}>
        {lines.map((l) => (
          <option key={l.value} value={l.value}>
            {count(l.rows, "row")}
          </option>
        ))}
      </datalist>
    </span>
  );
}
