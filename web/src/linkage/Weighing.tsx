import type { Schemas } from "../api/client";
import { count, listing, n } from "../design/words";

const most = 20; // bits at the end of a bar

/** What each level of each attribute weighs. */
export function Weighing({ linkage }: { linkage: Schemas["Linkage"] }) {
  return (
    <>
      {linkage.attributes.map((a) => (
        <section key={a.name} className="mb-2.5">
          <p className="font-medium">
            {a.name}{" "}
            <span className="text-[12px] font-normal text-ink-2">
              {a.kind}
              {linkage.tables.length > 1 && `; ${listing(a.columns.map((c) => c.join(" and ")))}`}
            </span>
          </p>
          {a.levels.map((l) => (
            <div key={l.words} className="grid grid-cols-[180px_1fr_48px] items-center gap-2 text-[12px]">
              <span className="truncate pl-3 text-ink-2">{l.words}</span>
              <span className="relative h-[9px]" aria-hidden>
                <span className="absolute inset-y-0 left-1/3 w-px bg-rule" />
                <span
                  className={`absolute inset-y-0 ${l.bits < 0 ? "bg-red" : "bg-ink-2"}`}
                  style={
                    l.bits < 0
                      ? { right: `${100 * (2 / 3)}%`, width: `${(100 / 3) * Math.min(1, -l.bits / (most / 2))}%` }
                      : { left: `${100 / 3}%`, width: `${100 * (2 / 3) * Math.min(1, l.bits / most)}%` }
                  }
                />
              </span>
              <span className={`text-right ${l.bits < 0 ? "text-red" : ""}`}>
                {l.bits > 0 ? "+" : ""}
                {l.bits.toFixed(1)}
              </span>
            </div>
          ))}
        </section>
      ))}
    </>
  );
}

/** Which pairs are compared: the rules that bring them together, and what they probably miss. */
export function Blocking({ linkage }: { linkage: Schemas["Linkage"] }) {
  return (
    <>
      <ul>
        {linkage.rules.map((r) => (
          <li key={r.words} className="flex justify-between gap-3 border-b border-rule-2 py-0.5">
            <span className="min-w-0 truncate" title={r.words}>
              {r.words}
            </span>
            <span className="shrink-0 text-ink-2">
              {count(r.pairs, "pair")}, {n(r.largest)} records at most
              {r.narrowed > 0 && `; ${count(r.narrowed, "large block")} narrowed`}
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-2 text-[12px] text-ink-2">
        {n(linkage.compared)} of {n(linkage.possible)} pairs. Those that share none of these are held to be two things.{" "}
        {linkage.missed >= 0.5
          ? `By how often links were found by one rule alone, ${n(Math.round(linkage.missed))} pairs or more that are one thing were never compared.`
          : "By how often links were found by several rules, hardly any was missed."}
      </p>
    </>
  );
}
