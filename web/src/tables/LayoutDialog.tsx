import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Check } from "../design/Field";
import type { LaidOut } from "./useLayout";

interface Props {
  open: boolean;
  all: LaidOut[];
  onChange: (all: LaidOut[]) => void;
  onReset: () => void;
  onClose: () => void;
}

/** Which columns the rows show, and in which order. It changes the page alone, not the table. */
export function LayoutDialog({ open, all, onChange, onReset, onClose }: Props) {
  const move = (i: number, by: number) => {
    const next = [...all];
    next.splice(i + by, 0, ...next.splice(i, 1));
    onChange(next);
  };
  return (
    <Dialog open={open} onClose={onClose} title="Columns shown">
      <p className="mb-2 text-ink-2">This changes what you see here, not the table.</p>
      <ol className="mb-4 max-h-[50vh] overflow-auto">
        {all.map((c, i) => (
          <li key={c.name} className="flex items-center gap-2 border-b border-rule-2 py-0.5">
            <Check checked={c.shown} onChange={(shown) => onChange(all.map((o) => (o === c ? { ...o, shown } : o)))}>
              <span className="truncate">{c.name}</span>
            </Check>
            <Button
              kind="quiet"
              className="ml-auto"
              aria-label={`Move ${c.name} up`}
              disabled={i === 0}
              onClick={() => move(i, -1)}
            >
              ↑
            </Button>
            <Button
              kind="quiet"
              aria-label={`Move ${c.name} down`}
              disabled={i === all.length - 1}
              onClick={() => move(i, 1)}
            >
              ↓
            </Button>
          </li>
        ))}
      </ol>
      <div className="flex justify-end gap-2">
        <Button onClick={onReset}>As in the table</Button>
        <Button kind="main" onClick={onClose}>
          Done
        </Button>
      </div>
    </Dialog>
  );
}
