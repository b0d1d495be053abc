import { useState } from "react";
import { Link } from "react-router";
import type { Effect, Entry } from "../api/client";
import { useDraft, type Draft } from "../api/queries";
import { Balance, type Figure } from "../design/Balance";
import { Button } from "../design/Button";
import { Notice, ProblemNotice } from "../design/Notice";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { useWhere, type Condition } from "../conditions/useWhere";
import { IntoNew } from "./IntoNew";
import { usePost, type Pinned } from "./usePinned";

interface Posting {
  drafted: ReturnType<typeof useDraft>;
  /** What to show above the page's content: a table that moved on, a problem, what was posted. */
  notices: React.ReactNode;
  /** The balance strip. */
  strip: React.ReactNode;
}

interface Options {
  pinned: Pinned;
  draft: Draft | null;
  /** What the strip says while nothing is drafted. */
  idle: string;
  /** The entry concerns the whole table, whatever condition narrows its views. */
  whole?: boolean;
  /** It can be posted on a copy of the table too, so that both can be compared. */
  intoNew?: boolean;
  onDiscard?: () => void;
  onPosted?: (entry: Entry) => void;
}

/** Drafts an entry over all rows, shows its figures, and posts it. */
export function usePosting({ pinned, draft: asked, idle, whole, intoNew, onDiscard, onPosted }: Options): Posting {
  const { book, table } = useBook();
  const where = useWhere(table).condition;
  const draft = narrowed(asked, whole ? null : where);
  const [posted, setPosted] = useState<Entry>();
  const drafted = useDraft(table, pinned.moved ? null : draft);
  const post = usePost(table, pinnedTables(draft, drafted.data?.effect), (entry) => {
    setPosted(entry);
    pinned.follow();
    onPosted?.(entry);
  });
  const again = () => {
    post.reset();
    setPosted(undefined);
    pinned.follow();
  };
  const ready = draft !== null && drafted.data !== undefined && !drafted.isPlaceholderData && !drafted.error;
  // A check changes nothing, and is posted all the same.
  const changes = ready && (draft.kind === "check" || changesAnything(drafted.data.effect));
  const stale = pinned.moved && !post.isPending;
  return {
    drafted,
    notices: (
      <>
        {stale && !post.error && (
          <Notice tone="ochre">
            <p>
              This table has changed since you opened the page; the figures here are of before.{" "}
              <Link className="text-pencil underline" to={tablePath(book, table, "/journal")}>
                Read the journal
              </Link>
            </p>
            <Button kind="small" className="mt-1.5" onClick={again}>
              Look at it as it stands now
            </Button>
          </Notice>
        )}
        {post.error ? (
          <ProblemNotice error={post.error}>
            <Button kind="small" onClick={again}>
              Draft it anew on the table as it stands
            </Button>
          </ProblemNotice>
        ) : (
          draft !== null && drafted.error && <ProblemNotice error={drafted.error} />
        )}
        {posted && !post.error && <PostedNotice entry={posted} />}
      </>
    ),
    strip: (
      <Balance figures={draft !== null && drafted.data ? figures(drafted.data.effect) : standing(pinned)}>
        {draft === null ? (
          <span className="max-w-[24ch] text-right text-[12px] text-ink-2">{idle}</span>
        ) : (
          <>
            {onDiscard && <Button onClick={onDiscard}>Discard</Button>}
            {intoNew && <IntoNew draft={pinnedTables(draft, drafted.data?.effect)} disabled={!changes || stale} />}
            <Button
              kind="main"
              disabled={!changes || post.isPending || drafted.isFetching}
              onClick={() => post.mutate()}
            >
              {post.isPending ? "Posting…" : drafted.data ? `Post entry ${drafted.data.number}` : "Post"}
            </Button>
          </>
        )}
      </Balance>
    ),
  };
}

/** The draft with the revisions of the tables it was worked out with, so that what is posted is what was seen. */
function pinnedTables(draft: Draft | null, effect: Effect | undefined): Draft | null {
  const tables = effect?.evaluation?.tables;
  if (!draft || draft.kind !== "formula" || !tables) return draft;
  return { ...draft, params: Object.assign({}, draft.params, { tables }) };
}

/** The draft of an entry that concerns only the rows that hold the condition. */
function narrowed(draft: Draft | null, where: Condition | null): Draft | null {
  if (!draft || !where || draft.kind === "rows" || draft.kind === "return") return draft;
  return { ...draft, params: Object.assign({}, draft.params, { where }) };
}

/** Says that an entry is posted, and where what it did can be looked at. */
export function PostedNotice({ entry }: { entry: Entry }) {
  const { book, table } = useBook();
  return (
    <Notice tone="green">
      <p>
        <b className="font-semibold">Entry {entry.number} is posted.</b> {effectWords(entry.effect)}{" "}
        {entry.hasAside && (
          <Link className="text-pencil underline" to={tablePath(book, table, `/aside/${entry.number}`)}>
            Open the rows set aside
          </Link>
        )}{" "}
        <Link className="text-pencil underline" to={tablePath(book, table, "/journal")}>
          Journal
        </Link>
      </p>
    </Notice>
  );
}

const changesAnything = (e: Effect) =>
  e.shape !== undefined || e.changed > 0 || moves(e) || (e.readings?.length ?? 0) > 0 || e.columns.some(isNew);

/** A column that the entry adds. */
const isNew = (c: Effect["columns"][number]) => c.distinctBefore === 0 && c.cells > 0;
/** A column that the entry drops. */
const isGone = (c: Effect["columns"][number]) => c.distinctAfter === 0 && c.cells > 0;

export const moves = (e: Effect) => e.balance.added + e.balance.setAside + e.balance.merged > 0;

function standing({ table }: Pinned): Figure[] {
  return table ? [{ label: "Rows", value: n(table.rows), final: true }] : [];
}

/** The figures of an entry, the final one last. */
export function figures(effect: Effect): Figure[] {
  const { balance: b, columns } = effect;
  const out: Figure[] = [{ label: moves(effect) ? "Rows before" : "Rows", value: n(b.before) }];
  if (b.added > 0) out.push({ label: "Added", value: `+${n(b.added)}`, tone: "green" });
  if (b.setAside > 0) out.push({ label: "Set aside", value: `−${n(b.setAside)}`, tone: "red" });
  if (b.merged > 0) out.push({ label: "Merged", value: `−${n(b.merged)}`, tone: "red" });
  if (effect.shape) {
    out.push({
      label: "Columns",
      value: `${n(effect.shape.before.length)} → ${n(effect.shape.after.length)}`,
      tone: "ochre",
    });
  } else if (columns.length > 0) {
    const sum = (of: (c: (typeof columns)[number]) => number) => columns.reduce((t, c) => t + of(c), 0);
    const added = columns.every(isNew);
    out.push({ label: added ? "Cells added" : "Cells rewritten", value: n(sum((c) => c.cells)), tone: "ochre" });
    out.push({
      label: "Distinct values",
      value: `${n(sum((c) => c.distinctBefore))} → ${n(sum((c) => c.distinctAfter))}`,
    });
  }
  for (const r of effect.readings ?? []) {
    out.push({ label: "Read", value: n(r.read), tone: "green" });
    out.push({ label: "Not read", value: n(r.notRead), tone: r.notRead > 0 ? "ochre" : undefined });
  }
  out.push({ label: "Rows after", value: n(b.after), final: true });
  return out;
}

/** An effect as a sentence. */
export function effectWords(effect: Effect): string {
  const { balance: b, columns } = effect;
  const cells = columns.reduce((t, c) => t + c.cells, 0);
  const said: string[] = [];
  if (effect.shape) {
    const gone = columns.filter(isGone).length;
    const made = columns.filter(isNew).length;
    if (made > 0) said.push(`${count(made, "column")} added`);
    if (gone > 0) said.push(`${count(gone, "column")} dropped`);
    if (made + gone === 0) said.push("columns renamed or put in order");
  } else if (columns.length > 0) said.push(`${count(cells, "cell")} ${columns.every(isNew) ? "added" : "rewritten"}`);
  for (const r of effect.readings ?? []) {
    said.push(`${count(r.read, "row")} of ${r.column} read as ${r.after}, ${n(r.notRead)} do not`);
  }
  if (b.added > 0) said.push(`${count(b.added, "row")} added`);
  if (b.setAside > 0) said.push(`${count(b.setAside, "row")} set aside`);
  if (b.merged > 0) said.push(`${count(b.merged, "row")} merged`);
  return `${said.join(", ")}${said.length > 0 ? "; " : ""}${count(b.after, "row")} ${b.after === 1 ? "stands" : "stand"}.`;
}
