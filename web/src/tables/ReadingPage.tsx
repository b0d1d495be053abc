import { useState } from "react";
import { useSearchParams } from "react-router";
import { useReading, type Draft } from "../api/queries";
import { Button } from "../design/Button";
import { Loading, Notice, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { usePosting } from "./PostBar";
import { ReadingEffect } from "./ReadingEffect";
import { ReadingForm } from "./ReadingForm";
import { kinds, same, type Reading } from "./readings";
import { usePinned } from "./usePinned";

/** How a column is read: what its values suggest and why, what nobody can know but the steward, and what another reading comes to. */
export function ReadingPage() {
  const { table } = useBook();
  const [query] = useSearchParams();
  const column = query.get("column") ?? "";
  const pinned = usePinned(table);
  const found = useReading(table, pinned.revision, column);
  const [changed, change] = useState<Reading>();
  const now = found.data;
  const reading = changed ?? now?.reading;
  const posted = now !== undefined && now.declared && reading !== undefined && same(reading, now.reading);
  const draft: Draft | null =
    reading && !posted && pinned.revision !== undefined
      ? { revision: pinned.revision, kind: "reading", params: { column, reading } }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    whole: true,
    idle: "This is how the column is read",
    onPosted: () => change(undefined),
  });
  const effect = draft && posting.drafted.data?.effect.readings?.[0];
  const proposal = now?.proposal;
  const choices = proposal
    ? [{ reading: proposal.reading, words: "", rows: proposal.rows - proposal.notRead }, ...proposal.others]
    : [];
  return (
    <Spread
      left={
        <Page
          side="left"
          title={`Reading of ${column}`}
          tab={`Reading of ${column}`}
          sub={pinned.table && `${pinned.table.name}, ${count(pinned.table.rows, "row")}. The cells stay as they came.`}
        >
          {(pinned.error ?? found.error) && <ProblemNotice error={pinned.error ?? found.error} />}
          {found.isPending && !found.error && <Loading what="Reading every value…" />}
          {now && proposal && reading && (
            <>
              {proposal.ask && (
                <Notice tone="ochre">
                  <p>
                    {proposal.ask.words}. {count(proposal.ask.rows, "row")}{" "}
                    {proposal.ask.rows === 1 ? "depends" : "depend"} on it.
                  </p>
                  <div className="mt-1.5 flex gap-2">
                    {proposal.ask.choices.map((c) => (
                      <Button key={c.words} kind="small" onClick={() => change(c.reading)}>
                        {c.words}
                      </Button>
                    ))}
                  </div>
                </Notice>
              )}
              <Heading>What the values say</Heading>
              {proposal.evidence.length > 0 ? (
                <ul className="mb-3">
                  {proposal.evidence.map((e) => (
                    <li key={e} className="border-b border-rule-2 py-1 first-letter:uppercase">
                      {e}
                    </li>
                  ))}
                </ul>
              ) : (
                <p className="mb-3 text-ink-2">They are of no one kind: words, or values of many forms.</p>
              )}
              {choices.length > 1 && (
                <table className="mb-3 w-full table-fixed" aria-label="Readings the values allow">
                  <thead>
                    <tr className="border-b border-ink text-[12px] text-ink-2">
                      <th className="py-1">They allow</th>
                      <th className="w-[22%] text-right">Rows read</th>
                      <th className="w-[18%]" />
                    </tr>
                  </thead>
                  <tbody>
                    {choices.map((c, i) => (
                      <tr key={JSON.stringify(c.reading)} className="border-b border-rule-2">
                        <td className="truncate py-1">
                          {c.words || kinds[c.reading.kind].many} {i === 0 && <i className="text-ink-2">proposed</i>}
                        </td>
                        <td className="text-right">{n(c.rows)}</td>
                        <td className="text-right">
                          <Button kind="small" disabled={same(c.reading, reading)} onClick={() => change(c.reading)}>
                            Choose
                          </Button>
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )}
              <Heading>Read it as</Heading>
              <ReadingForm reading={reading} onChange={change} />
            </>
          )}
        </Page>
      }
      right={
        <Page
          side="right"
          title={draft ? (posting.drafted.data?.words ?? "…") : now ? `Read as ${now.words}` : "Reading"}
          sub={
            draft
              ? "Worked out on every row. Nothing changes until you post."
              : "Posted; every figure of the column goes by it."
          }
          foot={posting.strip}
        >
          {posting.notices}
          {effect && (
            <>
              <p className="mb-3">
                {effect.newly > 0 && `${count(effect.newly, "row")} more read than as ${effect.before}. `}
                {effect.lost > 0 && (
                  <span className="text-ochre">
                    {count(effect.lost, "row")} that read as {effect.before} would not.{" "}
                  </span>
                )}
                {effect.newly === 0 &&
                  effect.lost === 0 &&
                  (effect.before === effect.after
                    ? "As its values suggest; posting makes it a decision that later rows are held to."
                    : "The same rows read as before.")}
              </p>
              <ReadingEffect effect={effect} drafted />
            </>
          )}
        </Page>
      }
    />
  );
}
