import type { Schemas, Table } from "../api/client";
import { Check, Input } from "../design/Field";
import { Heading } from "../design/Spread";

type Bring = Schemas["Bring"];

interface Props {
  left: Table;
  right: Table;
  broughtLeft: Bring[];
  broughtRight: Bring[];
  onChange: (left: Bring[], right: Bring[]) => void;
}

/** The columns of the result: which are brought from each side, and under what name. */
export function ColumnsToBring({ left, right, broughtLeft, broughtRight, onChange }: Props) {
  const names = [...broughtLeft, ...broughtRight].map((b) => b.as);
  return (
    <>
      <Heading>Columns of the result</Heading>
      <div className="grid grid-cols-2 gap-x-4">
        <Side table={left} brought={broughtLeft} names={names} onChange={(b) => onChange(b, broughtRight)} />
        <Side table={right} brought={broughtRight} names={names} onChange={(b) => onChange(broughtLeft, b)} />
      </div>
    </>
  );
}

interface SideProps {
  table: Table;
  brought: Bring[];
  names: string[];
  onChange: (brought: Bring[]) => void;
}

function Side({ table, brought, names, onChange }: SideProps) {
  const set = (column: string, as: string | undefined) => {
    const all = table.columns.flatMap((c) => {
      const now = brought.find((b) => b.column === c);
      if (c !== column) return now ? [now] : [];
      return as === undefined ? [] : [{ column: c, as }];
    });
    onChange(all);
  };
  return (
    <fieldset className="min-w-0">
      <legend className="w-full truncate border-b border-ink py-1 text-[12px] text-ink-2">{table.name}</legend>
      {table.columns.slice(0, 500).map((c) => {
        const b = brought.find((x) => x.column === c);
        const clash = b !== undefined && names.filter((x) => x === b.as).length > 1;
        return (
          <div key={c} className="flex h-[27px] items-center gap-2 border-b border-rule-2">
            <Check
              checked={b !== undefined}
              onChange={(on) => set(c, on ? (names.includes(c) ? `${c} (2)` : c) : undefined)}
              label={`Bring ${c}`}
            />
            {b ? (
              <Input
                aria-label={`Name of ${c} in the result`}
                title={c}
                className={`h-[23px]! min-w-0 flex-1 border-transparent! px-1! hover:border-rule! ${clash || b.as === "" ? "text-red" : ""}`}
                value={b.as}
                onChange={(e) => set(c, e.target.value)}
              />
            ) : (
              <span className="truncate px-1 text-ink-3" title={c}>
                {c}
              </span>
            )}
          </div>
        );
      })}
    </fieldset>
  );
}
