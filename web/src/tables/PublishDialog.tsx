import { useState } from "react";
import type { Table } from "../api/client";
import { useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Check, Segments } from "../design/Field";
import { count } from "../design/words";
import { ServedSwitch } from "./ServedSwitch";

const formats = [
  { value: "csv", name: "CSV" },
  { value: "tsv", name: "TSV" },
  { value: "xlsx", name: "XLSX" },
  { value: "ods", name: "ODS" },
  { value: "json", name: "JSON" },
  { value: "jsonl", name: "JSON Lines" },
  { value: "parquet", name: "Parquet" },
  { value: "arrow", name: "Arrow" },
] as const;

type Format = (typeof formats)[number]["value"];

const what: Record<Format, string> = {
  csv: "UTF-8, commas, a header, exactly the cells as they stand.",
  tsv: "UTF-8, tabs, a header, exactly the cells as they stand.",
  xlsx: "One sheet; numbers and dates as such where no digit is lost by it.",
  ods: "One sheet; numbers and dates as such where no digit is lost by it.",
  json: "A list of records; numbers, true and false and lists as such.",
  jsonl: "A record on each line; numbers, true and false and lists as such.",
  parquet: "Typed columns where no letter is lost by it, else text; Zstandard.",
  arrow: "Typed columns where no letter is lost by it, else text.",
};

/** The address of a table, or of what an entry set aside, as a file. */
export function fileAddress(
  table: number,
  of: { revision?: number; aside?: number; where?: string; format?: Format; guard?: boolean },
): string {
  const query = new URLSearchParams();
  for (const [name, v] of Object.entries(of)) if (v !== undefined) query.set(name, String(v));
  return `/api/tables/${table}/publish?${query}`;
}

export function PublishDialog({ table, open, onClose }: { table: Table; open: boolean; onClose: () => void }) {
  const [guard, setGuard] = useState(false);
  const [format, setFormat] = useState<Format>("csv");
  const where = useWhere(table.id);
  return (
    <Dialog open={open} onClose={onClose} title={`Publish ${table.name}`}>
      <Segments label="Format" value={format} options={[...formats]} onChange={setFormat} />
      <p className="mt-2 mb-3 text-ink-2">
        {!where.text && `${count(table.rows, "row")} and ${count(table.columns.length, "column")}. `}
        {what[format]}
      </p>
      <WhereStrip revision={table.revision} />
      {format === "csv" && (
        <>
          <Check checked={guard} onChange={setGuard}>
            <span>Guard cells that a spreadsheet would run as a formula</span>
          </Check>
          <p className="mt-0.5 mb-4 ml-5 text-[12px] text-ink-2">
            Puts an apostrophe before cells that begin with = + - or @ and are not numbers. Those cells then differ from
            the table.
          </p>
        </>
      )}
      {open && <ServedSwitch table={table.id} />}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Not now</Button>
        <a
          className="inline-flex h-[30px] items-center rounded-[3px] border border-green bg-green px-3 font-medium text-on-green hover:brightness-110"
          href={fileAddress(table.id, {
            revision: table.revision,
            where: where.text,
            format,
            guard: format === "csv" ? guard : undefined,
          })}
          download
          onClick={onClose}
        >
          Publish as {formats.find((f) => f.value === format)!.name}
        </a>
      </div>
    </Dialog>
  );
}
