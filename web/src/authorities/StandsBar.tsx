import type { Schemas } from "../api/client";
import { n, share } from "../design/words";

const tones: Record<string, string> = { identified: "bg-green", undecided: "bg-ochre", "not listed": "bg-ink-3" };

/** Where a column stands: one bar over the rows and one over the distinct values, each with its figures in words. */
export function StandsBar({ asking }: { asking: Schemas["Asking"] }) {
  const values = asking.counts.reduce((sum, c) => sum + c.values, 0);
  return (
    <dl className="grid grid-cols-[52px_1fr] items-center gap-x-2 gap-y-1 text-[12px]">
      {(["rows", "values"] as const).map((of) => {
        const whole = of === "rows" ? asking.rows : values + asking.unasked;
        return (
          <div key={of} className="contents">
            <dt className="text-ink-2">{of === "rows" ? "Rows" : "Values"}</dt>
            <dd>
              <span className="flex h-2.5 overflow-hidden rounded-[2px] bg-rule-2" aria-hidden>
                {asking.counts.map((c) => (
                  <span
                    key={c.state}
                    className={tones[c.state]}
                    style={{ width: `${(100 * c[of]) / Math.max(whole, 1)}%` }}
                  />
                ))}
              </span>
              <span className="text-ink-2">
                {asking.counts.map((c) => `${n(c[of])} ${c.state} (${share(c[of], whole)})`).join(", ")}
                {of === "rows" && asking.blank > 0 && `, ${n(asking.blank)} blank or not asked`}
              </span>
            </dd>
          </div>
        );
      })}
    </dl>
  );
}
