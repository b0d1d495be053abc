import { useState } from "react";
import { plainColumns, usualWidth, type Shown } from "./RowGrid";

export interface LaidOut {
  name: string;
  shown: boolean;
  width: number;
}

/** Which columns of a table's rows are shown, in which order and how wide; kept in this browser. */
export function useLayout(table: number, columns: string[]) {
  const key = `layout ${table}`;
  const [kept, setKept] = useState<LaidOut[]>(() => JSON.parse(localStorage.getItem(key) ?? "[]") as LaidOut[]);
  // Columns that came since are at the end; those that went are left out.
  const all = [
    ...kept.filter((c) => columns.includes(c.name)),
    ...columns.filter((c) => !kept.some((k) => k.name === c)).map((name) => ({ name, shown: true, width: usualWidth })),
  ];
  const set = (next: LaidOut[]) => {
    localStorage.setItem(key, JSON.stringify(next));
    setKept(next);
  };
  const reset = () => {
    localStorage.removeItem(key);
    setKept([]);
  };
  const places = new Map(plainColumns(columns).map((c) => [c.name, c.at]));
  const shown: Shown[] = all
    .filter((c) => c.shown)
    .map((c) => ({ name: c.name, width: c.width, at: places.get(c.name)! }));
  return { all, shown, set, reset, changed: kept.length > 0 };
}
