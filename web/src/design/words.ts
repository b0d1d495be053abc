const grouped = new Intl.NumberFormat("en-GB");

/** 6214 as 6,214. */
export const n = (value: number) => grouped.format(value);

/** A decimal figure of any length with its thousands grouped: 4533113.5 as 4,533,113.5. */
export const figure = (text: string) => text.replace(/^-?\d+/, (whole) => whole.replace(/\B(?=(\d{3})+$)/g, ","));

/** A count with its noun: 1 row, 6,214 rows. */
export const count = (value: number, one: string, many = one + "s") => `${n(value)} ${value === 1 ? one : many}`;

/** A share as a percentage that never says 100% or 0% of what is only nearly so. */
export function share(part: number, whole: number): string {
  if (whole === 0) return "–";
  const percent = (100 * part) / whole;
  if (percent > 99.9 && part < whole) return "99.9%";
  if (percent < 0.1 && part > 0) return "0.1%";
  return `${percent.toFixed(percent === 100 || percent === 0 ? 0 : 1)}%`;
}

/** a, b and c */
export function listing(items: string[]): string {
  return items.length < 2 ? items.join("") : `${items.slice(0, -1).join(", ")} and ${items.at(-1)}`;
}

export function bytes(size: number): string {
  if (size < 1000) return `${size} bytes`;
  if (size < 1e6) return `${(size / 1e3).toFixed(0)} kB`;
  return size < 1e9 ? `${(size / 1e6).toFixed(1)} MB` : `${(size / 1e9).toFixed(2)} GB`;
}

const moment = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
  hour: "2-digit",
  minute: "2-digit",
});

export const when = (iso: string) => moment.format(new Date(iso));

/** A phrase with a capital at its beginning. */
export const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
