import { useState } from "react";
import { useLinkageChange, useSetSpec } from "../api/linkages";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Check, Select } from "../design/Field";
import { Notice, ProblemNotice } from "../design/Notice";
import { Heading } from "../design/Spread";
import { count, listing, n } from "../design/words";

type Linkage = Schemas["Linkage"];
type Spec = Schemas["LinkageSpec"];

/** What is compared and how: every part was proposed, and each can be changed. What a change gained and lost is said beside it. */
export function Setup({ linkage, id }: { linkage: Linkage; id: number }) {
  const [draft, setDraft] = useState<Spec>();
  const [without, setWithout] = useState<string[]>([]);
  const set = useSetSpec(id);
  const changed = useLinkageChange(id, "gained", linkage.changed);
  const lost = useLinkageChange(id, "lost", linkage.changed);
  const spec = draft ?? linkage.spec;
  const change = (name: string, part: Partial<Schemas["LinkageAttribute"]>) =>
    setDraft({ ...spec, attributes: spec.attributes.map((a) => (a.name === name ? { ...a, ...part } : a)) });
  const several = linkage.tables.length > 1;
  return (
    <section aria-label="Set up">
      {changed.data && (
        <Notice tone="green">
          Against how it was done before: {count(changed.data.gained, "link")} gained, {n(changed.data.lost)} lost,{" "}
          {n(changed.data.kept)} kept.
        </Notice>
      )}
      {lost.data && lost.data.pairs.length > 0 && (
        <p className="mb-2 text-ink-2">
          Lost, among others: {listing(lost.data.pairs.slice(0, 3).map((p) => p.findings[0]?.left.join(" ") ?? ""))}.
        </p>
      )}
      <Heading>What is compared</Heading>
      <table className="w-full table-fixed">
        <thead>
          <tr className="border-b border-ink text-left text-[12px] text-ink-2 [&_th]:font-normal">
            <th className="w-[26%] py-1">Attribute</th>
            <th>Columns</th>
            <th className="w-[132px]">As</th>
            {linkage.crosswalks.length > 0 && <th className="w-[112px] pl-2">Crosswalk</th>}
          </tr>
        </thead>
        <tbody>
          {spec.attributes.map((a) => (
            <tr
              key={a.name}
              className={`border-b border-rule-2 ${without.includes(a.name) ? "text-ink-3 line-through" : ""}`}
            >
              <td className="truncate py-0.5">
                <Check
                  checked={!without.includes(a.name)}
                  onChange={(on) => {
                    setWithout(on ? without.filter((x) => x !== a.name) : [...without, a.name]);
                    setDraft({ ...spec });
                  }}
                >
                  <span className="truncate">{a.name}</span>
                </Check>
              </td>
              <td className="truncate text-ink-2" title={listing(a.columns.map((c) => c.join(" and ")))}>
                {listing(a.columns.map((c) => c.join(" and ")))}
              </td>
              <td>
                <Select
                  label={`${a.name} as`}
                  className="w-full"
                  value={a.kind}
                  options={linkage.kinds.map((k) => ({ value: k, name: k }))}
                  onChange={(kind) => change(a.name, { kind, within: undefined })}
                />
              </td>
              {linkage.crosswalks.length > 0 && (
                <td className="pl-2">
                  <Select
                    label={`Crosswalk of ${a.name}`}
                    className="w-full"
                    value={a.crosswalk ?? ""}
                    options={[{ value: "", name: "none" }, ...linkage.crosswalks.map((c) => ({ value: c, name: c }))]}
                    onChange={(crosswalk) => change(a.name, { crosswalk })}
                  />
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {several && (
        <p className="mt-3">
          <Check checked={spec.within === true} onChange={(within) => setDraft({ ...spec, within, across: true })}>
            Look within each table too: a thing may be listed twice in one
          </Check>
        </p>
      )}
      {set.error && <ProblemNotice error={set.error} />}
      {draft && (
        <p className="mt-3 flex gap-2">
          <Button
            disabled={set.isPending || without.length === spec.attributes.length}
            onClick={() =>
              set.mutate(
                { ...spec, attributes: spec.attributes.filter((a) => !without.includes(a.name)) },
                {
                  onSuccess: () => {
                    setDraft(undefined);
                    setWithout([]);
                  },
                },
              )
            }
          >
            {set.isPending ? "Comparing…" : "Link them so"}
          </Button>
          <Button
            kind="quiet"
            onClick={() => {
              setDraft(undefined);
              setWithout([]);
            }}
          >
            Leave it as it is
          </Button>
        </p>
      )}
      {linkage.changed && (
        <p className="mt-3">
          <Button kind="quiet" disabled={set.isPending} onClick={() => set.mutate({ attributes: [] })}>
            Propose it all anew
          </Button>
        </p>
      )}
    </section>
  );
}
