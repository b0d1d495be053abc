import type { Schemas } from "../api/client";
import { Turn } from "../design/Turn";
import { Value } from "../design/Value";

type Pair = Schemas["LinkedPair"];

interface Props {
  pairs: Pair[];
  total: number;
  from: number;
  shown: number;
  at: number;
  onChoose: (at: number) => void;
  onFrom: (from: number) => void;
}

/** Which attribute a pair is called by in the list: the one whose words differ most from pair to pair. */
function calledBy(pairs: Pair[]): number {
  const different = pairs[0]?.findings.map((_, i) => {
    const values = pairs.map((p) => p.findings[i]?.left.join(" ") ?? "").filter((v) => /\p{L}{3}/u.test(v));
    return new Set(values).size;
  });
  return different ? different.indexOf(Math.max(...different)) : 0;
}

/** Pairs, those nearest the cut first, a page at a time. */
export function PairList(p: Props) {
  const by = calledBy(p.pairs);
  return (
    <>
      <table className="mt-2 w-full table-fixed">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            <th className="py-1 text-left font-normal">{p.pairs[0]?.findings[by]?.attribute}</th>
            <th className="text-left font-normal">of the other record</th>
            <th className="w-[64px] text-right font-normal">Bits</th>
            <th className="w-[84px] text-right font-normal">Probability</th>
          </tr>
        </thead>
        <tbody>
          {p.pairs.map((pair, i) => (
            <tr
              key={`${pair.left.table} ${pair.left.row} ${pair.right.table} ${pair.right.row}`}
              className={`h-[27px] cursor-pointer border-b border-rule-2 ${i === p.at ? "bg-pencil-bg" : "hover:bg-paper-2"}`}
              aria-selected={i === p.at}
              onClick={() => p.onChoose(i)}
            >
              <td className="truncate pr-3">
                <Value value={pair.findings[by]?.left.join(", ") ?? ""} />
              </td>
              <td className="truncate pr-3">
                <Value value={pair.findings[by]?.right.join(", ") ?? ""} />
              </td>
              <td className="text-right">{pair.weight.toFixed(1)}</td>
              <td className="text-right">
                {pair.spotted !== undefined
                  ? pair.spotted
                    ? "one thing"
                    : "two things"
                  : pair.decided
                    ? "decided"
                    : `${(100 * pair.probability).toFixed(0)}%`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Turn from={p.from} shown={p.shown} total={p.total} onFrom={p.onFrom} />
    </>
  );
}
