import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { Value } from "../design/Value";
import { n } from "../design/words";
import { differing, type Stretch } from "./letters";

interface Props {
  pair: Schemas["LinkedPair"];
  onSay: (same: boolean | undefined) => void;
  /** In a spot check: what is said changes nothing of the linkage. */
  spot: boolean;
  note: string;
  onNote: (note: string) => void;
  busy: boolean;
}

/** A value with the letters marked that the other record does not have. */
function Marked({ parts, value }: { parts: Stretch[] | undefined; value: string }) {
  if (!parts) return <Value value={value} />;
  const letters = (of: Stretch[]) => of.reduce((sum, p) => sum + p.text.length, 0);
  if (2 * letters(parts.filter((p) => p.differs)) > letters(parts))
    return (
      <span className="text-red">
        <Value value={value} />
      </span>
    );
  return (
    <span>
      {parts.map((p, i) =>
        p.differs ? (
          <mark key={i} className="rounded-[2px] bg-red-bg text-red underline decoration-dotted">
            {p.text}
          </mark>
        ) : (
          <span key={i}>{p.text}</span>
        ),
      )}
    </span>
  );
}

/** Two records side by side: what each attribute finds, in bits that add up. */
export function PairPage({ pair, onSay, spot, note, onNote, busy }: Props) {
  const standing = spot
    ? pair.spotted === undefined
      ? "Drawn at random. What you say measures the linkage, and changes nothing of it."
      : `Found to be ${pair.spotted ? "one thing" : "two things"}.`
    : pair.decided
      ? `${pair.by || "Somebody"} decided that they are the same.`
      : `Together ${pair.weight.toFixed(1)} bits: by what is known, ${(100 * pair.probability).toFixed(0)} of 100 such pairs are one thing.`;
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <Button disabled={busy} onClick={() => onSay(true)}>
          The same
        </Button>
        <Button disabled={busy} onClick={() => onSay(false)}>
          Different
        </Button>
        {!spot && (
          <>
            <Button kind="small" disabled={busy} onClick={() => onSay(undefined)}>
              Leave undecided
            </Button>
            <Input
              aria-label="Note"
              className="w-44"
              placeholder="Note"
              value={note}
              onChange={(e) => onNote(e.target.value)}
            />
          </>
        )}
      </div>
      <p className="mb-3 text-ink-2">
        {standing}{" "}
        {!spot && (pair.joins ?? 2) > 2 && `As one thing they make a cluster of ${n(pair.joins ?? 2)} records.`}
        {pair.note && (
          <span className="text-ochre">
            {" "}
            {pair.by || "Note"}: {pair.note}
          </span>
        )}
      </p>
      <table className="w-full table-fixed">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            <th className="w-[17%] py-1 text-left font-normal" />
            <th className="truncate pr-2 text-left font-normal">{pair.left.name}</th>
            <th className="truncate pr-2 text-left font-normal">{pair.right.name}</th>
            <th className="w-[24%] text-left font-normal">Finding</th>
            <th className="w-[52px] text-right font-normal">Bits</th>
          </tr>
        </thead>
        <tbody>
          {pair.findings.map((f) => {
            const left = f.left.join(", ");
            const right = f.right.join(", ");
            const [x, y] = left && right && left !== right ? differing(left, right) : [undefined, undefined];
            return (
              <tr key={f.attribute} className="border-b border-rule-2 align-baseline">
                <td className="truncate py-1 pr-2 text-ink-2">{f.attribute}</td>
                <td className="py-1 pr-2 break-words">
                  <Marked parts={x} value={left} />
                </td>
                <td className="py-1 pr-2 break-words">
                  <Marked parts={y} value={right} />
                </td>
                <td className="py-1 pr-2 text-ink-2">{f.missing ? "one is blank, says nothing" : f.words}</td>
                <td className={`py-1 text-right ${!f.missing && f.bits < 0 ? "text-red" : ""}`}>
                  {f.missing ? "–" : `${f.bits > 0 ? "+" : ""}${f.bits.toFixed(1)}`}
                </td>
              </tr>
            );
          })}
          <tr>
            <td colSpan={4} className="py-1 text-right text-ink-2">
              Weight
            </td>
            <td className="py-1 text-right font-serif font-semibold">
              <span className="ruled-off inline-block">{pair.weight.toFixed(1)}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p className="mt-3 text-[12px] text-ink-2">
        Each bit doubles or halves the odds. What agrees seldom by chance weighs most; what is blank says nothing.
      </p>
    </>
  );
}
