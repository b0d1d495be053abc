import type { Schemas } from "../api/client";
import { Turn } from "../design/Turn";
import { n } from "../design/words";

type Cluster = Schemas["Cluster"];

interface Props {
  clusters: Cluster[];
  total: number;
  from: number;
  shown: number;
  at: number;
  onChoose: (at: number) => void;
  onFrom: (from: number) => void;
}

const heldBy = (weakest: number) => (weakest >= 100 ? "decided" : `${weakest.toFixed(1)} bits`);

/** Clusters, those that hang together by the least first. */
export function ClusterList(p: Props) {
  return (
    <>
      <table className="mt-2 w-full table-fixed">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2 [&_th]:font-normal">
            <th className="py-1 text-left">First record</th>
            <th className="w-[70px] text-right">Records</th>
            <th className="w-[120px] text-right">Weakest tie</th>
          </tr>
        </thead>
        <tbody>
          {p.clusters.map((c, i) => (
            <tr
              key={c.number}
              className={`h-[27px] cursor-pointer border-b border-rule-2 ${i === p.at ? "bg-pencil-bg" : "hover:bg-paper-2"}`}
              aria-selected={i === p.at}
              onClick={() => p.onChoose(i)}
            >
              <td className="truncate pr-3">{c.records[0]?.values.filter(Boolean).slice(0, 3).join(", ")}</td>
              <td className="text-right">{n(c.size)}</td>
              <td className="text-right text-ink-2">{heldBy(c.weakest)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Turn from={p.from} shown={p.shown} total={p.total} onFrom={p.onFrom} />
    </>
  );
}

/** The links of a cluster: its records around a circle, each link as heavy as its weight, those that somebody decided drawn double. */
export function ClusterGraph({ cluster, chosen }: { cluster: Cluster; chosen: number[] }) {
  const size = cluster.records.length;
  const place = (i: number) => {
    const turn = (2 * Math.PI * i) / size - Math.PI / 2;
    return {
      x: 150 + (size === 2 ? 110 : 70) * Math.cos(size === 2 ? Math.PI * (1 - i) : turn),
      y: size === 2 ? 30 : 90 + 66 * Math.sin(turn),
    };
  };
  return (
    <svg
      viewBox={size === 2 ? "0 0 300 60" : "0 0 300 180"}
      className="mx-auto h-auto w-full max-w-[420px]"
      role="img"
      aria-label={`${size} records tied by ${cluster.links.length} links`}
    >
      {cluster.links.map((l) => {
        const a = place(l.left);
        const b = place(l.right);
        return (
          <g key={`${l.left} ${l.right}`}>
            <line
              x1={a.x}
              y1={a.y}
              x2={b.x}
              y2={b.y}
              className={
                l.decided ? "stroke-green" : l.weight < cluster.weakest + 0.01 ? "stroke-ochre" : "stroke-ink-3"
              }
              strokeWidth={l.decided ? 3 : Math.max(0.8, Math.min(4, l.weight / 8))}
            />
            {size <= 6 && (
              <text x={(a.x + b.x) / 2} y={(a.y + b.y) / 2 - 3} textAnchor="middle" className="fill-ink-2 text-[9px]">
                {l.decided ? "decided" : l.weight.toFixed(0)}
              </text>
            )}
          </g>
        );
      })}
      {cluster.records.map((r, i) => {
        const p = place(i);
        return (
          <g key={r.record.key + i}>
            <circle
              cx={p.x}
              cy={p.y}
              r="9"
              className={chosen.includes(i) ? "fill-pencil-bg stroke-pencil" : "fill-paper stroke-ink"}
              strokeDasharray={chosen.includes(i) ? "3 2" : undefined}
            />
            <text x={p.x} y={p.y + 3} textAnchor="middle" className="fill-ink text-[9px]">
              {i + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
