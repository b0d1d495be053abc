import type { ReactNode, RefObject } from "react";
import type { Group } from "../api/client";
import { Button } from "../design/Button";
import { Input, Labelled } from "../design/Field";
import { Heading, Page } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";

interface Props {
  group: Group | undefined;
  /** The groups that are taken, for the picture of the column. */
  groups: Group[];
  standard: string;
  standardOf: (g: Group) => string;
  onStandard: (value: string) => void;
  taken: boolean;
  /** The spelling the keyboard is on. */
  member: string | undefined;
  onKeepApart: (value: string) => void;
  editor: RefObject<HTMLInputElement | null>;
  notices: ReactNode;
  strip: ReactNode;
}

/** The right page of spellings: one group, spelling by spelling with the evidence for each, and what the column will be. */
export function GroupPage(p: Props) {
  const { group, standard } = p;
  if (!group) {
    return (
      <Page side="right" title="Nothing to decide" foot={p.strip}>
        {p.notices}
      </Page>
    );
  }
  const becoming = group.members.filter((m) => m.value !== standard);
  return (
    <Page
      side="right"
      title={<Value value={standard} />}
      sub={
        p.taken
          ? `${count(becoming.length, "spelling")} ${becoming.length === 1 ? "becomes" : "become"} this one. Nothing changes until you post.`
          : "Left as it is: this group is not taken."
      }
      foot={p.strip}
    >
      {p.notices}
      <Labelled label="Standard value">
        <Input
          ref={p.editor}
          value={standard}
          onChange={(e) => p.onStandard(e.target.value)}
          className={p.taken ? "text-pencil" : ""}
          list="spellings-of-group"
        />
      </Labelled>
      <datalist id="spellings-of-group">
        {group.members.slice(0, 50).map((m) => (
          <option key={m.value} value={m.value} />
        ))}
      </datalist>
      <table className="mt-3 w-full table-fixed">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            <th className="w-[27%] py-1">Written as</th>
            <th className="w-[10%] text-right">Rows</th>
            <th className="pl-3">Why it is here</th>
            <th className="w-[96px]" />
          </tr>
        </thead>
        <tbody>
          {group.members.slice(0, 200).map((m) => {
            const own = m.value === group.standard;
            return (
              <tr
                key={m.value}
                className={`h-[31px] border-b border-rule-2 ${m.value === p.member ? "bg-pencil-bg" : ""}`}
              >
                <td className="truncate pr-2">
                  <Value value={m.value} className={m.value === standard ? "font-semibold" : p.taken ? "struck" : ""} />
                </td>
                <td className="text-right">{n(m.rows)}</td>
                <td className={`truncate pl-3 ${own ? "text-ink-2" : ""}`} title={m.why}>
                  {own ? "most used of the tidy ones" : m.why}
                </td>
                <td className="text-right">
                  {!own && (
                    <Button kind="small" onClick={() => p.onKeepApart(m.value)}>
                      Keep apart
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {group.members.length > 200 && (
        <p className="pt-1 text-ink-2">and {n(group.members.length - 200)} more spellings</p>
      )}
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
      <Picture groups={p.groups} standardOf={p.standardOf} />
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
