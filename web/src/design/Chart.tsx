interface Series {
  name: string;
  values: (number | null)[];
}

interface Props {
  label: string;
  categories: string[];
  series: Series[];
}

const width = 960;
const height = 190;
const foot = 72;

/** Bars for the first figure, lines for the others. A line whose range is far from that of the bars has a scale of its own. */
export function Chart({ label, categories, series }: Props) {
  if (categories.length === 0 || series.length === 0) return null;
  const [bars, ...lines] = series as [Series, ...Series[]];
  const step = width / categories.length;
  const middle = (i: number) => step * (i + 0.5);
  const main = scaleOf([bars]);
  // The first line that is far from the bars has the axis on the right; one far from both has its range in the legend.
  const apart = lines.filter((l) => differs(main, scaleOf([l])));
  const other = apart[0] ? scaleOf([apart[0]]) : null;
  const scales = new Map(
    lines.map((l) => {
      const own = scaleOf([l]);
      return [l, !differs(main, own) ? main : other && !differs(other, own) ? scaleOf([apart[0]!, l]) : own];
    }),
  );
  const scaleFor = (s: Series) => scales.get(s) ?? main;
  const y = (scale: Scale, v: number) => height - ((v - scale.from) / (scale.to - scale.from)) * (height - 6);
  const slanted = step < 74;
  const letters = slanted ? 15 : Math.floor(step / 6.2);
  return (
    <figure aria-label={label} className="mt-2">
      <p className="mb-1 flex flex-wrap gap-x-4 text-[12px]">
        {series.map((s, i) => (
          <span key={i} className="flex items-center gap-1.5">
            {i === 0 ? (
              <span className="size-[10px] bg-rule" />
            ) : (
              <svg width="22" height="8" aria-hidden>
                <path d="M0 4H22" className={strokes[i - 1]} strokeWidth="2" strokeDasharray={dashes[i - 1]} />
              </svg>
            )}
            {s.name}
            {i > 0 && apart.includes(s) && (
              <i className="text-ink-2">
                {s === apart[0] ? "scale on the right" : `from 0 to ${short(scaleFor(s).to)}`}
              </i>
            )}
          </span>
        ))}
      </p>
      <div className="flex gap-2">
        <Axis scale={main} />
        <svg
          viewBox={`0 0 ${width} ${height + foot}`}
          className="min-w-0 flex-1 overflow-visible"
          role="img"
          preserveAspectRatio="none"
          style={{ height: height + foot }}
        >
          <title>{label}</title>
          <path d={`M0 ${y(main, Math.max(main.from, 0))}H${width}`} className="stroke-ink" strokeWidth="1" />
          {bars.values.map((v, i) =>
            v === null ? null : (
              <rect
                key={i}
                x={step * i + step * 0.12}
                width={step * 0.76}
                y={Math.min(y(main, v), y(main, 0))}
                height={Math.max(Math.abs(y(main, v) - y(main, 0)), 0.5)}
                className="fill-rule"
              >
                <title>{`${categories[i]}: ${short(v)}`}</title>
              </rect>
            ),
          )}
          {lines.map((l, at) => (
            <g key={at}>
              <path
                d={path(l.values, middle, (v) => y(scaleFor(l), v))}
                className={`fill-none ${strokes[at]}`}
                strokeWidth="2"
                strokeDasharray={dashes[at]}
                vectorEffect="non-scaling-stroke"
              />
              {l.values.map((v, i) =>
                v === null ? null : (
                  <circle key={i} cx={middle(i)} cy={y(scaleFor(l), v)} r="3" className={fills[at]}>
                    <title>{`${categories[i]}: ${l.name} ${short(v)}`}</title>
                  </circle>
                ),
              )}
            </g>
          ))}
          {categories.map((c, i) => (
            <text
              key={i}
              x={middle(i)}
              y={height + 14}
              textAnchor={slanted ? "end" : "middle"}
              transform={slanted ? `rotate(-35 ${middle(i) + 4} ${height + 12})` : undefined}
              className="fill-ink-2 text-[11px]"
            >
              {c.length > letters ? `${c.slice(0, letters - 1)}…` : c || "(blank)"}
            </text>
          ))}
        </svg>
        {other && <Axis scale={other} right />}
      </div>
    </figure>
  );
}

const strokes = ["stroke-pencil", "stroke-red", "stroke-green"];
const fills = ["fill-pencil", "fill-red", "fill-green"];
const dashes = [undefined, "6 3", "2 3"];

interface Scale {
  from: number;
  to: number;
}

function scaleOf(series: Series[]): Scale {
  const all = series.flatMap((s) => s.values.filter((v) => v !== null));
  const from = Math.min(0, ...all);
  const to = Math.max(0, ...all);
  return { from, to: to > from ? to : from + 1 };
}

const differs = (a: Scale, b: Scale) => {
  const ratio = (b.to - b.from) / (a.to - a.from);
  return ratio > 4 || ratio < 0.25;
};

function path(values: (number | null)[], x: (i: number) => number, y: (v: number) => number): string {
  let pen = "M";
  return values
    .map((v, i) => {
      if (v === null) {
        pen = "M";
        return "";
      }
      const at = `${pen}${x(i)} ${y(v)}`;
      pen = "L";
      return at;
    })
    .join("");
}

function Axis({ scale, right }: { scale: Scale; right?: boolean }) {
  return (
    <div
      className={`relative w-14 shrink-0 text-[11.5px] text-ink-2 ${right ? "text-left" : "text-right"}`}
      style={{ height }}
      aria-hidden
    >
      <span className="absolute top-0 right-0 left-0">{short(scale.to)}</span>
      <span className="absolute right-0 bottom-0 left-0">{short(scale.from)}</span>
    </div>
  );
}

const short = (v: number) =>
  new Intl.NumberFormat("en-GB", { notation: "compact", maximumSignificantDigits: 4 }).format(v);
