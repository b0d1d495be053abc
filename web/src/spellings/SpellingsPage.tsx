import { useDeferredValue, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Group, Rung, Schemas } from "../api/client";
import { useApart, useSpellings, type Draft } from "../api/queries";
import { Button, ButtonLink } from "../design/Button";
import { Check, Segments, Select } from "../design/Field";
import { Keys, useKeys } from "../design/Keys";
import { Empty, Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { VirtualList } from "../design/VirtualList";
import { count, n } from "../design/words";
import { columnPath, useBook } from "../shell/useBook";
import { usePosting } from "../tables/PostBar";
import { usePinned } from "../tables/usePinned";
import { GroupPage } from "./GroupPage";
import { rungs } from "./rungs";

/** Variant spellings of a column: groups with their evidence, taken or left, posted as one entry and remembered. */
export function SpellingsPage() {
  const { book, table } = useBook();
  const [query] = useSearchParams();
  const column = query.get("column") ?? "";
  const pinned = usePinned(table);
  const [accept, setAccept] = useState<Rung>("order");
  const [kind, setKind] = useState<Schemas["ColumnKind"]>("free");
  const spellings = useSpellings(table, pinned.revision, column, accept, kind);
  const { data } = spellings;
  const [left, setLeft] = useState<Set<string>>(new Set());
  const [standards, setStandards] = useState<Map<string, string>>(new Map());
  const [chosen, choose] = useState(0);
  const [member, setMember] = useState(0);
  const editor = useRef<HTMLInputElement>(null);
  const apart = useApart(book, data?.crosswalk ?? column);

  const groups = data?.groups ?? [];
  const at = Math.min(chosen, Math.max(groups.length - 1, 0));
  const group = groups[at];
  const standardOf = (g: Group) => standards.get(g.standard) ?? g.standard;
  const taken = groups.filter((g) => !left.has(g.standard) && standardOf(g).trim() !== "");
  const changes = taken.flatMap((g) =>
    g.members
      .filter((m) => m.value !== standardOf(g))
      .map((m) => ({ from: m.value, to: standardOf(g), why: m.why || "another standard value chosen" })),
  );
  const draft: Draft | null =
    pinned.revision !== undefined && data && changes.length > 0 && !spellings.isPlaceholderData
      ? { revision: pinned.revision, kind: "values", params: { column, crosswalk: data.crosswalk, changes } }
      : null;
  const posting = usePosting({
    pinned,
    draft: useDeferredValue(draft),
    whole: true,
    idle: groups.length > 0 ? "Take at least one group" : "Nothing to post",
    onPosted: () => {
      setLeft(new Set());
      setStandards(new Map());
      choose(0);
    },
  });
  const take = (g: Group | undefined, on: boolean) => {
    if (!g) return;
    const next = new Set(left);
    if (on) next.delete(g.standard);
    else next.add(g.standard);
    setLeft(next);
  };
  const move = (to: number) => {
    choose(Math.min(Math.max(to, 0), groups.length - 1));
    setMember(0);
  };
  const others = group?.members.filter((m) => m.value !== group.standard) ?? [];
  const keepApart = (value: string | undefined) => {
    if (group && value !== undefined && value !== group.standard) apart.mutate({ value, other: group.standard });
  };
  useKeys({
    ArrowDown: () => move(at + 1),
    ArrowUp: () => move(at - 1),
    ArrowRight: () => setMember(Math.min(member + 1, others.length - 1)),
    ArrowLeft: () => setMember(Math.max(member - 1, 0)),
    " ": () => take(group, group !== undefined && left.has(group.standard)),
    e: () => editor.current?.select(),
    a: () => keepApart(others[member]?.value),
  });
  const last = apart.isSuccess && !apart.variables.withdraw ? apart.variables : undefined;
  return (
    <Spread
      widths="6fr 5fr"
      left={
        <Page
          side="left"
          title={`Variant spellings of ${column}`}
          tab={`Variant spellings of ${column}`}
          sub={data && said(data, groups.length)}
          foot={
            <Keys
              keys={[
                [["↑", "↓"], "group"],
                [["Space"], "take or leave"],
                [["E"], "edit"],
                [["←", "→"], "spelling"],
                [["A"], "keep apart"],
              ]}
            />
          }
        >
          {(pinned.error ?? spellings.error ?? apart.error) && (
            <ProblemNotice error={pinned.error ?? spellings.error ?? apart.error} />
          )}
          {last && (
            <Notice tone="green">
              “{last.value}” and “{last.other}” are kept apart, here and in every later table.{" "}
              <Button kind="quiet" onClick={() => apart.mutate({ ...last, withdraw: true })}>
                Take that back
              </Button>
            </Notice>
          )}
          {data && <Ladder data={data} accept={accept} onAccept={setAccept} kind={kind} onKind={setKind} />}
          {data?.passed && (
            <p className="mb-2 text-ochre">Short forms, slips, sound and likeness are passed over: {data.passed}.</p>
          )}
          {spellings.isPending && !spellings.error && <Loading what="Comparing every distinct value…" />}
          {data && groups.length === 0 && <NoGroups book={book} table={table} column={column} />}
          {groups.length > 0 && (
            <VirtualList<Group>
              name={["groups", table, pinned.revision, column, accept, kind, spellings.dataUpdatedAt]}
              total={groups.length}
              page={(from, number) => Promise.resolve(groups.slice(from, from + number))}
              label="Groups of spellings"
              selected={at}
              scrollTo={at}
              header={
                <div className="sticky top-0 z-10 grid grid-cols-[26px_1fr_90px_70px_130px] border-b border-ink bg-paper py-1 text-[12px] text-ink-2">
                  <span />
                  <span>Standard value</span>
                  <span>Written as</span>
                  <span className="text-right">Rows</span>
                  <span className="pl-4">Weakest evidence</span>
                </div>
              }
              line={(g, i) => {
                const on = !left.has(g.standard);
                return (
                  <div
                    className="grid h-full cursor-pointer grid-cols-[26px_1fr_90px_70px_130px] items-center hover:bg-paper-2"
                    onClick={() => move(i)}
                  >
                    <Check checked={on} onChange={(v) => take(g, v)} label={`Take ${g.standard}`} />
                    <span role="gridcell" className="truncate pr-3">
                      <Value value={standardOf(g)} className={on ? "pencilled" : "text-ink-2"} />
                    </span>
                    <span role="gridcell">{count(g.members.length, "spelling")}</span>
                    <span role="gridcell" className="text-right">
                      {n(g.rows)}
                    </span>
                    <span role="gridcell" className="truncate pl-4">
                      {rungs[g.weakest]}
                    </span>
                  </div>
                );
              }}
            />
          )}
        </Page>
      }
      right={
        <GroupPage
          key={group ? `${spellings.dataUpdatedAt} ${group.standard}` : "none"}
          group={group}
          groups={taken}
          standard={group ? standardOf(group) : ""}
          standardOf={standardOf}
          onStandard={(v) => group && setStandards(new Map(standards).set(group.standard, v))}
          taken={group ? !left.has(group.standard) : false}
          member={others[member]?.value}
          onKeepApart={keepApart}
          editor={editor}
          notices={posting.notices}
          strip={posting.strip}
        />
      }
    />
  );
}

function said(data: Schemas["Spellings"], groups: number): string {
  const values = count(data.values, "distinct value");
  if (groups === 0) return `${values}.`;
  return `${values}. ${groups === 1 ? "One group looks" : `${n(groups)} groups look`} like one value written several ways.`;
}

interface LadderProps {
  data: Schemas["Spellings"];
  accept: Rung;
  onAccept: (rung: Rung) => void;
  kind: Schemas["ColumnKind"];
  onKind: (kind: Schemas["ColumnKind"]) => void;
}

const kinds: { value: Schemas["ColumnKind"]; name: string }[] = [
  { value: "free", name: "of any kind" },
  { value: "person", name: "people" },
  { value: "organisation", name: "organisations" },
  { value: "place", name: "places" },
  { value: "address", name: "addresses" },
  { value: "product", name: "products" },
];

/** How far down the ladder of evidence to accept, and what each further rung adds. */
function Ladder({ data, accept, onAccept, kind, onKind }: LadderProps) {
  const total = data.rungs.find((r) => r.rung === accept);
  const before = data.rungs[data.rungs.findIndex((r) => r.rung === accept) - 1];
  return (
    <div className="mb-2">
      <div className="flex flex-wrap items-center gap-x-2.5 gap-y-1">
        <span className="text-[12px] text-ink-2">Accept down to</span>
        <Segments
          upTo
          label="Accept evidence down to"
          value={accept}
          options={data.rungs.map((r) => ({ value: r.rung, name: rungs[r.rung] }))}
          onChange={onAccept}
        />
        <span className="text-[12px] text-ink-2">Values are</span>
        <Select
          label="What the values are"
          value={kind}
          options={kinds}
          onChange={(v) => onKind(v as Schemas["ColumnKind"])}
          className="w-32"
        />
      </div>
      {total && (
        <p className="mt-1 text-[12px] text-ink-2" aria-live="polite">
          {count(total.spellings, "spelling")} in {count(total.rows, "row")} would change
          {before &&
            total.spellings > before.spellings &&
            `; this rung adds ${count(total.spellings - before.spellings, "spelling")}`}
          .
        </p>
      )}
    </div>
  );
}

function NoGroups({ book, table, column }: { book: number; table: number; column: string }) {
  return (
    <Empty>
      <p className="mb-3">No two values of {column} look like one thing on this evidence.</p>
      <p className="flex justify-center gap-2">
        <ButtonLink to={columnPath(book, table, "tally", column)}>Open its tally</ButtonLink>
        <Link className="text-pencil underline" to={`/books/${book}/crosswalk?name=${encodeURIComponent(column)}`}>
          See the crosswalk
        </Link>
      </p>
    </Empty>
  );
}
