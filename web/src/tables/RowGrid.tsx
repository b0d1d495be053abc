import type { Row } from "../api/client";
import { Value } from "../design/Value";
import { VirtualList, windowSize } from "../design/VirtualList";
import { n } from "../design/words";

interface Props {
  name: unknown[];
  columns: string[];
  total: number;
  page: (from: number, count: number) => Promise<Row[]>;
  /** The row to scroll to and mark. */
  at?: number;
}

const width = 150;

/** How many columns the grid lays out. */
const shownColumns = 200;

/** Rows with all their cells, virtual in height. */
export function RowGrid({ name, columns, total, page, at }: Props) {
  const shown = columns.slice(0, shownColumns);
  const template = `72px repeat(${shown.length}, minmax(${width}px, 1fr)) 190px`;
  const minWidth = 72 + 190 + width * shown.length;
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
              <span role="columnheader" key={c} className="truncate pr-3 font-semibold text-ink" title={c}>
                {c}
              </span>
            ))}
            <span role="columnheader">Came from</span>
          </div>
        }
        line={(row, i) => (
          <div className="grid h-full items-center" style={{ gridTemplateColumns: template }}>
            <span role="gridcell" className="pr-3 text-right text-ink-3">
              {n(i + 1)}
            </span>
            {row.cells.slice(0, shownColumns).map((cell, c) => (
              <span role="gridcell" key={c} className="truncate pr-3">
                <Value value={cell} />
                {row.cut?.includes(c) && <span className="text-ochre">… cut</span>}
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
