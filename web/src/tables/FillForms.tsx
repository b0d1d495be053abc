import { useState } from "react";
import type { Schemas } from "../api/client";
import { Check, Input, Labelled, Select } from "../design/Field";
import { Several } from "./Several";
import { options, Row, useShaping, type FormProps } from "./ShapeForms";

/** Puts several columns together into one. */
export function CombineForm({ names, params: p, onShape }: FormProps<Schemas["Combine"]>) {
  const [chosen, setChosen] = useState<string[]>(p?.columns ?? []);
  const [separator, setSeparator] = useState(p?.separator ?? " ");
  const [name, setName] = useState(p?.name ?? "");
  const [drop, setDrop] = useState(p?.drop ?? false);
  const title = name.trim() || chosen.join(" and ");
  useShaping(chosen.length > 1 ? { columns: chosen, separator, name: title, drop } : null, onShape);
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Columns">
        <span className="flex flex-col gap-1">
          {names.map((c) => (
            <Check
              key={c}
              checked={chosen.includes(c)}
              onChange={(on) => setChosen(on ? [...chosen, c] : chosen.filter((x) => x !== c))}
            >
              {c}
              {chosen.includes(c) && <span className="text-ink-2">{chosen.indexOf(c) + 1}.</span>}
            </Check>
          ))}
        </span>
      </Row>
      <Row label="Between them">
        <Input
          aria-label="Separator"
          className="w-24"
          value={separator}
          onChange={(e) => setSeparator(e.target.value)}
        />
        <span className="text-[12px] text-ink-2">blank cells are passed over</span>
      </Row>
      <Row label="New name">
        <Input
          aria-label="Name of the new column"
          placeholder={title}
          className="w-60"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </Row>
      <Row label="">
        <Check checked={drop} onChange={setDrop}>
          drop the columns themselves
        </Check>
      </Row>
    </div>
  );
}

/** Fills blank cells, or blanks repeats. */
export function FillForm({ names, column, params: p, onShape }: FormProps<Schemas["Fill"]>) {
  const [columns, setColumns] = useState<string[]>(p?.columns ?? [column]);
  const [how, setHow] = useState<Schemas["Fill"]["with"]>(p?.with ?? "above");
  const [value, setValue] = useState(p?.value ?? "");
  const [from, setFrom] = useState(p?.from || (names.find((c) => c !== column) ?? ""));
  const ready = columns.length > 0 && (how !== "constant" || value.trim() !== "");
  useShaping(
    ready ? { columns, with: how, ...(how === "constant" && { value }), ...(how === "column" && { from }) } : null,
    onShape,
  );
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Columns">
        <Several names={names} chosen={columns} label="Columns to fill" onChoose={setColumns} />
      </Row>
      <Row label="Blank cells">
        <Select
          label="What blank cells become"
          value={how}
          options={[
            { value: "above", name: "take the value above" },
            { value: "column", name: "take the value of another column" },
            { value: "constant", name: "become one value" },
            { value: "next", name: "get new ids after the highest" },
            { value: "repeats", name: "stand where the cell above repeats" },
          ]}
          onChange={(v) => setHow(v as Schemas["Fill"]["with"])}
          className="w-72"
        />
      </Row>
      {how === "constant" && (
        <Row label="Value">
          <Input
            aria-label="Value to fill with"
            className="w-60"
            value={value}
            onChange={(e) => setValue(e.target.value)}
          />
        </Row>
      )}
      {how === "column" && (
        <Row label="Column">
          <Select
            label="Column to fill from"
            value={from}
            options={options(names.filter((c) => !columns.includes(c)))}
            onChange={setFrom}
            className="w-52"
          />
        </Row>
      )}
    </div>
  );
}

/** Numbers the rows in the order they stand. */
export function NumberForm({ names, params: p, onShape }: FormProps<Schemas["Number"]>) {
  const [name, setName] = useState(p?.name ?? (names.includes("row") ? "number" : "row"));
  const [start, setStart] = useState(String(p?.start ?? 1));
  const [prefix, setPrefix] = useState(p?.prefix ?? "");
  const [width, setWidth] = useState(p?.width ? String(p.width) : "");
  useShaping(
    name.trim() !== ""
      ? { name, start: Number(start) || 0, prefix: prefix || undefined, width: Number(width) || undefined }
      : null,
    onShape,
  );
  return (
    <div className="flex flex-wrap gap-3">
      <Labelled label="New column">
        <Input className="w-40" value={name} onChange={(e) => setName(e.target.value)} />
      </Labelled>
      <Labelled label="From">
        <Input
          className="w-20"
          inputMode="numeric"
          value={start}
          onChange={(e) => setStart(e.target.value.replace(/\D/g, "").slice(0, 15))}
        />
      </Labelled>
      <Labelled label="Before the number">
        <Input className="w-28" placeholder="nothing" value={prefix} onChange={(e) => setPrefix(e.target.value)} />
      </Labelled>
      <Labelled label="Digits">
        <Input
          className="w-16"
          placeholder="any"
          inputMode="numeric"
          value={width}
          onChange={(e) => setWidth(e.target.value.replace(/\D/g, "").slice(0, 2))}
        />
      </Labelled>
    </div>
  );
}
