import { useState } from "react";
import { useSearchParams } from "react-router";
import { useAsking } from "../api/askings";
import type { Draft } from "../api/queries";
import { ButtonLink } from "../design/Button";
import { Check } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { usePosting } from "../tables/PostBar";
import { usePinned } from "../tables/usePinned";
import { StandsBar } from "./StandsBar";

/** The entry that brings identifiers, standard names and chosen properties of an authority home as columns. */
export function BringHomePage() {
  const { book, table } = useBook();
  const [query] = useSearchParams();
  const id = Number(query.get("asking"));
  const about = useAsking(id);
  const asking = about.data;
  const [properties, setProperties] = useState<string[]>([]);
  const [done, setDone] = useState(false);
  const pinned = usePinned(table);
  const draft: Draft | null =
    asking && !done && pinned.revision !== undefined
      ? { revision: pinned.revision, kind: "identify", params: { asking: id, properties } }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    whole: true,
    idle: "The columns stand in the table",
    onPosted: () => setDone(true),
  });
  const effect = draft && posting.drafted.data?.effect;
  return (
    <Spread
      left={
        <Page
          side="left"
          title={`${asking?.column ?? "Values"} brought home`}
          tab="Brought home"
          sub={asking && `${count(asking.rows, "row")} of ${asking.tableName}, by ${asking.authority}.`}
        >
          {about.error && <ProblemNotice error={about.error} />}
          {about.isPending && <Loading what="Looking at the answers…" />}
          {asking && (
            <>
              <StandsBar asking={asking} />
              <Heading>With these properties of {asking.authority}</Heading>
              <fieldset className="flex flex-col gap-1" aria-label="Properties">
                {asking.properties.map((p) => (
                  <Check
                    key={p}
                    checked={properties.includes(p)}
                    onChange={(on) => setProperties(on ? [...properties, p] : properties.filter((x) => x !== p))}
                  >
                    {p}
                  </Check>
                ))}
              </fieldset>
              <p className="mt-4">
                <ButtonLink to={`/books/${book}/askings/${id}`}>Back to the candidates</ButtonLink>
              </p>
            </>
          )}
        </Page>
      }
      right={
        <Page
          side="right"
          title={posting.drafted.data && draft ? posting.drafted.data.words : "Columns brought home"}
          sub="Nothing changes until you post. Rows of undecided values get no cell; post again when more are decided."
          foot={posting.strip}
        >
          {posting.notices}
          {effect && (
            <table className="w-full table-fixed">
              <thead>
                <tr className="border-b border-ink text-[12px] text-ink-2">
                  <th className="py-1 text-left font-normal">New column</th>
                  <th className="w-[30%] text-right font-normal">Distinct values</th>
                </tr>
              </thead>
              <tbody>
                {effect.columns.map((c) => (
                  <tr key={c.column} className="h-[27px] border-b border-rule-2">
                    <td className="truncate">
                      <span className="pencilled">{c.column}</span>
                    </td>
                    <td className="text-right">{n(c.distinctAfter)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Page>
      }
    />
  );
}
