import type { ReactNode } from "react";

interface Props {
  value: string | null;
  className?: string;
}

/** A cell's text as it is, with what is otherwise invisible made visible: spaces at the edges, doubled spaces, tabs, line
 * ends. Blank and missing are told apart. Content is only ever text. */
export function Value({ value, className = "" }: Props) {
  if (value === null) return <span className="text-ink-3 italic">missing</span>;
  if (value === "") return <span className="text-ink-3 italic">blank</span>;
  return (
    <span className={className} title={value.length > 30 ? value.slice(0, 500) : undefined}>
      {marked(value)}
    </span>
  );
}

const hidden = /^ +| +$| {2,}|[\t\n\r\u00a0\u2000-\u200f\u2028-\u202f\u2060\ufeff\u00ad]/g;

const signs: Record<string, string> = { " ": "␣", "\t": "⇥", "\n": "↵", "\r": "␍", "\u00a0": "⍽" };

function marked(value: string): ReactNode {
  const parts: ReactNode[] = [];
  let from = 0;
  for (const found of value.matchAll(hidden)) {
    parts.push(value.slice(from, found.index));
    parts.push(
      <span key={found.index} className="text-ochre" aria-label={`${found[0].length} hidden`}>
        {Array.from(found[0], (c) => signs[c] ?? "◌").join("")}
      </span>,
    );
    from = found.index + found[0].length;
  }
  if (from === 0) return value;
  parts.push(value.slice(from));
  return parts;
}
