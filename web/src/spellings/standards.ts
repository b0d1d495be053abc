import type { Schemas } from "../api/client";

/** A standard value with its variants, and how deep it stands below broader ones. */
export type StandardLine = Schemas["StandardValue"] & { variants: Schemas["Decision"][]; depth: number };

/** The standard values of a crosswalk, each below its broader one, else by alphabet. */
export function standardsOf(data: Schemas["Crosswalk"] | undefined): StandardLine[] {
  if (!data) return [];
  const variants = grouped(data.lines, (l) => l.standard);
  const known = new Set(data.standards.map((s) => s.value));
  const below = grouped(data.standards, (s) => (s.broader && known.has(s.broader) ? s.broader : ""));
  const out: StandardLine[] = [];
  const list = (broader: string, depth: number) => {
    for (const s of (below.get(broader) ?? []).toSorted((a, b) => a.value.localeCompare(b.value))) {
      out.push({ ...s, depth, variants: variants.get(s.value) ?? [] });
      list(s.value, depth + 1);
    }
  };
  list("", 0);
  return out;
}

function grouped<T>(all: T[], by: (item: T) => string): Map<string, T[]> {
  const out = new Map<string, T[]>();
  for (const item of all) {
    const of = out.get(by(item));
    if (of) of.push(item);
    else out.set(by(item), [item]);
  }
  return out;
}
