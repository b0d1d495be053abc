import { useState, type PointerEvent } from "react";
import type { Row } from "../api/client";
import { Value } from "../design/Value";
import { VirtualList, windowSize } from "../design/VirtualList";
import { n } from "../design/words";

export interface Shown {
  /** The column's place among those of the rows. */
  at: number;
  name: string;
  width: number;
}

export const usualWidth = 150;

/** How many columns the grid lays out. */
const shownColumns = 200;

/** All columns in their order, none widened. */
export const plainColumns = (names: string[]): Shown[] => names.map((name, at) => ({ at, name, width: usualWidth }));

interface Props {
  name: unknown[];
  columns: Shown[];
  total: number;
  page: (from: number, count: number) => Promise<Row[]>;
  /** The row to scroll to and mark. */
  at?: number;
  /** The columns sorted by, - before those that are turned round. */
  sort?: string[];
  onSort?: (column: string, more: boolean) => void;
  onWiden?: (column: string, width: number) => void;
  /** Rows that are marked, first and last. */
  marked?: [number, number];
  onMark?: (row: number, more: boolean) => void;
  /** A cell that is to be changed. */
  onEdit?: (row: Row, column: Shown) => void;
}

/** Rows with their cells, virtual in height. */
export function RowGrid({ name, columns, total, page, at, sort = [], onSort, onWiden, marked, onMark, onEdit }: Props) {
  const [widened, setWidened] = useState<{ name: string; width: number } | null>(null);
  const shown = columns
    .slice(0, shownColumns)
    .map((c) => (widened?.name === c.name ? { ...c, width: widened.width } : c));
  const template = `72px ${shown.map((c) => (c.width === usualWidth ? `minmax(${c.width}px, 1fr)` : `${c.width}px`)).join(" ")} 190px`;
  const minWidth = 72 + 190 + shown.reduce((sum, c) => sum + c.width, 0);
  const first =
    at === undefined || total <= windowSize ? 0 : Math.min(Math.floor(at / windowSize) * windowSize, total - 1);
  return (
    <>
      <VirtualList
        name={name}
        total={total}
        page={page}
        label="Rows"
        first={first}
        selected={at}
        scrollTo={at}
        minWidth={minWidth}
        header={
          <div
            role="row"
            className="sticky top-0 z-10 grid border-b border-ink bg-paper py-1 text-[12px] text-ink-2"
            style={{ gridTemplateColumns: template }}
          >
            <span role="columnheader" className="pr-3 text-right">
              Row
            </span>
            {shown.map((c) => (
              <Head
                key={c.name}
                column={c}
                place={sort.findIndex((s) => s === c.name || s === `-${c.name}`)}
                descending={sort.includes(`-${c.name}`)}
                several={sort.length > 1}
                onSort={onSort}
                onWiden={
                  onWiden &&
                  ((width, done) => {
                    setWidened(done ? null : { name: c.name, width });
                    if (done) onWiden(c.name, width);
                  })
                }
              />
            ))}
            <span role="columnheader">Came from</span>
          </div>
        }
        line={(row, i) => (
          <div
            className={`grid h-full items-center ${marked && marked[0] <= i && i <= marked[1] ? "bg-pencil-bg" : ""}`}
            style={{ gridTemplateColumns: template }}
            onClick={onMark && ((e) => onMark(i, e.shiftKey))}
          >
            <span role="gridcell" className="pr-3 text-right text-ink-3">
              {n(i + 1)}
            </span>
            {shown.map((c) => (
              <span
                role="gridcell"
                key={c.at}
                className="truncate pr-3"
                onDoubleClick={onEdit && !row.cut?.includes(c.at) ? () => onEdit(row, c) : undefined}
              >
                <Value value={row.cells[c.at] ?? null} />
                {row.cut?.includes(c.at) && <span className="text-ochre">… cut</span>}
              </span>
            ))}
            <span role="gridcell" className="truncate text-[12px] text-ink-3" title={row.origin}>
              {row.origin}
            </span>
          </div>
        )}
      />
      {columns.length > shownColumns && (
        <p className="pt-1 text-[12px] text-ink-2">
          The first {n(shownColumns)} of {n(columns.length)} columns; the register has them all.
        </p>
      )}
    </>
  );
}

interface HeadProps {
  column: Shown;
  place: number;
  descending: boolean;
  several: boolean;
  onSort?: (column: string, more: boolean) => void;
  onWiden?: (width: number, done: boolean) => void;
}

/** A column's head: a click sorts by it, its right edge is dragged to widen it. */
function Head({ column, place, descending, several, onSort, onWiden }: HeadProps) {
  const [from, setFrom] = useState<number | null>(null);
  const to = (e: PointerEvent) => Math.min(900, Math.max(60, column.width + e.clientX - (from ?? e.clientX)));
  const sorted = place < 0 ? undefined : descending ? "descending" : "ascending";
  return (
    <span role="columnheader" aria-sort={sorted} className="relative flex min-w-0 pr-3 font-semibold text-ink">
      {onSort ? (
        <button
          type="button"
          className="truncate text-left hover:underline"
          title={`${column.name}: click to sort, with Shift to sort by it too`}
          onClick={(e) => onSort(column.name, e.shiftKey)}
        >
          {column.name}
        </button>
      ) : (
        <span className="truncate" title={column.name}>
          {column.name}
        </span>
      )}
      {place >= 0 && (
        <span className="pl-1 font-normal text-pencil">
          {descending ? "↓" : "↑"}
          {several && place + 1}
        </span>
      )}
      {onWiden && (
        <span
          className="absolute inset-y-0 right-0 w-2 cursor-col-resize touch-none border-r border-transparent hover:border-pencil"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            setFrom(e.clientX);
          }}
          onPointerMove={(e) => {
            if (from === null) return;
            onWiden(to(e), false);
            setFrom(e.clientX);
          }}
          onPointerUp={(e) => {
            if (from !== null) onWiden(to(e), true);
            setFrom(null);
          }}
        />
      )}
    </span>
  );
}
