import { useCallback, useEffect, useEffectEvent, useState } from "react";
import type { Row } from "../api/client";
import { n } from "../design/words";
import type { Shown } from "./RowGrid";

/** How many rows are copied at most; for more a file is published. */
const most = 10_000;

/** Marks rows and copies them, with the names of the columns, as text in columns split by tabs. */
export function useCopy(columns: Shown[], page: (from: number, count: number) => Promise<Row[]>) {
  const [marked, setMarked] = useState<[number, number]>();
  const [from, setFrom] = useState(0);
  const [said, setSaid] = useState<string>();
  const mark = (row: number, more: boolean) => {
    setSaid(undefined);
    setMarked(more && marked ? [Math.min(from, row), Math.max(from, row)] : [row, row]);
    if (!more || !marked) setFrom(row);
  };
  const copy = useEffectEvent(async (e: ClipboardEvent) => {
    if (!marked || (e.target instanceof HTMLElement && e.target.closest("input, textarea"))) return;
    if (window.getSelection()?.toString()) return;
    e.preventDefault();
    const to = Math.min(marked[1], marked[0] + most - 1);
    const lines = [columns.map((c) => cell(c.name)).join("\t")];
    for (let at = marked[0]; at <= to; at += 500) {
      for (const row of await page(at, Math.min(500, to - at + 1))) {
        lines.push(columns.map((c) => cell(row.cells[c.at] ?? "")).join("\t"));
      }
    }
    await navigator.clipboard.writeText(lines.join("\n"));
    const done = to - marked[0] + 1;
    setSaid(
      marked[1] > to ? `copied the first ${n(done)}; publish for more` : `copied ${n(done)} row${done > 1 ? "s" : ""}`,
    );
  });
  useEffect(() => {
    const listen = (e: ClipboardEvent) => void copy(e);
    document.addEventListener("copy", listen);
    return () => document.removeEventListener("copy", listen);
  }, []);
  const clear = useCallback(() => {
    setMarked(undefined);
    setSaid(undefined);
  }, []);
  return { marked, mark, clear, said };
}

/** A cell that holds a tab or a line end stands between quotation marks. */
const cell = (v: string) => (/[\t\n\r"]/.test(v) ? `"${v.replaceAll('"', '""')}"` : v);
