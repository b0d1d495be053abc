import { useState } from "react";
import type { Row } from "../api/client";
import type { Draft } from "../api/queries";
import { Dialog } from "../design/Dialog";
import { Input, Labelled, Segments } from "../design/Field";
import { Value } from "../design/Value";
import { Life } from "./Life";
import { usePosting } from "./PostBar";
import type { Shown } from "./RowGrid";
import { usePinned } from "./usePinned";

interface Props {
  table: number;
  row: Row;
  column: Shown;
  onClose: () => void;
}

/** Changes one cell, or every cell of its column that holds the same. */
export function EditCell({ table, row, column, onClose }: Props) {
  const from = row.cells[column.at] ?? "";
  const pinned = usePinned(table);
  const [to, setTo] = useState(from);
  // A blank cell is changed alone: others are blank for reasons of their own.
  const [every, setEvery] = useState(false);
  const draft: Draft | null =
    to !== from && pinned.revision !== undefined
      ? every
        ? { revision: pinned.revision, kind: "values", params: { column: column.name, changes: [{ from, to }] } }
        : { revision: pinned.revision, kind: "cell", params: { column: column.name, row: row.source ?? 0, from, to } }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    whole: true,
    idle: "Type what the cell is to hold",
    onPosted: onClose,
  });
  return (
    <Dialog open onClose={onClose} title={`${column.name}, ${row.origin}`}>
      {posting.notices}
      <p className="mb-2 text-ink-2">
        It holds <Value value={from} className="text-ink" />.
      </p>
      <Labelled label="It is to hold">
        <Input aria-label="New value of the cell" autoFocus value={to} onChange={(e) => setTo(e.target.value)} />
      </Labelled>
      {from.trim() !== "" && (
        <div className="my-3">
          <Segments
            label="Which cells"
            value={every ? "every" : "one"}
            options={[
              { value: "one", name: "this cell" },
              { value: "every", name: "every cell with this value" },
            ]}
            onChange={(v) => setEvery(v === "every")}
          />
        </div>
      )}
      {pinned.revision !== undefined && (
        <Life table={table} revision={pinned.revision} row={row.row} column={column.name} origin={row.origin} />
      )}
      {posting.strip}
    </Dialog>
  );
}
