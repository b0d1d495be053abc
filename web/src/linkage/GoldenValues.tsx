import { useState } from "react";
import { useConflicts, usePick, useSetSpec } from "../api/linkages";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Select } from "../design/Field";
import { Empty, ProblemNotice } from "../design/Notice";
import { Heading } from "../design/Spread";
import { Turn } from "../design/Turn";
import { Value } from "../design/Value";
import { count, n } from "../design/words";

const rules = [
  { value: "frequent", name: "the most frequent" },
  { value: "first", name: "from the first table" },
  { value: "last", name: "from the last table" },
  { value: "newest", name: "from the newest record" },
  { value: "fullest", name: "from the fullest record" },
  { value: "nearest", name: "from the best tied record" },
  { value: "longest", name: "the longest" },
  { value: "largest", name: "the highest or latest" },
  { value: "smallest", name: "the lowest or earliest" },
  { value: "list-distinct", name: "all of them, as a list" },
  { value: "join-distinct", name: "all of them, with ; between" },
];

const atOnce = 50;

/** How each golden value is made, and what its rule cannot know: where the sources do not agree, one can be picked by hand. */
export function GoldenValues({ linkage, id, reviewer }: { linkage: Schemas["Linkage"]; id: number; reviewer: string }) {
  const [attribute, setAttribute] = useState("");
  const [from, setFrom] = useState(0);
  const set = useSetSpec(id);
  const conflicts = useConflicts(id, attribute, from);
  const pick = usePick(id);
  const { spec } = linkage;
  return (
    <section aria-label="Golden values">
      <Heading>How each value is made</Heading>
      {(set.error ?? pick.error ?? conflicts.error) && (
        <ProblemNotice error={set.error ?? pick.error ?? conflicts.error} />
      )}
      <table className="w-full table-fixed">
        <tbody>
          {linkage.attributes.map((a) => {
            const differ = Math.max(0, ...a.columns[0]!.map((c) => linkage.conflicts[c] ?? 0));
            return (
              <tr key={a.name} className={`border-b border-rule-2 ${a.name === attribute ? "bg-pencil-bg" : ""}`}>
                <td className="truncate py-0.5">{a.name}</td>
                <td className="w-[190px]">
                  <Select
                    label={`Value of ${a.name}`}
                    className="w-full"
                    value={a.rule ?? "frequent"}
                    options={rules}
                    onChange={(rule) => set.mutate({ ...spec, survivorship: { ...spec.survivorship, [a.name]: rule } })}
                  />
                </td>
                <td className="w-[150px] text-right">
                  {differ === 0 ? (
                    <span className="text-ink-2">all agree</span>
                  ) : (
                    <Button
                      kind="quiet"
                      onClick={() => {
                        setAttribute(a.name);
                        setFrom(0);
                      }}
                    >
                      {n(differ)} do not agree
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {linkage.asks > 0 && (
        <p className="mt-2 text-ochre">
          {count(linkage.asks, "picked value")} no longer hold: what they were picked of has changed.
        </p>
      )}
      {attribute !== "" && conflicts.data && (
        <>
          <Heading>
            {count(conflicts.data.total, "golden record")} whose sources do not agree on {attribute}
          </Heading>
          {conflicts.data.total === 0 && <Empty>All agree.</Empty>}
          <ul>
            {conflicts.data.conflicts.map((c) => (
              <li key={c.golden} className="border-b border-rule-2 py-1">
                <p className="truncate text-ink-2">
                  {c.golden}: {c.label}{" "}
                  {c.asks && <span className="text-ochre">– what it was picked of has changed</span>}
                </p>
                <p className="flex flex-wrap gap-1.5">
                  {c.values.map((v) => {
                    const picked = v.value === c.picked && !c.asks;
                    return (
                      <button
                        key={v.value}
                        type="button"
                        aria-pressed={picked}
                        disabled={pick.isPending}
                        className={`max-w-[220px] truncate rounded-[3px] border px-1.5 ${picked ? "border-ink bg-paper-2 font-semibold" : "border-rule text-pencil hover:border-ink"}`}
                        onClick={() =>
                          pick.mutate({
                            golden: c.golden,
                            attribute,
                            value: v.value,
                            of: picked ? undefined : c.of,
                            by: reviewer,
                          })
                        }
                      >
                        <Value value={v.value} /> <span className="text-[11px] text-ink-2">{n(v.rows)}</span>
                      </button>
                    );
                  })}
                  {c.picked && !c.asks && <span className="text-[12px] text-ink-2">picked {c.by && `by ${c.by}`}</span>}
                </p>
              </li>
            ))}
          </ul>
          <Turn from={from} shown={atOnce} total={conflicts.data.total} onFrom={setFrom} />
        </>
      )}
    </section>
  );
}
