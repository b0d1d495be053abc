import { useDeferredValue, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Group, Rung, Schemas } from "../api/client";
import { useApart, useSpellings, type Draft } from "../api/queries";
import { Button, ButtonLink } from "../design/Button";
import { Check } from "../design/Field";
import { Keys, useKeys } from "../design/Keys";
import { Empty, Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count } from "../design/words";
import { columnPath, useBook } from "../shell/useBook";
import { usePosting } from "../tables/PostBar";
import { usePinned } from "../tables/usePinned";
import { ExampleRows } from "./ExampleRows";
import { GroupList } from "./GroupList";
import { GroupPage } from "./GroupPage";
import { Ladder } from "./Ladder";
import { rungs } from "./rungs";
import { useGroupDecisions, type Order } from "./useGroupDecisions";

/** Variant spellings of a column: groups with their evidence, taken or left, posted as one entry and remembered. */
export function SpellingsPage() {
  const { book, table } = useBook();
  const [query] = useSearchParams();
  const column = query.get("column") ?? "";
  const asked = query.get("accept");
  const pinned = usePinned(table);
  const [accept, setAccept] = useState<Rung>(asked !== null && asked in rungs ? (asked as Rung) : "order");
  const [kind, setKind] = useState<Schemas["ColumnKind"]>("free");
  const [order, setOrder] = useState<Order>("rows");
  const [onlyNew, setOnlyNew] = useState(query.get("new") === "1");
  const [into, setInto] = useState(false);
  const [crosswalk, setCrosswalk] = useState(query.get("crosswalk") ?? "");
  const spellings = useSpellings(table, pinned.revision, column, accept, kind, crosswalk);
  const { data } = spellings;
  const decisions = useGroupDecisions(data?.groups ?? [], order, onlyNew);
  const { groups, changes } = decisions;
  const [chosen, choose] = useState(0);
  const [member, setMember] = useState(0);
  const [moving, setMoving] = useState<string>();
  const [examples, setExamples] = useState(false);
  const editor = useRef<HTMLInputElement>(null);
  const apart = useApart(book, data?.crosswalk ?? column);

  const at = Math.min(chosen, Math.max(groups.length - 1, 0));
  const group = groups[at];
  const draft: Draft | null =
    pinned.revision !== undefined && data && changes.length > 0 && !spellings.isPlaceholderData
      ? {
          revision: pinned.revision,
          kind: "values",
          params: { column, crosswalk: data.crosswalk, changes, into: into ? `${column}, standard` : undefined },
        }
      : null;
  const posting = usePosting({
    pinned,
    draft: useDeferredValue(draft),
    whole: true,
    idle: groups.length > 0 ? "Take at least one group" : "Nothing to post",
    onPosted: () => {
      decisions.forget();
      choose(0);
    },
  });
  const doubtful = groups.filter((g) => g.doubt !== "" && !decisions.isTaken(g)).length;
  const move = (to: number) => {
    choose(Math.min(Math.max(to, 0), groups.length - 1));
    setMember(0);
    setMoving(undefined);
  };
  const others = group?.members.filter((m) => m.value !== group.standard) ?? [];
  const current = others[member]?.value;
  const keepApart = (value: string | undefined) => {
    if (group && value !== undefined && value !== group.standard) apart.mutate({ value, other: group.standard });
  };
  const nextDoubtful = () => {
    const later = groups.findIndex((g, i) => i > at && g.doubt !== "");
    const next = later >= 0 ? later : groups.findIndex((g) => g.doubt !== "");
    if (next >= 0) move(next);
  };
  useKeys({
    ArrowDown: () => move(at + 1),
    ArrowUp: () => move(at - 1),
    ArrowRight: () => setMember(Math.min(member + 1, others.length - 1)),
    ArrowLeft: () => setMember(Math.max(member - 1, 0)),
    " ": () => group && decisions.take(group, !decisions.isTaken(group)),
    e: () => editor.current?.select(),
    g: () => editor.current?.select(),
    a: () => keepApart(current),
    m: () => setMoving(current),
    r: () => setExamples(!examples),
    d: nextDoubtful,
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
          sub={data && said(data, groups, doubtful)}
          foot={
            <Keys
              keys={[
                [["↑", "↓"], "group"],
                [["Space"], "take or leave"],
                [["D"], "next doubtful"],
                [["E"], "edit"],
                [["G"], "merge"],
                [["←", "→"], "spelling"],
                [["A"], "keep apart"],
                [["M"], "move"],
                [["R"], "rows"],
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
          {data && (
            <Ladder
              {...{ book, data, accept, kind, order, onlyNew, column }}
              onAccept={setAccept}
              onCrosswalk={setCrosswalk}
              onKind={setKind}
              onOrder={setOrder}
              onOnlyNew={setOnlyNew}
            />
          )}
          {data?.passed && (
            <p className="mb-2 text-ochre">Short forms, slips, sound and likeness are passed over: {data.passed}.</p>
          )}
          {spellings.isPending && !spellings.error && <Loading what="Comparing every distinct value…" />}
          {data && groups.length === 0 && <NoGroups book={book} table={table} column={column} />}
          {groups.length > 0 && (
            <GroupList
              name={[table, pinned.revision, column, accept, kind, crosswalk, order, onlyNew, spellings.dataUpdatedAt]}
              decisions={decisions}
              at={at}
              onChoose={move}
            />
          )}
        </Page>
      }
      right={
        <GroupPage
          key={group ? `${spellings.dataUpdatedAt} ${group.standard}` : "none"}
          group={group}
          decisions={decisions}
          member={current}
          onMember={(value) =>
            setMember(
              Math.max(
                0,
                others.findIndex((m) => m.value === value),
              ),
            )
          }
          onKeepApart={keepApart}
          moving={moving}
          onMoving={setMoving}
          editor={editor}
          examples={
            group && (
              <>
                <Button kind="quiet" className="mt-2" aria-expanded={examples} onClick={() => setExamples(!examples)}>
                  {examples ? "Hide the rows" : "Show rows with this spelling"}
                </Button>
                <div className="mt-1">
                  <Check checked={into} onChange={setInto}>
                    <span className="text-[12px] text-ink-2">
                      Into a new column “{column}, standard”, and {column} stays as it is
                    </span>
                  </Check>
                </div>
                {examples && (
                  <ExampleRows {...{ table, column }} revision={pinned.revision} value={current ?? group.standard} />
                )}
              </>
            )
          }
          notices={posting.notices}
          strip={posting.strip}
        />
      }
    />
  );
}

function said(data: Schemas["Spellings"], groups: Group[], doubtful: number): string {
  const values = count(data.values, "distinct value");
  if (groups.length === 0) return `${values}.`;
  const looks = groups.length === 1 ? "One group looks" : `${count(groups.length, "group")} look`;
  const waiting =
    doubtful > 0 ? ` ${count(doubtful, "doubtful one waits", "doubtful ones wait")} to be looked at.` : "";
  return `${values}. ${looks} like one value written several ways.${waiting}`;
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
