import type { ReactNode, RefObject } from "react";
import type { Group } from "../api/client";
import { Input, Labelled } from "../design/Field";
import { Heading, Page } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { Members } from "./Members";
import type { GroupDecisions } from "./useGroupDecisions";

interface Props {
  group: Group | undefined;
  decisions: GroupDecisions;
  /** The spelling the keyboard is on. */
  member: string | undefined;
  onMember: (value: string) => void;
  onKeepApart: (value: string) => void;
  moving: string | undefined;
  onMoving: (value: string | undefined) => void;
  editor: RefObject<HTMLInputElement | null>;
  examples: ReactNode;
  notices: ReactNode;
  strip: ReactNode;
}

/** The right page of spellings: one group, spelling by spelling with the evidence for each, and what the column will be. */
export function GroupPage(p: Props) {
  const { group, decisions } = p;
  if (!group) {
    return (
      <Page side="right" title="Nothing to decide" foot={p.strip}>
        {p.notices}
      </Page>
    );
  }
  const standard = decisions.standardOf(group);
  const taken = decisions.isTaken(group);
  const becoming = group.members.filter((m) => m.value !== decisions.goesTo(group, m.value));
  const merged = decisions.groups.find((g) => g !== group && decisions.standardOf(g) === standard);
  return (
    <Page
      side="right"
      title={<Value value={standard} />}
      sub={
        taken
          ? `${count(becoming.length, "spelling")} ${becoming.length === 1 ? "becomes" : "become"} this one. Nothing changes until you post.`
          : "Left as it is: this group is not taken."
      }
      foot={p.strip}
    >
      {p.notices}
      {group.doubt && (
        <p className="mb-2 text-ochre">
          <span className="font-semibold">Doubtful:</span> {group.doubt}.
        </p>
      )}
      <Labelled label="Standard value; another group’s value merges the two">
        <Input
          ref={p.editor}
          value={standard}
          onChange={(e) => decisions.setStandard(group, e.target.value)}
          className={taken ? "text-pencil" : ""}
          list="spellings-of-group"
        />
      </Labelled>
      {merged && (
        <p className="mt-1 text-[12px] text-pencil">
          Merged with the other group of this value, {count(merged.members.length, "spelling")}.
        </p>
      )}
      <datalist id="spellings-of-group">
        {group.members.slice(0, 50).map((m) => (
          <option key={m.value} value={m.value} />
        ))}
        {decisions.groups.slice(0, 300).map((g) => (
          <option key={`of ${g.standard}`} value={decisions.standardOf(g)} />
        ))}
      </datalist>
      <Members {...p} group={group} />
      {group.held.length > 0 && (
        <>
          <Heading>Written alike, held apart</Heading>
          <ul aria-label="Held apart">
            {group.held.map((h) => (
              <li key={h.value} className="flex gap-2 border-b border-rule-2 py-0.5">
                <span className="w-[34%] shrink-0 truncate">
                  <Value value={h.value} />
                </span>
                <span className="w-[13%] shrink-0 text-right">{n(h.rows)}</span>
                <span className="truncate text-ink-2" title={h.why}>
                  {h.why}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      {p.examples}
      <Picture groups={decisions.takenGroups} standardOf={decisions.standardOf} />
    </Page>
  );
}

/** Rows under each standard value today, and after posting. */
function Picture({ groups, standardOf }: { groups: Group[]; standardOf: (g: Group) => string }) {
  const top = groups.slice(0, 8);
  if (top.length === 0) return null;
  const most = Math.max(...top.map((g) => g.rows), 1);
  return (
    <>
      <Heading>What the column will look like</Heading>
      <div className="grid grid-cols-[minmax(80px,130px)_1fr_60px] items-center gap-x-2.5 gap-y-1.5 text-[12.5px]">
        {top.map((g) => {
          const today = g.members.find((m) => m.value === standardOf(g))?.rows ?? 0;
          return (
            <div key={g.standard} className="contents">
              <span className="truncate">
                <Value value={standardOf(g)} />
              </span>
              <span className="relative h-[9px]" aria-hidden>
                <span
                  className="absolute inset-y-0 left-0 border border-dashed border-pencil bg-pencil-bg"
                  style={{ width: `${(100 * g.rows) / most}%` }}
                />
                <span className="absolute inset-y-0 left-0 bg-ink-2" style={{ width: `${(100 * today) / most}%` }} />
              </span>
              <span className="text-right">
                <span className="sr-only">{n(today)} rows today, then </span>
                {n(g.rows)}
              </span>
            </div>
          );
        })}
      </div>
      <p className="mt-2 text-[12px] text-ink-2">Solid: rows under this spelling today. Dashed: after posting.</p>
    </>
  );
}
