import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask, type Entry, type Schemas, type Table } from "../api/client";
import { useJournal, useTable } from "../api/queries";
import { Balance } from "../design/Balance";
import { Button, ButtonLink } from "../design/Button";
import { Input, Labelled } from "../design/Field";
import { Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Between } from "./Between";
import { Marks, useMarks } from "./Marks";
import { ReadingEffect } from "./ReadingEffect";
import { Value } from "../design/Value";
import { count, n, when } from "../design/words";
import { useState } from "react";
import { tablePath, useBook } from "../shell/useBook";
import { effectWords, figures } from "./PostBar";
import { TableHead, TableSub } from "./TableHead";
import { useJournalChange } from "./usePinned";

/** The journal: numbered entries in words, each with its balance; reverse the last, post it again. */
export function JournalPage() {
  const { table } = useBook();
  const { data, error } = useTable(table);
  const journal = useJournal(table);
  const [chosen, choose] = useState<number>();
  const marks = useMarks(table).data ?? [];
  const entries = journal.data ?? [];
  const last = entries.findLast((e) => e.state === "posted" && e.number > 0);
  const at = entries.find((e) => e.number === chosen) ?? entries.at(-1);
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title={data?.name ?? "…"}
          tab={data && `Journal of ${data.name}`}
          sub={data && <TableSub table={data} />}
        >
          {(error ?? journal.error) && <ProblemNotice error={error ?? journal.error} />}
          {data && <TableHead table={data} />}
          {journal.isPending && <Loading what="Opening the journal…" />}
          {entries.length > 0 && (
            <table className="w-full table-fixed" aria-label="Journal">
              <thead>
                <tr className="border-b border-ink text-[12px] text-ink-2">
                  <th className="w-[44px] py-1 pr-3 text-right">No.</th>
                  <th>Entry</th>
                  <th className="w-[84px] text-right">Change</th>
                  <th className="w-[84px] text-right">Rows after</th>
                  <th className="w-[140px] pl-4">Posted</th>
                </tr>
              </thead>
              <tbody>
                {entries.map((e) => (
                  <Line
                    key={e.number}
                    entry={e}
                    marks={marks.filter((m) => m.entry === e.number)}
                    chosen={e === at}
                    onChoose={() => choose(e.number)}
                  />
                ))}
              </tbody>
            </table>
          )}
        </Page>
      }
      right={
        at &&
        data && (
          <EntryPage
            key={at.number}
            table={data}
            entry={at}
            entries={entries}
            marks={marks.filter((m) => m.entry === at.number)}
            last={at.number === last?.number}
            stands={at.number === (last?.number ?? 0)}
          />
        )
      }
    />
  );
}

interface LineProps {
  entry: Entry;
  marks: Schemas["Mark"][];
  chosen: boolean;
  onChoose: () => void;
}

function Line({ entry: e, marks, chosen, onChoose }: LineProps) {
  const b = e.effect.balance;
  const change = b.after - b.before;
  const gone = e.state !== "posted";
  return (
    <tr
      onClick={onChoose}
      aria-selected={chosen}
      className={`cursor-pointer border-b border-rule-2 align-top ${chosen ? "bg-pencil-bg" : "hover:bg-paper-2"}`}
    >
      <td className="py-1 pr-3 text-right text-ink-2">{e.number === 0 ? "–" : e.number}</td>
      <td className="py-1 pr-2">
        <button type="button" onClick={onChoose} className={`text-left ${gone ? "struck" : ""}`}>
          {e.words}
        </button>
        {marks.map((m) => (
          <span key={m.name} className="block text-[12px] font-semibold text-green">
            Mark: {m.name}
          </span>
        ))}
        {e.reason && <span className="block text-[12px] text-ink-2 italic">{e.reason}</span>}
        {e.state === "reversed" && <span className="ml-2 text-ochre">reversed</span>}
        {e.state === "superseded" && <span className="ml-2 text-ink-2">superseded</span>}
        {e.repeats !== undefined && e.repeats > 0 && (
          <span className="ml-2 text-ink-2">entry {e.repeats} done again</span>
        )}
      </td>
      <td
        className={`py-1 text-right ${gone ? "struck" : change < 0 ? "text-red" : change > 0 ? "text-green" : "text-ink-3"}`}
      >
        {change === 0 ? "0" : change > 0 ? `+${n(change)}` : `−${n(-change)}`}
      </td>
      <td className={`py-1 text-right ${gone ? "struck" : ""}`}>{n(b.after)}</td>
      <td className="truncate py-1 pl-4 text-ink-2">{when(e.postedAt)}</td>
    </tr>
  );
}

/** One entry: what it did, its balance, and what can be done about it. */
interface EntryProps {
  table: Table;
  entry: Entry;
  entries: Entry[];
  marks: Schemas["Mark"][];
  last: boolean;
  /** The table stands as after this entry. */
  stands: boolean;
}

function EntryPage({ table, entry: e, entries, marks, last, stands }: EntryProps) {
  const change = useJournalChange(table.id);
  const revision = table.revision;
  return (
    <Page
      side="right"
      title={e.number === 0 ? "Opening" : `Entry ${e.number}`}
      sub={e.words}
      foot={
        <Balance figures={figures(e.effect)}>
          {e.state === "posted" && e.number > 0 && e.kind !== "amend" && e.kind !== "refresh" && (
            <ButtonLink kind="plain" to={tablePath(table.bookId, table.id, "/amend")}>
              Amend the journal
            </ButtonLink>
          )}
          {last && (
            <Button disabled={change.isPending} onClick={() => change.mutate({ change: {}, revision })}>
              Reverse entry {e.number}
            </Button>
          )}
          {!last && e.state === "posted" && e.number > 0 && (
            <Button
              disabled={change.isPending}
              onClick={() => change.mutate({ change: { reverse: e.number }, revision })}
            >
              Reverse back to {e.number}
            </Button>
          )}
          {e.canRepost && (
            <>
              <Button
                disabled={change.isPending}
                onClick={() => change.mutate({ change: { repost: e.number, following: true }, revision })}
              >
                And those behind it
              </Button>
              <Button
                kind="main"
                disabled={change.isPending}
                onClick={() => change.mutate({ change: { repost: e.number }, revision })}
              >
                Post entry {e.number} again
              </Button>
            </>
          )}
        </Balance>
      }
    >
      {change.error && <ProblemNotice error={change.error} />}
      {e.state === "reversed" && (
        <Notice tone="ochre">
          Reversed {e.reversedAt && when(e.reversedAt)}.{" "}
          {e.canRepost
            ? "The table stands as it did before it, so it can be posted again."
            : "Other entries stand in its place, so it can only be drafted anew."}
        </Notice>
      )}
      {e.state === "superseded" && (
        <Notice tone="ochre">
          A later entry took its place: a new delivery, or an amendment of the journal. If that is reversed, this entry
          stands again.
        </Notice>
      )}
      <p className="mb-3">
        {e.kind === "refresh"
          ? `${count(e.effect.balance.added, "row")} came and ${count(e.effect.balance.setAside, "row")} went against the last delivery; ${count(e.effect.balance.after, "row")} were delivered.`
          : effectWords(e.effect)}
      </p>
      {e.notes && e.notes.length > 0 && (
        <Notice tone="ochre">
          {e.notes.map((note) => (
            <p key={note} className="first-letter:uppercase">
              {note}
            </p>
          ))}
        </Notice>
      )}
      <Reason key={e.number} table={table} entry={e} />
      <Marks table={table} marks={marks} last={stands} />
      {e.kind !== "amend" && entries.length > 1 && (
        <Between book={table.bookId} table={table.id} entry={e} entries={entries} />
      )}
      {e.number === 0 && <HandOn table={table} />}
      {e.hasAside && (
        <p className="mb-3">
          <ButtonLink to={tablePath(table.bookId, table.id, `/aside/${e.number}`)}>
            Open the {count(e.effect.balance.setAside, "row")} set aside
          </ButtonLink>
        </p>
      )}
      {e.effect.pairs.length > 0 && <Pairs entry={e} />}
      {e.effect.readings?.map((r) => (
        <ReadingEffect key={r.column} effect={r} />
      ))}
      {e.number > 0 && !last && e.state === "posted" && (
        <p className="mt-3 text-[12px] text-ink-2">
          Reversing goes from the last entry back to this one; to switch off or move this one alone, amend the journal.
        </p>
      )}
      {e.kind === "values" && (
        <p className="mt-3 text-[12px] text-ink-2">
          Decisions on spellings are kept in the book’s{" "}
          <Link
            className="text-pencil underline"
            to={`/books/${table.bookId}/crosswalk?name=${encodeURIComponent(e.effect.columns[0]?.column ?? "")}`}
          >
            crosswalk
          </Link>
          .
        </p>
      )}
    </Page>
  );
}

/** Why an entry was posted, written by the steward. */
function Reason({ table, entry: e }: { table: Table; entry: Entry }) {
  const client = useQueryClient();
  const [typed, setTyped] = useState(e.reason ?? "");
  const save = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/tables/{table}/entries/{number}/reason", {
          params: { path: { table: table.id, number: e.number } },
          body: { reason: typed },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["journal", table.id] }),
  });
  return (
    <form
      className="mb-3 flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <span className="min-w-0 flex-1">
        <Labelled label="Reason">
          <Input
            aria-label="Reason"
            placeholder="why it was posted, for who reads on"
            className="w-full"
            maxLength={2000}
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
          />
        </Labelled>
      </span>
      {typed.trim() !== (e.reason ?? "") && (
        <Button type="submit" disabled={save.isPending}>
          Keep it
        </Button>
      )}
      {save.error && <ProblemNotice error={save.error} />}
    </form>
  );
}

/** The journal as a file that runs again on the next files, and as a document. */
function HandOn({ table }: { table: Table }) {
  const at = `/api/tables/${table.id}/procedure`;
  return (
    <div className="mb-3">
      <p className="mb-1.5 text-ink-2">
        Hand the journal on: the procedure runs again on other files (<code>grandledger run</code>), the document is for
        reading.
      </p>
      <p className="flex gap-2">
        {!table.consolidated && (
          <>
            <a className="text-pencil underline underline-offset-2" href={at} download>
              Procedure
            </a>
            <a className="text-pencil underline underline-offset-2" href={`${at}?format=yaml`} download>
              Procedure as YAML
            </a>
          </>
        )}
        <a className="text-pencil underline underline-offset-2" href={`${at}?format=md`} download>
          Markdown
        </a>
        <a className="text-pencil underline underline-offset-2" href={`${at}?format=html`} download>
          Web page
        </a>
      </p>
    </div>
  );
}

function Pairs({ entry: e }: { entry: Entry }) {
  return (
    <table className="w-full table-fixed">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="py-1">Was</th>
          <th>Is</th>
          <th className="w-[16%] text-right">Rows</th>
        </tr>
      </thead>
      <tbody>
        {e.effect.pairs.map((p) => (
          <tr key={`${p.column} ${p.from}`} className="h-[27px] border-b border-rule-2">
            <td className="truncate pr-2">
              <Value value={p.from} className="struck" />
            </td>
            <td className="truncate pr-2">
              <Value value={p.to} />
            </td>
            <td className="text-right">{n(p.rows)}</td>
          </tr>
        ))}
        {e.effect.changed > e.effect.pairs.length && (
          <tr>
            <td colSpan={3} className="py-1 text-ink-2">
              and {count(e.effect.changed - e.effect.pairs.length, "value")} more
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
