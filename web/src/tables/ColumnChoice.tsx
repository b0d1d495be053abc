import type { ReactNode } from "react";
import type { Profile } from "../api/client";
import { Check } from "../design/Field";
import { count } from "../design/words";

interface Props {
  label: string;
  profiles: Profile[];
  chosen: string[];
  /** Given the chosen columns in the order of the register, so that the same choice is the same question. */
  onChoose: (columns: string[]) => void;
  figures: { name: string; of: (p: Profile) => ReactNode }[];
}

/** How many columns are listed. */
const shown = 500;

/** The columns of a table to choose from, each with what helps to choose. */
export function ColumnChoice({ label, profiles, chosen, onChoose, figures }: Props) {
  const toggle = (name: string, on: boolean) =>
    onChoose(profiles.map((p) => p.column).filter((c) => (c === name ? on : chosen.includes(c))));
  return (
    <table className="w-full table-fixed" aria-label={label}>
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="w-[42%] py-1">Column</th>
          {figures.map((f) => (
            <th key={f.name} className="text-right">
              {f.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {profiles.slice(0, shown).map((p) => (
          <tr
            key={p.column}
            className={`h-[27px] border-b border-rule-2 ${chosen.includes(p.column) ? "bg-pencil-bg" : ""}`}
          >
            <td className="truncate" title={p.column}>
              <Check checked={chosen.includes(p.column)} onChange={(on) => toggle(p.column, on)}>
                <span className="font-semibold">{p.column}</span>
              </Check>
            </td>
            {figures.map((f) => (
              <td key={f.name} className="text-right">
                {f.of(p)}
              </td>
            ))}
          </tr>
        ))}
        {profiles.length > shown && (
          <tr>
            <td colSpan={figures.length + 1} className="py-1 text-ink-2">
              {count(profiles.length - shown, "column")} more are not listed
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
