import { useState } from "react";
import type { Table } from "../api/client";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Check } from "../design/Field";
import { count } from "../design/words";

/** The address of a table, or of what an entry set aside, as CSV. */
export function csvAddress(table: number, revision: number, guard: boolean, aside?: number): string {
  const of = aside === undefined ? `revision=${revision}` : `aside=${aside}`;
  return `/api/tables/${table}/publish.csv?${of}&guard=${guard}`;
}

export function PublishDialog({ table, open, onClose }: { table: Table; open: boolean; onClose: () => void }) {
  const [guard, setGuard] = useState(false);
  return (
    <Dialog open={open} onClose={onClose} title={`Publish ${table.name}`}>
      <p className="mb-3 text-ink-2">
        {count(table.rows, "row")} and {count(table.columns.length, "column")} as a CSV file: UTF-8, commas, a header,
        exactly the cells as they stand.
      </p>
      <Check checked={guard} onChange={setGuard}>
        <span>Guard cells that a spreadsheet would run as a formula</span>
      </Check>
      <p className="mt-0.5 mb-4 ml-5 text-[12px] text-ink-2">
        Puts an apostrophe before cells that begin with = + - or @ and are not numbers. Those cells then differ from the
        table.
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Not now</Button>
        <a
          className="inline-flex h-[30px] items-center rounded-[3px] border border-green bg-green px-3 font-medium text-on-green hover:brightness-110"
          href={csvAddress(table.id, table.revision, guard)}
          download
          onClick={onClose}
        >
          Publish as CSV
        </a>
      </div>
    </Dialog>
  );
}
