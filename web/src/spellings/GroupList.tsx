import type { Group } from "../api/client";
import { Check } from "../design/Field";
import { Value } from "../design/Value";
import { VirtualList } from "../design/VirtualList";
import { count, n } from "../design/words";
import { rungs } from "./rungs";
import type { GroupDecisions } from "./useGroupDecisions";

interface Props {
  name: unknown[];
  decisions: GroupDecisions;
  at: number;
  onChoose: (at: number) => void;
}

const columns = "grid-cols-[26px_1fr_90px_70px_150px]";

/** The groups of a column, taken or left. */
export function GroupList({ name, decisions, at, onChoose }: Props) {
  const { groups } = decisions;
  return (
    <VirtualList<Group>
      name={["groups", ...name]}
      total={groups.length}
      page={(from, number) => Promise.resolve(groups.slice(from, from + number))}
      label="Groups of spellings"
      selected={at}
      scrollTo={at}
      header={
        <div className={`sticky top-0 z-10 grid ${columns} border-b border-ink bg-paper py-1 text-[12px] text-ink-2`}>
          <span />
          <span>Standard value</span>
          <span>Written as</span>
          <span className="text-right">Rows</span>
          <span className="pl-4">Weakest evidence</span>
        </div>
      }
      line={(g, i) => {
        const on = decisions.isTaken(g);
        return (
          <div
            className={`grid h-full cursor-pointer ${columns} items-center hover:bg-paper-2`}
            onClick={() => onChoose(i)}
          >
            <Check checked={on} onChange={(v) => decisions.take(g, v)} label={`Take ${g.standard}`} />
            <span role="gridcell" className="truncate pr-3">
              <Value value={decisions.standardOf(g)} className={on ? "pencilled" : "text-ink-2"} />
            </span>
            <span role="gridcell">{count(g.members.length, "spelling")}</span>
            <span role="gridcell" className="text-right">
              {n(g.rows)}
            </span>
            <span role="gridcell" className="truncate pl-4" title={g.doubt || undefined}>
              {rungs[g.weakest]}
              {g.doubt && <span className="text-ochre">, doubtful</span>}
            </span>
          </div>
        );
      }}
    />
  );
}
