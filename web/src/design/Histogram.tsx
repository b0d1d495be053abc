import { n } from "./words";

interface Props {
  rows: number[];
  /** Where the axis begins and ends, in words, and some places between. */
  ticks: string[];
  label: string;
}

/** Rows in steps, as bars. Steps that hold few rows beside the largest are still visible. */
export function Histogram({ rows, ticks, label }: Props) {
  const most = Math.max(...rows, 1);
  const width = 100 / rows.length;
  return (
    <figure aria-label={label}>
      <svg viewBox="0 0 100 40" preserveAspectRatio="none" className="h-[118px] w-full border-b border-ink" role="img">
        <title>{label}</title>
        {rows.map((count, i) => {
          const height = count === 0 ? 0 : Math.max(0.7, (40 * count) / most);
          return (
            <rect key={i} x={i * width} y={40 - height} width={width * 0.9} height={height} className="fill-ink-2">
              <title>{n(count)}</title>
            </rect>
          );
        })}
      </svg>
      <figcaption className="mt-1 flex justify-between text-[11.5px] text-ink-2">
        {ticks.map((t, i) => (
          <span key={i}>{t}</span>
        ))}
      </figcaption>
    </figure>
  );
}
