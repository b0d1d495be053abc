import { useEffect, useEffectEvent, useState, type ReactNode } from "react";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Check, Input, Segments, Select } from "../design/Field";

/** The parameters of an entry. */
export type Shaping = Schemas["Draft"]["params"];

export interface FormProps<Params = unknown> {
  /** The columns there are. */
  names: string[];
  /** The column the page was opened for. */
  column: string;
  /** What the form opens with: the parameters of an entry that is changed. */
  params?: Params;
  onShape: (shaping: Shaping | null) => void;
}

/** Tells the page what is chosen whenever it changes. */
export function useShaping(shaping: Shaping | null, onShape: FormProps["onShape"]) {
  const told = useEffectEvent(() => onShape(shaping));
  const text = JSON.stringify(shaping);
  useEffect(() => told(), [text]);
}

interface Line {
  from: string;
  as: string;
  stays: boolean;
}

/** Renames, orders, copies and drops columns. */
export function ColumnsForm({ names, params, onShape }: FormProps<Schemas["ColumnsEntry"]>) {
  const start = names.map((from) => ({ from, as: from, stays: true }));
  const kept0 = params?.columns.map((c) => ({ from: c.from, as: c.as ?? c.from, stays: true }));
  const [lines, setLines] = useState<Line[]>(
    kept0
      ? [...kept0, ...start.filter((l) => !kept0.some((k) => k.from === l.from)).map((l) => ({ ...l, stays: false }))]
      : start,
  );
  const [find, setFind] = useState("");
  const [by, setBy] = useState("");
  const kept = lines.filter((l) => l.stays);
  const same = JSON.stringify(lines) === JSON.stringify(start);
  useShaping(
    same ? null : { columns: kept.map(({ from, as }) => ({ from, as: as === from ? undefined : as })) },
    onShape,
  );
  const set = (i: number, part: Partial<Line>) => setLines(lines.map((l, j) => (i === j ? { ...l, ...part } : l)));
  const move = (i: number, to: number) => {
    const next = [...lines];
    next.splice(to, 0, ...next.splice(i, 1));
    setLines(next);
  };
  return (
    <>
      <p className="mb-2 flex flex-wrap items-center gap-2">
        <span className="text-ink-2">In all names</span>
        <Input
          aria-label="In names look for"
          placeholder="look for"
          className="w-28"
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
        <span className="text-ink-2">becomes</span>
        <Input
          aria-label="In names replace by"
          placeholder="nothing"
          className="w-28"
          value={by}
          onChange={(e) => setBy(e.target.value)}
        />
        <Button
          kind="small"
          disabled={find === ""}
          onClick={() => setLines(lines.map((l) => ({ ...l, as: l.as.replaceAll(find, by).trim() || l.as })))}
        >
          Rename them
        </Button>
        <Button kind="quiet" onClick={() => setLines(lines.map((l) => ({ ...l, as: plain(l.as) })))}>
          plain names: lower_case
        </Button>
      </p>
      <table className="w-full table-fixed" aria-label="Columns to shape">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            <th className="w-[36%] py-1">Column</th>
            <th>Named</th>
            <th className="w-[31%]" />
          </tr>
        </thead>
        <tbody>
          {lines.map((l, i) => (
            <tr key={`${l.from} ${i}`} className="h-[31px] border-b border-rule-2">
              <td className="truncate">
                <Check checked={l.stays} onChange={(stays) => set(i, { stays })} label={`Keep ${l.from}`}>
                  <span className={l.stays ? "font-semibold" : "struck"}>{l.from}</span>
                </Check>
              </td>
              <td>
                <Input
                  aria-label={`Name of ${l.from}`}
                  className={`w-full ${l.as === l.from ? "" : "text-pencil"}`}
                  value={l.as}
                  disabled={!l.stays}
                  onChange={(e) => set(i, { as: e.target.value })}
                />
              </td>
              <td className="text-right whitespace-nowrap">
                <Button kind="quiet" disabled={i === 0} aria-label={`Move ${l.from} up`} onClick={() => move(i, i - 1)}>
                  up
                </Button>
                <Button
                  kind="quiet"
                  disabled={i === lines.length - 1}
                  aria-label={`Move ${l.from} down`}
                  onClick={() => move(i, i + 1)}
                >
                  down
                </Button>
                <Button
                  kind="quiet"
                  aria-label={`Copy ${l.from}`}
                  onClick={() => setLines(lines.toSpliced(i + 1, 0, { ...l, as: `${l.as} (copy)`, stays: true }))}
                >
                  copy
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** A name of small letters, digits and low lines alone. */
const plain = (name: string) =>
  name
    .normalize("NFD")
    .replace(/\p{Mn}/gu, "")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^_+|_+$/g, "") || name;

export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <>
      <span className="pt-1 text-ink-2">{label}</span>
      <span className="flex flex-wrap items-center gap-2">{children}</span>
    </>
  );
}

export const options = (names: string[]) => names.map((value) => ({ value, name: value }));

/** Cuts one column into several. */
export function SplitForm({ names, column, params: p, onShape }: FormProps<Schemas["Split"]>) {
  const [of, setOf] = useState(p?.column ?? column);
  const [by, setBy] = useState<Schemas["Split"]["by"]>(p?.by ?? "marks");
  const [marks, setMarks] = useState(p?.marks?.join(" | ") ?? ", | &");
  const [pattern, setPattern] = useState(p?.pattern ?? "");
  const [widths, setWidths] = useState(p?.widths?.join(" ") ?? "2 4");
  const [take, setTake] = useState<"every" | "first" | "last">(p?.take || "every");
  const [made, setMade] = useState(p?.names?.join(", ") ?? "");
  const [drop, setDrop] = useState(p?.drop ?? false);
  const [rows, setRows] = useState(p?.rows ?? false);
  const list = marks
    .split("|")
    .map((m) => (m.trim() === "" ? m : m.trim()))
    .filter((m) => m !== "");
  const lengths = widths
    .split(/\D+/)
    .map(Number)
    .filter((w) => w > 0);
  const named = made.split(",").map((m) => m.trim());
  const ready =
    by === "change" ||
    by === "list" ||
    (by === "marks" && list.length > 0) ||
    (by === "pattern" && pattern !== "") ||
    (by === "width" && lengths.length > 0);
  useShaping(
    ready
      ? {
          column: of,
          by,
          ...(by === "marks" && { marks: list, take }),
          ...(by === "pattern" && { pattern, take }),
          ...(by === "width" && { widths: lengths }),
          ...(rows ? { rows } : { drop, ...(made.trim() !== "" && { names: named }) }),
        }
      : null,
    onShape,
  );
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Column">
        <Select label="Column to split" value={of} options={options(names)} onChange={setOf} className="w-52" />
      </Row>
      <Row label="Cut by">
        <Segments
          label="Cut by"
          value={by}
          options={[
            { value: "marks", name: "marks" },
            { value: "width", name: "widths" },
            { value: "pattern", name: "pattern" },
            { value: "change", name: "letters and digits" },
            { value: "list", name: "items of a list" },
          ]}
          onChange={setBy}
        />
      </Row>
      {by === "marks" && (
        <Row label="Marks">
          <Input aria-label="Marks" className="w-44" value={marks} onChange={(e) => setMarks(e.target.value)} />
          <span className="text-[12px] text-ink-2">several apart by |, such as , | &amp; | and</span>
        </Row>
      )}
      {by === "pattern" && (
        <Row label="Pattern">
          <Input
            aria-label="Pattern to cut by"
            placeholder="\\s*/\\s*"
            className="w-44"
            value={pattern}
            onChange={(e) => setPattern(e.target.value)}
          />
        </Row>
      )}
      {by === "width" && (
        <Row label="Characters">
          <Input aria-label="Widths" className="w-32" value={widths} onChange={(e) => setWidths(e.target.value)} />
          <span className="text-[12px] text-ink-2">of each part; the rest is the last one</span>
        </Row>
      )}
      {(by === "marks" || by === "pattern") && (
        <Row label="Cut at">
          <Segments
            label="Which marks cut"
            value={take}
            options={[
              { value: "every", name: "every one" },
              { value: "first", name: "the first" },
              { value: "last", name: "the last" },
            ]}
            onChange={setTake}
          />
        </Row>
      )}
      <Row label="Into">
        <Segments
          label="Into columns or rows"
          value={rows ? "rows" : "columns"}
          options={[
            { value: "columns", name: "columns" },
            { value: "rows", name: "rows, the other cells attached" },
          ]}
          onChange={(v) => setRows(v === "rows")}
        />
      </Row>
      {!rows && (
        <Row label="New names">
          <Input
            aria-label="Names of the new columns"
            placeholder={`${of} 1, ${of} 2, …`}
            className="w-72"
            value={made}
            onChange={(e) => setMade(e.target.value)}
          />
        </Row>
      )}
      {!rows && (
        <Row label="">
          <Check checked={drop} onChange={setDrop}>
            drop {of} itself
          </Check>
        </Row>
      )}
    </div>
  );
}
