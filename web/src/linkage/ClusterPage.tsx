import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { Heading } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { ClusterGraph } from "./Clusters";

/** Records that were taken up to be put into another cluster. */
export interface Held {
  keys: string[];
  from: string[];
  words: string;
}

interface Props {
  cluster: Schemas["Cluster"];
  linkage: Schemas["Linkage"];
  held: Held | undefined;
  onHold: (held: Held | undefined) => void;
  onDecide: (pairs: Schemas["PairDecision"][], done?: () => void) => void;
  busy: boolean;
}

/** One cluster: what ties its records, side by side with what they say; records are taken out of it, or put into another. */
export function ClusterPage({ cluster, linkage, held, onHold, onDecide, busy }: Props) {
  const [chosen, setChosen] = useState<number[]>([]);
  const [note, setNote] = useState("");
  const records = cluster.records;
  const keys = records.map((r) => r.record.key);
  const out = chosen.map((i) => keys[i]!);
  const stay = keys.filter((_, i) => !chosen.includes(i));
  const apart = (a: string[], b: string[]) =>
    a.flatMap((x) => b.filter((y) => y !== x).map((y) => ({ a: x, b: y, same: false, note })));
  const different = linkage.attributes.map((_, i) => new Set(records.map((r) => r.values[i])).size > 1);
  return (
    <>
      {held && !held.keys.some((k) => keys.includes(k)) && (
        <p className="mb-3 flex flex-wrap items-center gap-2 border-l-2 border-pencil bg-pencil-bg px-3 py-2">
          <span className="text-pencil">{held.words} is to be moved.</span>
          <Button
            kind="small"
            disabled={busy}
            onClick={() =>
              onDecide(
                [...apart(held.keys, held.from), ...held.keys.map((k) => ({ a: k, b: keys[0]!, same: true, note }))],
                () => onHold(undefined),
              )
            }
          >
            Move it here
          </Button>
          <Button kind="quiet" onClick={() => onHold(undefined)}>
            Leave it where it is
          </Button>
        </p>
      )}
      <ClusterGraph cluster={cluster} chosen={chosen} />
      <Heading>Its records</Heading>
      <div className="overflow-x-auto">
        <table className="w-full">
          <thead>
            <tr className="border-b border-ink text-left text-[12px] text-ink-2 [&_th]:pr-3 [&_th]:font-normal">
              <th className="py-1">Record</th>
              {linkage.attributes.map((a) => (
                <th key={a.name}>{a.name}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {records.map((r, i) => (
              <tr key={r.record.key + i} className="border-b border-rule-2 align-baseline [&_td]:pr-3">
                <td className="py-0.5 whitespace-nowrap">
                  <label className="inline-flex items-center gap-1.5" title={r.record.name}>
                    <input
                      type="checkbox"
                      className="size-[14px] accent-(--green)"
                      aria-label={`Record ${i + 1}`}
                      checked={chosen.includes(i)}
                      onChange={(e) => setChosen(e.target.checked ? [...chosen, i] : chosen.filter((x) => x !== i))}
                    />
                    {i + 1}
                    <span className="inline-block max-w-[90px] truncate align-bottom text-ink-2">
                      {r.record.name}, {n(r.record.row + 1)}
                    </span>
                  </label>
                </td>
                {r.values.map((v, a) => (
                  <td key={a} className={different[a] ? "text-red" : ""}>
                    <Value value={v} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {cluster.size > records.length && (
        <p className="mt-1 text-ink-2">
          The first {n(records.length)} of {n(cluster.size)}.
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Input
          aria-label="Why"
          placeholder="Why (kept with the decision)"
          className="w-52"
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />
        <Button
          disabled={busy || out.length === 0 || stay.length === 0 || out.length * stay.length > 1000}
          onClick={() => onDecide(apart(out, stay), () => setChosen([]))}
        >
          {out.length === 0 ? "Take out the ticked records" : `Take out ${count(out.length, "record")}`}
        </Button>
        <Button
          disabled={out.length === 0 || stay.length === 0}
          onClick={() =>
            onHold({
              keys: out,
              from: stay,
              words: chosen.length === 1 ? `Record ${chosen[0]! + 1}` : count(chosen.length, "record"),
            })
          }
        >
          Move to another
        </Button>
      </div>
    </>
  );
}
