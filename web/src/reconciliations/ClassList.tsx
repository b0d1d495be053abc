import type { Schemas } from "../api/client";
import { figure, n } from "../design/words";

interface Props {
  statement: Schemas["Statement"];
  ours: string;
  theirs: string;
  chosen: string;
  onChoose: (name: string) => void;
}

/** The statement: from our balance down to theirs, every class of difference with its count and sum, and what is left unexplained. */
export function ClassList({ statement, ours, theirs, chosen, onChoose }: Props) {
  const line = "flex items-baseline justify-between gap-3 border-b border-rule-2 py-1";
  return (
    <section aria-label="Statement" className="shrink-0">
      <p className={line}>
        <span className="min-w-0 truncate">Balance of {ours}</span>
        <span className="font-serif text-[15px]">{figure(statement.ours)}</span>
      </p>
      {statement.classes.map((c) => (
        <button
          key={c.class}
          type="button"
          aria-pressed={c.class === chosen}
          onClick={() => onChoose(c.class)}
          className={`${line} w-full pl-4 text-left ${c.class === chosen ? "bg-pencil-bg" : "hover:bg-paper-2"}`}
        >
          <span className="min-w-0 truncate">
            {c.class} <span className="text-ink-2">({n(c.count)})</span>
          </span>
          <Step difference={c.difference} />
        </button>
      ))}
      <p className={line}>
        <span className="min-w-0 truncate">Balance of {theirs}</span>
        <span className="ruled-off font-serif text-[15px] font-semibold">{figure(statement.theirs)}</span>
      </p>
      <p className="flex justify-between gap-3 pt-1 text-[12px] text-green">
        <span>Unexplained</span>
        <span>{figure(statement.unexplained)}</span>
      </p>
      {statement.untried > 0 && (
        <p className="text-[12px] text-ochre">
          {n(statement.untried)} items lie among too many others for all sums of several to be tried.
        </p>
      )}
      {(statement.unread[0] ?? 0) + (statement.unread[1] ?? 0) > 0 && (
        <p className="text-[12px] text-ochre">
          {n((statement.unread[0] ?? 0) + (statement.unread[1] ?? 0))} amounts do not read; their lines are no items.
        </p>
      )}
    </section>
  );
}

/** What a class, or a set, takes from our balance, or adds, on the way to theirs; difference is ours less theirs. */
export function Step({ difference }: { difference: string }) {
  if (/^-?0(\.0*)?$/.test(difference)) return <span className="text-ink-2">{difference}</span>;
  const adds = difference.startsWith("-");
  return (
    <span className={adds ? "" : "text-red"}>
      {adds ? "+" : "−"}
      {figure(difference.replace("-", ""))}
    </span>
  );
}
