import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Row, Schemas } from "../api/client";
import { useRegister, useRepeats, type Draft } from "../api/queries";
import { Empty, Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { ColumnChoice } from "./ColumnChoice";
import { asParams, plainRule, RuleForm, type Rule } from "./RuleForm";
import { usePosting } from "./PostBar";
import { usePinned } from "./usePinned";

/** Finds rows that are equal on chosen columns, shows the groups, and sets aside what repeats or what does not. */
export function DuplicatesPage() {
  const { table } = useBook();
  const pinned = usePinned(table);
  const where = useWhere(table);
  const register = useRegister(table, pinned.revision, where.text);
  const [query] = useSearchParams();
  const [rule, setRule] = useState<Rule>({ ...plainRule, key: query.getAll("key") });
  const of = asParams(rule);
  const repeats = useRepeats(table, pinned.revision, of, where.text);
  const found = of && !repeats.error ? repeats.data : undefined;
  const draft: Draft | null =
    pinned.revision !== undefined && of && found && found.summary.repeats > 0
      ? { revision: pinned.revision, kind: "duplicates", params: of }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    idle:
      rule.key.length === 0
        ? "Choose the columns that make two rows the same"
        : of
          ? "No row repeats another"
          : "Choose the column that tells which row stays",
    onPosted: () => setRule(plainRule),
  });
  const unread = draft ? posting.drafted.data?.effect.unread : undefined;
  return (
    <Spread
      widths="4fr 7fr"
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
            <ColumnChoice
              label="Key columns"
              profiles={register.data}
              chosen={rule.key}
              onChoose={(key) => setRule({ ...rule, key })}
              figures={[
                { name: "Distinct", of: (p) => (p.rows > 0 && p.unique === p.rows ? "unique" : n(p.distinct)) },
                { name: "Blank", of: (p) => n(p.blank + p.missing) },
              ]}
            />
          )}
          <div className="mt-3">
            <RuleForm rule={rule} names={pinned.table?.columns ?? []} onChange={setRule} />
          </div>
          <p className="mt-2 text-[12px] text-ink-2">
            The other rows are set aside: kept, and returned when you wish. Rows whose key is blank{" "}
            {rule.apart ? "anywhere" : "throughout"} repeat nothing.
          </p>
        </Page>
      }
      right={
        <Page
          side="right"
          title={found ? said(found.summary) : "Groups of equal rows"}
          sub={found && noKey(found.summary)}
          foot={posting.strip}
        >
          {posting.notices}
          {repeats.error && of && <ProblemNotice error={repeats.error} />}
          {unread !== undefined && unread > 0 && (
            <Notice tone="ochre">
              {count(unread, "row")} of these groups {unread === 1 ? "has" : "have"} no {rule.by} that reads; the others
              go before {unread === 1 ? "it" : "them"}.
            </Notice>
          )}
          {rule.key.length === 0 && (
            <Empty>Choose one or more columns on the left. The groups appear here before anything is set aside.</Empty>
          )}
          {of && repeats.isPending && <Loading what="Comparing rows…" />}
          {found && found.summary.repeats > 0 && <Groups found={found} keyColumns={rule.key} only={rule.only} />}
        </Page>
      }
    />
  );
}

function said(s: Schemas["RepeatSummary"]): string {
  if (s.repeats === 0) return "No row repeats another";
  return `${count(s.repeats, "repeat")} in ${count(s.groups, "group")}`;
}

function noKey(s: Schemas["RepeatSummary"]): string {
  const largest =
    s.repeats > 0 ? `The largest group has ${count(s.largest, "row")}.` : "Every row is the only one with its key.";
  return s.noKey > 0
    ? `${largest} ${count(s.noKey, "row")} without a key ${s.noKey === 1 ? "is" : "are"} left alone.`
    : largest;
}

/** Whether a column differs within some group that is shown. */
function differs(found: Schemas["Repeats"], at: number): boolean {
  return found.groups.some((g) => [...g.rows, g.kept].some((r) => r.cells[at] !== g.rows[0]?.cells[at]));
}

/** How many columns a group shows: the key's, then those that differ within a group, then the others. */
const shownColumns = 8;

function Groups({ found, keyColumns, only }: { found: Schemas["Repeats"]; keyColumns: string[]; only: Rule["only"] }) {
  const rest = found.columns.filter((c) => !keyColumns.includes(c));
  const differing = rest.filter((c) => differs(found, found.columns.indexOf(c)));
  const order = [...keyColumns, ...differing, ...rest.filter((c) => !differing.includes(c))].slice(0, shownColumns);
  const places = order.map((c) => found.columns.indexOf(c));
  return (
    <>
      <div className="overflow-x-auto">
        <table className="w-full">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="w-[1%] py-1 pr-3">
                <span className="sr-only">What becomes of the row</span>
              </th>
              {order.map((c) => (
                <th
                  key={c}
                  className={`max-w-[150px] truncate pr-3 ${keyColumns.includes(c) ? "font-semibold text-ink" : ""}`}
                  title={c}
                >
                  {c}
                </th>
              ))}
            </tr>
          </thead>
          {found.groups.map((g, i) => (
            <GroupRows key={i} group={g} places={places} keyCount={keyColumns.length} only={only} />
          ))}
        </table>
      </div>
      {found.summary.groups > found.groups.length && (
        <p className="mt-2 text-ink-2">
          The {n(found.groups.length)} largest of {count(found.summary.groups, "group")}.
        </p>
      )}
    </>
  );
}

interface GroupProps {
  group: Schemas["RepeatGroup"];
  places: number[];
  keyCount: number;
  only: Rule["only"];
}

function GroupRows({ group, places, keyCount, only }: GroupProps) {
  // The row that stays is shown, wherever in the group it stands.
  const listed = group.rows.some((row) => row.row === group.kept.row) ? group.rows : [...group.rows, group.kept];
  const more = group.size - listed.length;
  const rows: (Row | null)[] =
    more === 0 ? listed : listed === group.rows ? [...listed, null] : [...group.rows, null, group.kept];
  const first = group.rows[0];
  return (
    <tbody className="border-b border-rule">
      {rows.map((row, i) => {
        if (row === null) {
          return (
            <tr key={i}>
              <td colSpan={places.length + 1} className="py-0.5 text-[12px] text-ink-2">
                and {count(more, "row")} more
              </td>
            </tr>
          );
        }
        const kept = only === "repeats" || (only !== "unique" && row.row === group.kept.row);
        return (
          <tr key={i} className="h-[25px]">
            <td className={`pr-3 text-[12px] whitespace-nowrap ${kept ? "font-medium text-green" : "text-ink-2"}`}>
              {kept ? "kept" : "set aside"}
            </td>
            {places.map((at, c) => {
              const differs = c >= keyCount && row.cells[at] !== first?.cells[at];
              return (
                <td
                  key={at}
                  className={`max-w-[150px] truncate pr-3 ${differs ? "text-red" : kept ? "" : "text-ink-2"}`}
                >
                  <Value value={row.cells[at] ?? null} />
                </td>
              );
            })}
          </tr>
        );
      })}
    </tbody>
  );
}
