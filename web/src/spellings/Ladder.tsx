import { useState } from "react";
import type { Rung, Schemas } from "../api/client";
import { useContents } from "../api/queries";
import { Button } from "../design/Button";
import { Check, Segments, Select } from "../design/Field";
import { count } from "../design/words";
import { rungs } from "./rungs";
import { ShortForms } from "./ShortForms";
import type { Order } from "./useGroupDecisions";

interface Props {
  book: number;
  column: string;
  data: Schemas["Spellings"];
  accept: Rung;
  onAccept: (rung: Rung) => void;
  kind: Schemas["ColumnKind"];
  onKind: (kind: Schemas["ColumnKind"]) => void;
  order: Order;
  onCrosswalk: (name: string) => void;
  onOrder: (order: Order) => void;
  onlyNew: boolean;
  onOnlyNew: (only: boolean) => void;
}

const kinds: { value: Schemas["ColumnKind"]; name: string }[] = [
  { value: "free", name: "of any kind" },
  { value: "person", name: "people" },
  { value: "organisation", name: "organisations" },
  { value: "place", name: "places" },
  { value: "address", name: "addresses" },
  { value: "product", name: "products" },
];

const orders: { value: Order; name: string }[] = [
  { value: "rows", name: "most rows" },
  { value: "doubt", name: "doubtful" },
  { value: "rung", name: "weakest evidence" },
];

/** How far down the ladder of evidence to accept and what each further rung adds; what the values are; what is listed first. */
export function Ladder(p: Props) {
  const [forms, setForms] = useState(false);
  const known = useContents(p.book).data?.crosswalks.map((c) => c.name) ?? [];
  const crosswalks = [...new Set([p.data.crosswalk, p.column, ...known])];
  const total = p.data.rungs.find((r) => r.rung === p.accept);
  const before = p.data.rungs[p.data.rungs.findIndex((r) => r.rung === p.accept) - 1];
  return (
    <div className="mb-2">
      <div className="flex flex-wrap items-center gap-x-2.5 gap-y-1">
        <span className="text-[12px] text-ink-2">Accept down to</span>
        <Segments
          upTo
          label="Accept evidence down to"
          value={p.accept}
          options={p.data.rungs.map((r) => ({ value: r.rung, name: rungs[r.rung] }))}
          onChange={p.onAccept}
        />
        <span className="text-[12px] text-ink-2">Values are</span>
        <Select
          label="What the values are"
          value={p.kind}
          options={kinds}
          onChange={(v) => p.onKind(v as Schemas["ColumnKind"])}
          className="w-32"
        />
        <span className="text-[12px] text-ink-2">First the</span>
        <Select
          label="What is listed first"
          value={p.order}
          options={orders}
          onChange={(v) => p.onOrder(v as Order)}
          className="w-36"
        />
        {crosswalks.length > 1 && (
          <>
            <span className="text-[12px] text-ink-2">Crosswalk</span>
            <Select
              label="Crosswalk that is asked and remembers"
              value={p.data.crosswalk}
              options={crosswalks.map((name) => ({ value: name, name }))}
              onChange={p.onCrosswalk}
              className="w-28"
            />
          </>
        )}
        <Button kind="quiet" onClick={() => setForms(true)}>
          Short forms…
        </Button>
        <Check checked={p.onlyNew} onChange={p.onOnlyNew}>
          <span className="text-[12px] text-ink-2">Only spellings never seen</span>
        </Check>
      </div>
      {total && (
        <p className="mt-1 text-[12px] text-ink-2" aria-live="polite">
          {count(total.spellings, "spelling")} in {count(total.rows, "row")} would change
          {before &&
            total.spellings > before.spellings &&
            `; this rung adds ${count(total.spellings - before.spellings, "spelling")}`}
          .
        </p>
      )}
      {forms && <ShortForms book={p.book} onClose={() => setForms(false)} />}
    </div>
  );
}
