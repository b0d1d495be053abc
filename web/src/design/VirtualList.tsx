import { useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, type ReactNode } from "react";

const pageSize = 100;
const lineHeight = 27;

/** A browser cannot lay out a list of any height; longer ones are shown this many lines at a time. */
export const windowSize = 1_000_000;

interface Props<T> {
  /** Names what is listed; pages of another name are other pages. */
  name: unknown[];
  total: number;
  page: (from: number, count: number) => Promise<T[]>;
  line: (item: T, index: number) => ReactNode;
  label: string;
  header?: ReactNode;
  selected?: number;
  /** Where the list begins, for lists longer than a window. */
  first?: number;
  scrollTo?: number;
  minWidth?: number;
}

/** A list of any length: only the lines in sight are in the page, and only the pages around them are fetched. */
export function VirtualList<T>({
  name,
  total,
  page,
  line,
  label,
  header,
  selected,
  first = 0,
  scrollTo,
  minWidth,
}: Props<T>) {
  const scroller = useRef<HTMLDivElement>(null);
  const shown = Math.min(total - first, windowSize);
  const virtual = useVirtualizer({
    count: shown,
    getScrollElement: () => scroller.current,
    estimateSize: () => lineHeight,
    overscan: 12,
    // The header stands above the lines and stays in sight over them.
    scrollMargin: header ? lineHeight : 0,
    scrollPaddingStart: header ? 2 * lineHeight : 0,
    scrollPaddingEnd: lineHeight,
  });
  const lines = virtual.getVirtualItems();
  const from = Math.floor((first + (lines[0]?.index ?? 0)) / pageSize);
  const to = Math.floor((first + (lines.at(-1)?.index ?? 0)) / pageSize);
  const pages = useQueries({
    queries: Array.from({ length: total > 0 ? to - from + 1 : 0 }, (_, i) => ({
      queryKey: [...name, "page", from + i],
      staleTime: Infinity,
      gcTime: 60_000,
      queryFn: () => page((from + i) * pageSize, pageSize),
    })),
  });
  useEffect(() => {
    if (scrollTo !== undefined && scrollTo >= 0) virtual.scrollToIndex(scrollTo - first, { align: "auto" });
  }, [scrollTo, first, virtual]);
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-auto" role="grid" aria-label={label} aria-rowcount={total}>
      <div style={{ minWidth }}>
        {header}
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {lines.map((v) => {
            const index = first + v.index;
            const item = pages[Math.floor(index / pageSize) - from]?.data?.[index % pageSize];
            return (
              <div
                key={v.key}
                role="row"
                aria-rowindex={index + 1}
                aria-selected={selected === index}
                className={`absolute inset-x-0 top-0 border-b border-rule-2 ${selected === index ? "bg-pencil-bg" : ""}`}
                style={{ height: lineHeight, transform: `translateY(${v.start - (header ? lineHeight : 0)}px)` }}
              >
                {item === undefined ? null : line(item, index)}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
