import type { Schemas } from "../api/client";
import { Heading } from "../design/Spread";
import { count, n } from "../design/words";

const percent = (x: number) => `${(100 * x).toFixed(x > 0.99 || x < 0.01 ? 1 : 0)}%`;

/** How right the links are, by pairs drawn at random from each range of probability and looked at by a person. */
export function SpotCheck({ linkage }: { linkage: Schemas["Linkage"] }) {
  const strata = linkage.strata.filter((s) => s.pairs > 0);
  const open = strata.filter((s) => s.asked === 0).length;
  const asked = strata.reduce((sum, s) => sum + s.asked, 0);
  return (
    <section aria-label="Spot check">
      <Heading>How right is it?</Heading>
      {open > 0 ? (
        <p className="text-ink-2">
          Pairs are drawn at random from each range. Say of them whether they are one thing: it changes nothing of the
          linkage, it measures it.{" "}
          {asked === 0 ? "None is looked at yet." : `${count(open, "range is", "ranges are")} still to be looked at.`}
        </p>
      ) : (
        <dl className="grid grid-cols-2 gap-4">
          {(
            [
              ["Precision", "of the links are one thing", linkage.precision],
              ["Recall", "of what is one thing, among the pairs compared, is linked", linkage.recall],
            ] as const
          ).map(([name, words, p]) => (
            <div key={name} className="border-t border-ink pt-1">
              <dt className="text-ink-2">{name}</dt>
              <dd className="font-serif text-[22px]">{p && percent(p.value)}</dd>
              <dd className="text-[12px] text-ink-2">
                {words}; with 95% confidence between {p && percent(p.low)} and {p && percent(p.high)}
              </dd>
            </div>
          ))}
        </dl>
      )}
      <table className="mt-3 w-full">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2 [&_th]:font-normal">
            <th className="py-1 text-left">Probability</th>
            <th className="text-right">Pairs</th>
            <th className="text-right">Drawn</th>
            <th className="text-right">Looked at</th>
            <th className="text-right">One thing</th>
          </tr>
        </thead>
        <tbody>
          {strata.map((s) => (
            <tr key={s.from} className="border-b border-rule-2">
              <td className="py-0.5">
                {percent(s.from)} to {percent(s.to)} <span className="text-ink-2">{s.linked ? "links" : ""}</span>
              </td>
              <td className="text-right">{n(s.pairs)}</td>
              <td className="text-right text-ink-2">{n(s.drawn)}</td>
              <td className="text-right">{n(s.asked)}</td>
              <td className="text-right">{s.asked > 0 ? n(s.right) : "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
