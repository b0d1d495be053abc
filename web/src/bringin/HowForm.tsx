import { useEffect, useState, type ReactNode } from "react";
import type { Schemas } from "../api/client";
import { Input, Segments, Select } from "../design/Field";

type How = Schemas["How"];

/** The kinds of file, in the words of the page. */
export const formats: { value: How["format"]; name: string }[] = [
  { value: "delimited", name: "Delimited text (CSV and its relatives)" },
  { value: "fixed", name: "Text in columns of fixed width" },
  { value: "json", name: "JSON or JSON Lines" },
  { value: "workbook", name: "Workbook (.xlsx)" },
  { value: "opendocument", name: "OpenDocument workbook (.ods)" },
  { value: "parquet", name: "Parquet" },
  { value: "arrow", name: "Arrow" },
  { value: "xml", name: "XML" },
  { value: "html", name: "Table of a web page" },
  { value: "statement", name: "Bank statement (camt.053, MT940, OFX)" },
];

interface Props {
  how: How;
  choices: Schemas["Choices"];
  onChange: (how: How) => void;
}

/** What can be corrected about how a file of a format is read; lines of a grid of two columns. */
export function HowForm({ how, choices, onChange }: Props) {
  switch (how.format) {
    case "delimited":
      return how.text && <TextForm text={how.text} onChange={(text) => onChange({ ...how, text })} />;
    case "fixed":
      return how.fixed && <FixedForm fixed={how.fixed} onChange={(fixed) => onChange({ ...how, fixed })} />;
    case "json":
      return how.json && <JsonForm json={how.json} choices={choices} onChange={(json) => onChange({ ...how, json })} />;
    case "xml":
      return (
        how.xml && (
          <Line name="A record is at">
            <PathChoice
              label="A record is at"
              value={how.xml.records}
              found={choices.records ?? []}
              onChange={(records) => onChange({ ...how, xml: { records } })}
            />
          </Line>
        )
      );
    case "workbook":
    case "opendocument":
    case "html":
      return (
        how.grid && (
          <GridForm grid={how.grid} area={how.format !== "html"} onChange={(grid) => onChange({ ...how, grid })} />
        )
      );
  }
  return null;
}

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <span className="text-ink-2">{name}</span>
      <span className="flex min-w-0 flex-wrap items-center gap-2">{children}</span>
    </>
  );
}

/** A field that is taken over when it is left or Enter is pressed, so that not every letter reads the file again. */
function Settled({
  label,
  value,
  onChange,
  className,
}: {
  label: string;
  value: string;
  onChange: (v: string) => void;
  className?: string;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <Input
      aria-label={label}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && onChange(text)}
      onKeyDown={(e) => e.key === "Enter" && onChange(text)}
      className={className}
    />
  );
}

function Whole({ label, value, onChange }: { label: string; value: number; onChange: (v: number) => void }) {
  return (
    <Settled
      label={label}
      value={String(value)}
      onChange={(v) => onChange(Math.max(0, Math.trunc(Number(v)) || 0))}
      className="w-14 text-right"
    />
  );
}

interface Above {
  names: number;
  above?: number;
}

/** Where the names are: none, in one row or two, below how many lines. */
function NamesForm({ at, row, onChange }: { at: Above; row: string; onChange: (at: Above) => void }) {
  return (
    <>
      <Line name="Columns are named">
        <Segments
          label="Columns are named"
          value={String(at.names)}
          options={[
            { value: "1", name: `by a ${row}` },
            { value: "2", name: `by two ${row}s` },
            { value: "0", name: "by none" },
          ]}
          onChange={(v) => onChange({ ...at, names: Number(v) })}
        />
      </Line>
      <Line name={`${row === "line" ? "Lines" : "Rows"} above`}>
        <Whole label={`${row}s above`} value={at.above ?? 0} onChange={(above) => onChange({ ...at, above })} />
        <span className="text-ink-2">passed over, such as a title</span>
      </Line>
    </>
  );
}

const delimiters = [
  { value: ",", name: "comma" },
  { value: ";", name: "semicolon" },
  { value: "\t", name: "tab" },
  { value: "|", name: "bar" },
  { value: ":", name: "colon" },
];

const encodings: { value: Schemas["Encoding"]; name: string }[] = [
  { value: "utf-8", name: "UTF-8" },
  { value: "windows-1252", name: "Windows-1252 (Western European)" },
  { value: "iso-8859-1", name: "ISO 8859-1 (Latin 1)" },
  { value: "utf-16le", name: "UTF-16, little-endian" },
  { value: "utf-16be", name: "UTF-16, big-endian" },
];

function EncodingLine({ value, onChange }: { value: Schemas["Encoding"]; onChange: (v: Schemas["Encoding"]) => void }) {
  return (
    <Line name="Encoding">
      <Select
        label="Encoding"
        value={value}
        options={encodings}
        onChange={(v) => onChange(v as Schemas["Encoding"])}
        className="w-full"
      />
    </Line>
  );
}

function TextForm({ text, onChange }: { text: Schemas["Dialect"]; onChange: (t: Schemas["Dialect"]) => void }) {
  const set = (part: Partial<Schemas["Dialect"]>) => onChange({ ...text, ...part });
  const known = delimiters.some((d) => d.value === text.delimiter);
  return (
    <>
      <Line name="Cells are split by">
        <Segments
          label="Cells are split by"
          value={known ? text.delimiter : "other"}
          options={[...delimiters, { value: "other", name: "other" }]}
          onChange={(delimiter) => set({ delimiter: delimiter === "other" ? "^" : delimiter })}
        />
        {!known && (
          <Settled
            label="Another delimiter"
            value={text.delimiter}
            onChange={(delimiter) => set({ delimiter })}
            className="w-20"
          />
        )}
      </Line>
      <Line name="Quotation mark">
        <Segments
          label="Quotation mark"
          value={text.quote}
          options={[
            { value: '"', name: 'double "' },
            { value: "'", name: "single '" },
            { value: "", name: "none" },
          ]}
          onChange={(quote) => set({ quote })}
        />
      </Line>
      <NamesForm at={text} row="line" onChange={set} />
      <Line name="Comments begin">
        <Settled
          label="Comments begin with"
          value={text.comment ?? ""}
          onChange={(comment) => set({ comment })}
          className="w-14"
        />
        <span className="text-ink-2">such lines are passed over</span>
      </Line>
      <EncodingLine value={text.encoding} onChange={(encoding) => set({ encoding })} />
    </>
  );
}

function FixedForm({
  fixed,
  onChange,
}: {
  fixed: Schemas["FixedLayout"];
  onChange: (f: Schemas["FixedLayout"]) => void;
}) {
  return (
    <>
      <Line name="Cut behind">
        <Settled
          label="Cut behind characters"
          value={fixed.cuts.join(", ")}
          onChange={(v) => onChange({ ...fixed, cuts: (v.match(/\d+/g) ?? []).map(Number) })}
          className="min-w-0 flex-1"
        />
        <span className="text-ink-2">characters; or drag on the left</span>
      </Line>
      <NamesForm at={fixed} row="line" onChange={(at) => onChange({ ...fixed, ...at })} />
      <EncodingLine value={fixed.encoding} onChange={(encoding) => onChange({ ...fixed, encoding })} />
    </>
  );
}

function GridForm({
  grid,
  area,
  onChange,
}: {
  grid: Schemas["GridRange"];
  area: boolean;
  onChange: (g: Schemas["GridRange"]) => void;
}) {
  return (
    <>
      {area && (
        <Line name="Only the range">
          <Settled
            label="Only the range"
            value={grid.area ?? ""}
            onChange={(v) => onChange({ ...grid, area: v })}
            className="w-28"
          />
          <span className="text-ink-2">such as B3:F200; empty is all of it</span>
        </Line>
      )}
      <NamesForm at={grid} row="row" onChange={(at) => onChange({ ...grid, ...at })} />
    </>
  );
}

interface PathProps {
  label: string;
  value: string;
  found: Schemas["FoundPath"][];
  onChange: (path: string) => void;
}

/** A path that was found, or one that is typed. */
function PathChoice({ label, value, found, onChange }: PathProps) {
  return (
    <>
      {found.length > 0 && (
        <Select
          label={`${label}, as found`}
          value={found.some((f) => f.path === value) ? value : ""}
          options={[
            ...(found.some((f) => f.path === value) ? [] : [{ value: "", name: "another path" }]),
            ...found.map((f) => ({ value: f.path, name: `${f.path} (${f.items} seen)` })),
          ]}
          onChange={onChange}
          className="max-w-full"
        />
      )}
      <Settled label={label} value={value} onChange={onChange} className="min-w-0 flex-1" />
    </>
  );
}

function JsonForm({
  json,
  choices,
  onChange,
}: {
  json: Schemas["JsonShape"];
  choices: Schemas["Choices"];
  onChange: (j: Schemas["JsonShape"]) => void;
}) {
  const lists = choices.lists ?? [];
  const spread = json.spread ?? "";
  return (
    <>
      {((choices.records ?? []).length > 0 || json.records) && (
        <Line name="Records are in">
          <PathChoice
            label="Records are in"
            value={json.records ?? ""}
            found={choices.records ?? []}
            onChange={(records) => onChange({ ...json, records, spread: undefined })}
          />
        </Line>
      )}
      {(lists.length > 0 || spread !== "") && (
        <Line name="Lists">
          <Select
            label="Lists"
            value={spread}
            options={[
              { value: "", name: "stay in one cell" },
              ...[...new Set([...lists, ...(spread ? [spread] : [])])].map((path) => ({
                value: path,
                name: `a row for each of ${path}`,
              })),
            ]}
            onChange={(v) => onChange({ ...json, spread: v })}
            className="max-w-full"
          />
        </Line>
      )}
    </>
  );
}
