import { Button } from "../design/Button";
import { Check, Input } from "../design/Field";
import { Heading } from "../design/Spread";
import { count } from "../design/words";

export interface ColumnToBring {
  from: string;
  as: string;
  bring: boolean;
}

interface Props {
  names: string[];
  /** null: all of them, as they come. */
  columns: ColumnToBring[] | null;
  onChange: (columns: ColumnToBring[] | null) => void;
}

/** Which columns are brought in, under which names, in which order. */
export function ColumnsForm({ names, columns, onChange }: Props) {
  if (!columns) {
    return (
      <p className="mt-4">
        <Button kind="quiet" onClick={() => onChange(names.map((name) => ({ from: name, as: name, bring: true })))}>
          Leave out, rename or order the columns
        </Button>
      </p>
    );
  }
  const set = (i: number, part: Partial<ColumnToBring>) =>
    onChange(columns.map((c, j) => (j === i ? { ...c, ...part } : c)));
  const move = (i: number, by: number) => {
    const next = [...columns];
    next.splice(i + by, 0, ...next.splice(i, 1));
    onChange(next);
  };
  const left = columns.filter((c) => !c.bring).length;
  return (
    <>
      <Heading>Columns</Heading>
      <p className="mb-1 text-ink-2">
        {left > 0 ? `${count(left, "column")} left out. ` : "All are brought in. "}
        <Button kind="quiet" onClick={() => onChange(null)}>
          As they come
        </Button>
      </p>
      <ol aria-label="Columns to bring in">
        {columns.map((c, i) => (
          <li key={c.from} className="flex items-center gap-2 border-b border-rule-2 py-0.5">
            <Check checked={c.bring} label={`Bring in ${c.from}`} onChange={(bring) => set(i, { bring })} />
            <span className={`w-[38%] truncate ${c.bring ? "" : "text-ink-3 line-through"}`} title={c.from}>
              {c.from}
            </span>
            <Input
              aria-label={`Name of ${c.from}`}
              value={c.as}
              disabled={!c.bring}
              onChange={(e) => set(i, { as: e.target.value })}
              className="min-w-0 flex-1 disabled:opacity-40"
            />
            <Button kind="quiet" aria-label={`Move ${c.from} up`} disabled={i === 0} onClick={() => move(i, -1)}>
              ↑
            </Button>
            <Button
              kind="quiet"
              aria-label={`Move ${c.from} down`}
              disabled={i === columns.length - 1}
              onClick={() => move(i, 1)}
            >
              ↓
            </Button>
          </li>
        ))}
      </ol>
    </>
  );
}
