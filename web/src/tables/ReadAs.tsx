import type { Profile, Table } from "../api/client";
import { ButtonLink } from "../design/Button";
import { n } from "../design/words";
import { columnPath } from "../shell/useBook";

/** How a column is read, and the way to say otherwise. */
export function ReadAs({ table, profile: p }: { table: Table; profile: Profile }) {
  return (
    <div className="mb-3 flex items-baseline gap-2 border-b border-rule-2 pb-2">
      <span className="shrink-0 text-[12px] text-ink-2">Read as</span>
      <span className={`min-w-0 ${p.declared ? "" : "pencilled"}`}>{p.readAs}</span>
      {p.asks > 0 && <span className="text-[12px] text-ochre">{n(p.asks)} rows could be read two ways</span>}
      <ButtonLink className="ml-auto shrink-0" to={columnPath(table.bookId, table.id, "reading", p.column)}>
        {p.asks > 0 ? "Answer" : p.declared ? "Change" : "Reading"}
      </ButtonLink>
    </div>
  );
}
