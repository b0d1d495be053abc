import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useRegister, useRepeats, type Draft } from "../api/queries";
import { useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { ButtonLink } from "../design/Button";
import { Segments } from "../design/Field";
import { Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { ColumnChoice } from "../tables/ColumnChoice";
import { usePosting } from "../tables/PostBar";
import { Row } from "../tables/ShapeForms";
import { usePinned } from "../tables/usePinned";
import { Groups } from "./Groups";
import { InsideView, useInside } from "./InsideView";
import { KeysBeside } from "./KeysBeside";
import { CombiningRows, mergeParams, plainCombining } from "./MergeForm";
import { NearlyView } from "./NearlyView";
import { asParams, keyParams, plainRule, type Rule } from "./rule";
import { KeyRows, StayRows } from "./RuleForm";

type View = "keys" | "groups" | "inside" | "nearly";
const views: { value: View; name: string }[] = [
  { value: "keys", name: "Keys side by side" },
  { value: "groups", name: "Groups" },
  { value: "inside", name: "What differs in them" },
  { value: "nearly", name: "Nearly the same" },
];

/** Finds rows that are equal on chosen columns, shows the groups, and sets aside or combines what repeats. */
export function DuplicatesPage() {
  const { book, table } = useBook();
  const pinned = usePinned(table);
  const where = useWhere(table);
  const register = useRegister(table, pinned.revision, where.text);
  const [query] = useSearchParams();
  const [rule, setRule] = useState<Rule>({ ...plainRule, key: query.getAll("key") });
  const [doing, setDoing] = useState<"aside" | "merge">("aside");
  const [combining, combine] = useState(plainCombining);
  const [view, setView] = useState<View>(rule.key.length > 0 ? "groups" : "keys");
  const [tried, setTried] = useState<Schemas["Duplicates"][]>([]);
  const [differs, setDiffers] = useState("");
  const names = pinned.table?.columns ?? [];
  const of = asParams(rule);
  const merge = doing === "merge" ? mergeParams(rule, combining) : null;
  const shown = doing === "merge" ? { ...keyParams(rule), keep: "first" as const } : of;
  const repeats = useRepeats(
    table,
    pinned.revision,
    rule.key.length > 0 ? shown : null,
    where.text,
    differs,
    merge ?? undefined,
  );
  const found = rule.key.length > 0 && !repeats.error ? repeats.data : undefined;
  const inside = useInside(table, pinned.revision, rule, where.text);
  const params = doing === "merge" ? merge : of;
  const draft: Draft | null =
    pinned.revision !== undefined && params && found && found.summary.repeats > 0
      ? { revision: pinned.revision, kind: doing === "merge" ? "merge" : "duplicates", params }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    whole: doing === "merge",
    intoNew: true,
    idle:
      rule.key.length === 0
        ? "Choose the columns that make two rows the same"
        : params
          ? "No row repeats another"
          : "Choose the column that tells which row stays",
    onPosted: () => setRule(plainRule),
  });
  const key = (next: string[], as: Rule["as"] = rule.as, apart = rule.apart) => {
    if (rule.key.length > 0) {
      const was = { ...keyParams(rule), keep: "first" as const };
      setTried([...tried.filter((t) => JSON.stringify(t) !== JSON.stringify(was)), was].slice(-10));
    }
    setDiffers("");
    setRule({ ...rule, key: next, as, apart, chosen: [] });
    if (view === "keys" && next.length > 0) setView("groups");
  };
  const effect = draft ? posting.drafted.data?.effect : undefined;
  const everyRow = found && found.summary.repeats > 0 && found.summary.remain === 1 + found.summary.noKey;
  return (
    <Spread
      widths="5fr 7fr"
      left={
        <Page
          side="left"
          title="Find duplicates"
          tab="Find duplicates"
          sub={pinned.table && `${pinned.table.name}, ${count(pinned.table.rows, "row")}.`}
        >
          {(pinned.error ?? register.error) && <ProblemNotice error={pinned.error ?? register.error} />}
          <WhereStrip revision={pinned.revision} />
          <p className="mb-2 text-ink-2">Two rows are the same when they agree on</p>
          {register.isPending && <Loading />}
          {register.data && (
            <div className="max-h-[300px] shrink-0 overflow-y-auto">
              <ColumnChoice
                label="Key columns"
                profiles={register.data}
                chosen={rule.key}
                onChoose={(next) => key(next)}
                figures={[
                  { name: "Distinct", of: (p) => (p.rows > 0 && p.unique === p.rows ? "unique" : n(p.distinct)) },
                  { name: "Blank", of: (p) => n(p.blank + p.missing) },
                ]}
              />
            </div>
          )}
          <div className="mt-3 grid grid-cols-[92px_1fr] items-start gap-y-2.5">
            <KeyRows rule={rule} onChange={(part) => setRule({ ...rule, ...part, chosen: [] })} />
            <Row label="Then">
              <Segments
                label="What becomes of them"
                value={doing}
                options={[
                  { value: "aside", name: "set repeats aside" },
                  { value: "merge", name: "combine each group" },
                ]}
                onChange={setDoing}
              />
            </Row>
            {doing === "aside" ? (
              <StayRows rule={rule} names={names} onChange={setRule} />
            ) : (
              rule.key.length > 0 && (
                <CombiningRows
                  names={names}
                  keyColumns={rule.key}
                  inside={inside.data}
                  combining={combining}
                  onChange={combine}
                />
              )
            )}
          </div>
          <p className="mt-2 text-[12px] text-ink-2">
            {doing === "aside"
              ? "The other rows are set aside: kept, and returned when you wish."
              : "Each value can be traced to the cells it was made of."}{" "}
            Rows whose key is blank {rule.apart ? "anywhere" : "throughout"} repeat nothing.
          </p>
          <p className="mt-2 flex gap-2">
            <ButtonLink to={tablePath(book, table, "/shape?do=mark")}>Mark them instead</ButtonLink>
            <ButtonLink
              to={tablePath(book, table, `/shape?do=renumber&column=${encodeURIComponent(rule.key[0] ?? "")}`)}
            >
              Give new ids
            </ButtonLink>
          </p>
        </Page>
      }
      right={
        <Page
          side="right"
          title={found ? said(found.summary) : "Which key?"}
          sub={
            found ? noKey(found.summary) : "Choosing the key is the real decision: what each would find, over all rows."
          }
          foot={posting.strip}
        >
          {posting.notices}
          <div className="mb-3 shrink-0">
            <Segments label="What is shown" value={view} options={views} onChange={setView} />
          </div>
          {repeats.error && rule.key.length > 0 && <ProblemNotice error={repeats.error} />}
          {everyRow && (
            <Notice tone="ochre">
              Every row has the same key: all {n(found.summary.largest)} are one group. Choose more columns, or others.
            </Notice>
          )}
          {effect && <Unread doing={doing} unread={effect.unread ?? 0} rule={rule} />}
          {effect && doing === "merge" && view === "groups" && <GivenUp columns={effect.columns} />}
          {view === "keys" && (
            <KeysBeside
              revision={pinned.revision}
              where={where.text}
              tried={tried}
              current={rule}
              onChoose={(k) => key(k.key, k.as ?? {}, k.apart ?? false)}
            />
          )}
          {view === "groups" && rule.key.length === 0 && (
            <p className="py-4 text-ink-2">Choose one or more columns on the left, or a key of those side by side.</p>
          )}
          {view === "groups" && shown && repeats.isPending && rule.key.length > 0 && <Loading what="Comparing rows…" />}
          {view === "groups" && found && found.summary.repeats > 0 && (
            <Groups
              found={found}
              rule={rule}
              merging={doing === "merge"}
              differs={differs}
              onAll={() => setDiffers("")}
              onChosen={(chosen) => setRule({ ...rule, chosen })}
            />
          )}
          {view === "inside" && (
            <InsideView
              inside={inside}
              keyColumns={rule.key}
              groups={found?.summary.groups ?? 0}
              onOpen={(column) => {
                setDiffers(column);
                setView("groups");
              }}
            />
          )}
          {view === "nearly" && register.data && (
            <NearlyView
              revision={pinned.revision}
              where={where.text}
              profiles={register.data}
              onKey={(columns) => key(columns, {}, false)}
            />
          )}
        </Page>
      }
    />
  );
}

function Unread({ doing, unread, rule }: { doing: "aside" | "merge"; unread: number; rule: Rule }) {
  if (unread === 0) return null;
  return (
    <Notice tone="ochre">
      {doing === "merge"
        ? `${count(unread, "cell")} ${unread === 1 ? "is" : "are"} no number and left out of sums, means and medians.`
        : `${count(unread, "row")} of these groups ${unread === 1 ? "has" : "have"} no ${rule.choices.find((c) => c.by)?.by} that reads; the others go before ${unread === 1 ? "it" : "them"}.`}
    </Notice>
  );
}

/** What combining gives up. */
function GivenUp({ columns }: { columns: Schemas["ColumnEffect"][] }) {
  const given = columns.filter((c) => c.dropped);
  if (given.length === 0) return null;
  return (
    <p className="mb-2 text-ochre" aria-label="What is given up">
      Given up: {given.map((c) => `${count(c.dropped ?? 0, "cell")} of ${c.column} that say something else`).join("; ")}
      .
    </p>
  );
}

function said(s: Schemas["RepeatSummary"]): string {
  if (s.repeats === 0) return "No row repeats another";
  return `${count(s.repeats, "repeat")} in ${count(s.groups, "group")}`;
}

function noKey(s: Schemas["RepeatSummary"]): string {
  const rest =
    s.repeats > 0
      ? `${count(s.remain, "row")} would remain of one each. ${sizes(s)}`
      : "Every row is the only one with its key.";
  return s.noKey > 0
    ? `${rest} ${count(s.noKey, "row")} without a key ${s.noKey === 1 ? "is" : "are"} left alone.`
    : rest;
}

/** The distribution of the sizes of groups, in words. */
function sizes(s: Schemas["RepeatSummary"]): string {
  const parts = s.sizes.map(
    (z) => `${count(z.groups, "group")} of ${z.from === z.to ? n(z.from) : `${n(z.from)} to ${n(z.to)}`}`,
  );
  return `${parts.join(", ")}.`;
}
