import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useContents } from "../api/queries";
import { blankCondition, Group } from "../conditions/Builder";
import type { Condition } from "../conditions/useWhere";
import { Button } from "../design/Button";
import { Check, Input, Segments, Select } from "../design/Field";
import { useBook } from "../shell/useBook";
import { Several } from "./Several";
import { options, Row, useShaping, type FormProps } from "./ShapeForms";

/** Makes one row of those with the same key, with lists in some columns. */
export function GatherForm({ names, params: p, onShape }: FormProps<Schemas["Gather"]>) {
  const [key, setKey] = useState<string[]>(p?.key ?? []);
  const [columns, setColumns] = useState<string[]>(p?.columns ?? []);
  const [distinct, setDistinct] = useState(p?.distinct ?? true);
  useShaping(key.length > 0 && columns.length > 0 ? { key, columns, distinct } : null, onShape);
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Same in">
        <Several names={names.filter((c) => !columns.includes(c))} chosen={key} label="Same in" onChoose={setKey} />
      </Row>
      <Row label="Becomes lists">
        <Several
          names={names.filter((c) => !key.includes(c))}
          chosen={columns}
          label="Becomes lists"
          onChoose={setColumns}
        />
      </Row>
      <Row label="">
        <Check checked={distinct} onChange={setDistinct}>
          an item that comes again is listed once
        </Check>
      </Row>
      <Row label="">
        <span className="text-[12px] text-ink-2">
          Of the other columns, the first row&rsquo;s cells stay; what differs is counted.
        </span>
      </Row>
    </div>
  );
}

/** Moves what of a column does not read to a column of its own. */
export function ReviewForm({ names, column, params: p, onShape }: FormProps<Schemas["Review"]>) {
  const [of, setOf] = useState(p?.column ?? column);
  const [name, setName] = useState(p?.name ?? "");
  useShaping({ column: of, name: name.trim() || `${of} to review` }, onShape);
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Column">
        <Select label="Column to review" value={of} options={options(names)} onChange={setOf} className="w-52" />
      </Row>
      <Row label="Review list">
        <Input
          aria-label="Name of the review list"
          placeholder={`${of} to review`}
          className="w-52"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </Row>
    </div>
  );
}

/** Adds rows that are typed. */
export function AddForm({ names, params: p, onShape }: FormProps<Schemas["AddRows"]>) {
  const [rows, setRows] = useState<Record<string, string>[]>(p?.rows ?? [{}]);
  const filled = rows.filter((row) => Object.values(row).some((v) => v !== ""));
  useShaping(filled.length > 0 ? { rows: filled } : null, onShape);
  const set = (i: number, name: string, value: string) =>
    setRows(rows.map((row, j) => (i === j ? { ...row, [name]: value } : row)));
  return (
    <>
      {rows.map((row, i) => (
        <div key={i} className="mb-3 grid grid-cols-[130px_1fr] gap-y-1.5 border-b border-rule-2 pb-3">
          {names.map((name) => (
            <label key={name} className="contents">
              <span className="truncate pt-1 pr-2 text-ink-2" title={name}>
                {name}
              </span>
              <Input
                aria-label={`${name} of row ${i + 1}`}
                className="w-full"
                value={row[name] ?? ""}
                onChange={(e) => set(i, name, e.target.value)}
              />
            </label>
          ))}
        </div>
      ))}
      <Button kind="small" onClick={() => setRows([...rows, {}])}>
        One more row
      </Button>
    </>
  );
}

/** Returns rows that were taken apart into a table of their own, as they stand there. */
export function PutBackForm({ params: p, onShape }: FormProps<Schemas["PutBack"]>) {
  const { book, table } = useBook();
  const contents = useContents(book);
  const apart = (contents.data?.tables ?? []).filter((t) => t.copyOf === table);
  const [asked] = useSearchParams();
  const [of, setOf] = useState(p?.table ?? asked.get("table") ?? "");
  const [behind, setBehind] = useState(p?.behind ?? false);
  useShaping(of ? { table: of, ...(behind && { behind: true }) } : null, onShape);
  if (contents.data && apart.length === 0 && !p) {
    return (
      <p className="text-ink-2">
        No rows of this table are in a table of their own. Open the rows that an entry set aside, and take them apart.
      </p>
    );
  }
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Rows of">
        <Select
          label="Table whose rows come back"
          value={of}
          options={[{ value: "", name: "choose…" }, ...apart.map((t) => ({ value: t.name, name: t.name }))]}
          onChange={setOf}
          className="w-72"
        />
      </Row>
      <Row label="Stand">
        <Segments
          label="Where they stand"
          value={behind ? "behind" : "source"}
          options={[
            { value: "source", name: "where the source has them" },
            { value: "behind", name: "behind the others" },
          ]}
          onChange={(v) => setBehind(v === "behind")}
        />
      </Row>
      <Row label="">
        <span className="text-[12px] text-ink-2">
          They come with the values they have there, and with the columns they were given. Rows that stand here already
          are left as they are.
        </span>
      </Row>
    </div>
  );
}

/** A condition as the group that the form shows. */
const grouped = (c: Condition | undefined, first: string): Condition =>
  c === undefined
    ? { op: "all", of: [blankCondition(first)] }
    : c.op === "all" || c.op === "any"
      ? c
      : { op: "all", of: [c] };

/** Whether every part of a condition says enough to be worked out. */
function says(c: Condition): boolean {
  if (c.op === "all" || c.op === "any") return (c.of ?? []).length > 0 && c.of!.every(says);
  if (c.op === "is") return (c.values ?? []).length > 0;
  if (c.op === "range") return Boolean(c.from || c.to);
  if (c.op === "blank" || c.op === "unread") return true;
  return c.op === "differs" ? Boolean(c.other) : Boolean(c.text);
}

/** Something that must hold from here on, whenever the journal is done again. */
export function CheckForm({
  names,
  column,
  params: p,
  onShape,
  revision,
}: FormProps<Schemas["Check"]> & { revision?: number }) {
  const { table } = useBook();
  const [of, setOf] = useState<"key" | "none">(p?.none ? "none" : "key");
  const [key, setKey] = useState<string[]>(p?.key ?? []);
  const [none, setNone] = useState<Condition>(grouped(p?.none, column));
  useShaping(of === "key" ? (key.length > 0 ? { key } : null) : says(none) ? { none } : null, onShape);
  return (
    <>
      <div className="mb-3">
        <Segments
          label="What must hold"
          value={of}
          options={[
            { value: "key", name: "no two rows have the same key" },
            { value: "none", name: "no row holds a condition" },
          ]}
          onChange={setOf}
        />
      </div>
      {of === "key" ? (
        <Several names={names} chosen={key} label="Key" onChoose={setKey} />
      ) : (
        <Group table={table} revision={revision} columns={names} condition={none} onChange={setNone} />
      )}
      <p className="mt-3 text-[12px] text-ink-2">
        A check changes nothing. When a later delivery is against it, the entry says so, and a procedure ends there.
      </p>
    </>
  );
}

/** Keeps or sets aside the rows that hold a condition. */
export function RowsForm({
  names,
  column,
  params: p,
  onShape,
  revision,
}: FormProps<Schemas["RowsEntry"]> & { revision?: number }) {
  const { table } = useBook();
  const [keep, setKeep] = useState(p?.keep ?? false);
  const [holding, setHolding] = useState<Condition>(grouped(p?.holding, column));
  useShaping(says(holding) ? { keep, holding } : null, onShape);
  return (
    <>
      <div className="mb-3">
        <Segments
          label="Rows that hold it"
          value={keep ? "keep" : "aside"}
          options={[
            { value: "aside", name: "set them aside" },
            { value: "keep", name: "keep them alone" },
          ]}
          onChange={(v) => setKeep(v === "keep")}
        />
      </div>
      <Group table={table} revision={revision} columns={names} condition={holding} onChange={setHolding} />
    </>
  );
}
