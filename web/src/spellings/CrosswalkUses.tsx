import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { ButtonLink } from "../design/Button";
import { Empty } from "../design/Notice";
import { Value } from "../design/Value";
import { count, n, share } from "../design/words";
import { columnPath } from "../shell/useBook";

interface Props {
  book: number;
  name: string;
  uses: Schemas["CrosswalkUse"][];
}

/** The columns a crosswalk is for: how far it knows them, what it would change, and the values it has never seen. */
export function CrosswalkUses({ book, name, uses }: Props) {
  if (uses.length === 0) return <Empty>No table of the book has a column of this name.</Empty>;
  return (
    <ul aria-label="Tables it is for">
      {uses.map((u) => (
        <li key={`${u.table} ${u.column}`} className="border-b border-rule py-2.5">
          <Use book={book} name={name} use={u} />
        </li>
      ))}
    </ul>
  );
}

function Use({ book, name, use }: { book: number; name: string; use: Schemas["CrosswalkUse"] }) {
  const k = use.coverage;
  const spellings =
    columnPath(book, use.table, "spellings", use.column) +
    (use.column === name ? "" : `&crosswalk=${encodeURIComponent(name)}`);
  const earlier = use.deliveries.slice(0, -1);
  return (
    <>
      <div className="flex items-baseline justify-between gap-3">
        <Link className="min-w-0 truncate font-medium underline-offset-2 hover:underline" to={spellings}>
          {use.column} of {use.name}
        </Link>
        <span className="shrink-0">
          {k.pending > 0 ? (
            <ButtonLink to={`${spellings}&accept=crosswalk`}>
              Bring up to date: {count(k.pending, "spelling")}, {count(k.pendingRows, "row")}
            </ButtonLink>
          ) : (
            <span className="text-[12px] text-green">up to date</span>
          )}
        </span>
      </div>
      <div className="mt-1 flex items-center gap-2.5 text-[12px]">
        <span className="relative h-[9px] w-40 shrink-0 border border-rule" aria-hidden>
          <span
            className="absolute inset-y-0 left-0 bg-ink-2"
            style={{ width: `${(100 * k.knownRows) / Math.max(k.rows, 1)}%` }}
          />
        </span>
        <span className="text-ink-2">
          knows {share(k.knownRows, k.rows)} of the rows, {n(k.known)} of {count(k.values, "value")}
          {earlier.length > 0 && `; of deliveries before: ${earlier.map((d) => share(d.knownRows, d.rows)).join(", ")}`}
        </span>
      </div>
      {use.unknown.length > 0 && (
        <p className="mt-1 truncate text-[12px]">
          <Link className="text-pencil underline" to={`${spellings}&accept=likeness&new=1`}>
            {count(use.unknown.length, "value")} never decided on
          </Link>
          <span className="text-ink-2">
            :{" "}
            {use.unknown.slice(0, 6).map((v, i) => (
              <span key={v.value}>
                {i > 0 && ", "}
                <Value value={v.value} /> ({n(v.rows)})
              </span>
            ))}
          </span>
        </p>
      )}
    </>
  );
}
