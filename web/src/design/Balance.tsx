import type { ReactNode } from "react";

export interface Figure {
  label: string;
  value: string;
  tone?: "ochre" | "red" | "green";
  /** The final figure is double-underlined, as in a ledger. */
  final?: boolean;
}

const tones = { ochre: "text-ochre", red: "text-red", green: "text-green" };

/** The balance strip closes the right page: the entry's figures, and the button that posts. */
export function Balance({ figures, children }: { figures: Figure[]; children?: ReactNode }) {
  return (
    <footer className="ml-[5px] flex flex-wrap items-end gap-x-[18px] gap-y-2 rounded-br-[4px] border-t border-ink bg-paper-2/80 pr-[18px] pl-[13px] pt-2.5 pb-3">
      <dl className="flex flex-wrap gap-x-[18px]" aria-live="polite" data-balance>
        {figures.map((f) => (
          <div key={f.label}>
            <dt className="text-[11.5px] whitespace-nowrap text-ink-2">{f.label}</dt>
            <dd className={`font-serif text-[17px] font-semibold ${f.tone ? tones[f.tone] : ""}`}>
              <span className={f.final ? "ruled-off inline-block" : ""}>{f.value}</span>
            </dd>
          </div>
        ))}
      </dl>
      <div className="ml-auto flex items-center gap-2">{children}</div>
    </footer>
  );
}
