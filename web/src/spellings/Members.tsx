import type { Group } from "../api/client";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { Value } from "../design/Value";
import { n } from "../design/words";
import type { GroupDecisions } from "./useGroupDecisions";

interface Props {
  group: Group;
  decisions: GroupDecisions;
  /** The spelling the keyboard is on. */
  member: string | undefined;
  onMember: (value: string) => void;
  onKeepApart: (value: string) => void;
  /** The spelling that is being moved to another standard value. */
  moving: string | undefined;
  onMoving: (value: string | undefined) => void;
}

const shown = 200;

/** The spellings of a group with the evidence for each, and what other columns of their rows say. */
export function Members({ group, decisions, member, onMember, onKeepApart, moving, onMoving }: Props) {
  const taken = decisions.isTaken(group);
  return (
    <>
      <table className="mt-3 w-full table-fixed">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            <th className="w-[27%] py-1">Written as</th>
            <th className="w-[9%] text-right">Rows</th>
            <th className="pl-3">Why it is here</th>
            <th className="w-[138px]" />
          </tr>
        </thead>
        <tbody>
          {group.members.slice(0, shown).map((m) => {
            const own = m.value === group.standard;
            const to = decisions.goesTo(group, m.value);
            return (
              <tr
                key={m.value}
                className={`h-[31px] border-b border-rule-2 ${m.value === member ? "bg-pencil-bg" : ""}`}
                onClick={() => onMember(m.value)}
              >
                <td className="truncate pr-2">
                  <Value value={m.value} className={m.value === to ? "font-semibold" : taken ? "struck" : ""} />
                </td>
                <td className="text-right">{n(m.rows)}</td>
                <td
                  className="truncate pl-3"
                  colSpan={m.value === member && !own && moving !== m.value ? 1 : 2}
                  title={[m.why, ...(m.for ?? []), ...(m.against ?? [])].join("; ")}
                >
                  {moving === m.value ? (
                    <MoveTo
                      value={to}
                      options={decisions.groups.slice(0, 300).map((g) => decisions.standardOf(g))}
                      onDone={(next) => {
                        if (next !== undefined) decisions.move(group, m.value, next);
                        onMoving(undefined);
                      }}
                    />
                  ) : to !== decisions.standardOf(group) ? (
                    <>
                      goes to <Value value={to} className="pencilled" />
                    </>
                  ) : (
                    <>
                      <span className={own ? "text-ink-2" : ""}>{own ? "most used of the tidy ones" : m.why}</span>
                      {m.for?.[0] && <span className="text-green">; {m.for.join(", ")}</span>}
                      {m.against?.[0] && <span className="text-red">; {m.against.join(", ")}</span>}
                    </>
                  )}
                </td>
                {m.value === member && !own && moving !== m.value && (
                  <td className="text-right whitespace-nowrap">
                    <Button kind="quiet" onClick={() => onMoving(m.value)}>
                      Move
                    </Button>{" "}
                    <Button kind="small" onClick={() => onKeepApart(m.value)}>
                      Keep apart
                    </Button>
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
      {group.members.length > shown && (
        <p className="pt-1 text-ink-2">and {n(group.members.length - shown)} more spellings</p>
      )}
    </>
  );
}

function MoveTo(p: { value: string; options: string[]; onDone: (to: string | undefined) => void }) {
  return (
    <>
      <Input
        autoFocus
        aria-label="Standard value it goes to"
        className="w-full"
        list="standard-values"
        defaultValue={p.value}
        onFocus={(e) => e.target.select()}
        onBlur={(e) => p.onDone(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") p.onDone(undefined);
        }}
      />
      <datalist id="standard-values">
        {p.options.map((o) => (
          <option key={o} value={o} />
        ))}
      </datalist>
    </>
  );
}
