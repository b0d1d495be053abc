import { useState } from "react";
import { useSetSpec } from "../api/linkages";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { ProblemNotice } from "../design/Notice";
import { Heading } from "../design/Spread";
import { count, n } from "../design/words";

type Linkage = Schemas["Linkage"];

const step = 0.5;
const odds = (p: number) => Math.log2(p / (1 - p));
const probability = (bits: number) => 1 / (1 + 2 ** -bits);
const snapped = (bits: number) => Math.round(bits / step) * step;

/** The pairs that were compared by their weight, with the two cuts between which a person looks; what moving them would do is said at once. */
export function Cuts({ linkage, id }: { linkage: Linkage; id: number }) {
  const [cuts, setCuts] = useState<[number, number]>();
  const set = useSetSpec(id);
  const { bins, prior, spec } = linkage;
  if (bins.length === 0) return null;
  const stands: [number, number] = [
    snapped(odds(spec.possible ?? 0.1) - prior),
    snapped(odds(spec.link ?? 0.5) - prior),
  ];
  const [possible, link] = cuts ?? stands;
  const low = bins[0]!.from;
  const high = bins.at(-1)!.from + step;
  const sum = (from: number, to: number) => {
    const some = bins.filter((b) => b.from >= from && b.from < to);
    return {
      pairs: some.reduce((s, b) => s + b.pairs, 0),
      expected: some.reduce((s, b) => s + b.expected, 0),
    };
  };
  const none = sum(-Infinity, possible);
  const review = sum(possible, link);
  const links = sum(link, Infinity);
  const most = Math.max(...bins.map((b) => Math.log1p(b.pairs)));
  const place = (bits: number) => (100 * (bits - low)) / (high - low);
  const moved = possible !== stands[0] || link !== stands[1];
  const rate = (part: number, whole: number) =>
    whole === 0 ? "none" : part / whole < 0.0005 ? "fewer than 1 in 2,000" : `${((100 * part) / whole).toFixed(1)}%`;
  return (
    <section aria-label="Cuts">
      <Heading>Where a link begins, and where a person looks</Heading>
      <svg viewBox="0 0 100 40" preserveAspectRatio="none" className="h-[110px] w-full border-b border-ink" role="img">
        <title>Pairs by weight, on a logarithmic scale</title>
        {bins.map((b) => {
          const height = b.pairs === 0 ? 0 : Math.max(0.8, (39 * Math.log1p(b.pairs)) / most);
          const tone = b.from >= link ? "fill-green" : b.from >= possible ? "fill-ochre" : "fill-ink-3";
          return (
            <rect
              key={b.from}
              x={place(b.from)}
              y={40 - height}
              width={(100 * step) / (high - low) - 0.08}
              height={height}
              className={tone}
            >
              <title>{`${b.from} bits: ${count(b.pairs, "pair")}`}</title>
            </rect>
          );
        })}
        {[possible, link].map((bits, i) => (
          <line
            key={i}
            x1={place(bits)}
            x2={place(bits)}
            y1="0"
            y2="40"
            className="stroke-red"
            strokeWidth="1.5"
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
      <p className="flex justify-between text-[11.5px] text-ink-2">
        <span>{low} bits</span>
        <span>{high} bits; bars by the logarithm of the pairs</span>
      </p>
      {(["Looked at from", "A link from"] as const).map((label, i) => (
        <label key={label} className="mt-1 grid grid-cols-2 items-center">
          <span>{label}</span>
          <input
            type="range"
            aria-label={label}
            className="order-last col-span-2 w-full accent-(--red)"
            min={low}
            max={high}
            step={step}
            value={i === 0 ? possible : link}
            onChange={(e) => {
              const to = Number(e.target.value);
              setCuts(i === 0 ? [Math.min(to, link), link] : [Math.min(possible, to), to]);
            }}
          />
          <span className="text-right text-ink-2">
            {(i === 0 ? possible : link).toFixed(1)} bits,{" "}
            {(100 * probability((i === 0 ? possible : link) + prior)).toFixed(1)}%
          </span>
        </label>
      ))}
      <table className="mt-2 w-full">
        <tbody>
          <tr className="border-b border-rule-2">
            <td className="py-0.5 text-green">Links</td>
            <td className="text-right">{n(links.pairs)}</td>
            <td className="pl-4 text-ink-2">expected wrong: {rate(links.pairs - links.expected, links.pairs)}</td>
          </tr>
          <tr className="border-b border-rule-2">
            <td className="py-0.5 text-ochre">To look at</td>
            <td className="text-right">{n(review.pairs)}</td>
            <td className="pl-4 text-ink-2">expected to be one thing: {n(Math.round(review.expected))}</td>
          </tr>
          <tr className="border-b border-rule-2">
            <td className="py-0.5">Not linked</td>
            <td className="text-right">{n(none.pairs)}</td>
            <td className="pl-4 text-ink-2">
              expected missed: {n(Math.round(none.expected))} here
              {linkage.missed >= 0.5 && `, and ${n(Math.round(linkage.missed))} or more never compared`}
            </td>
          </tr>
        </tbody>
      </table>
      {set.error && <ProblemNotice error={set.error} />}
      {moved && (
        <p className="mt-2 flex gap-2">
          <Button
            disabled={set.isPending}
            onClick={() =>
              set.mutate(
                { ...spec, possible: probability(possible + prior), link: probability(link + prior) },
                { onSuccess: () => setCuts(undefined) },
              )
            }
          >
            Use these cuts
          </Button>
          <Button kind="quiet" onClick={() => setCuts(undefined)}>
            Back to where they stand
          </Button>
        </p>
      )}
      <p className="mt-2 text-[12px] text-ink-2">
        As compared, before decisions and clusters. Each bit doubles the odds of being one thing.
      </p>
    </section>
  );
}
