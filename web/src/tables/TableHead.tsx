import { useState, type ReactNode } from "react";
import { Link, NavLink, useSearchParams } from "react-router";
import type { Table } from "../api/client";
import { Button, ButtonLink } from "../design/Button";
import { count } from "../design/words";
import { tablePath } from "../shell/useBook";
import { PublishDialog } from "./PublishDialog";

const tab = ({ isActive }: { isActive: boolean }) =>
  `-mb-px border-b-2 pb-[6px] ${isActive ? "border-green font-semibold" : "border-transparent text-ink-2 hover:text-ink"}`;

/** The tabs of a table and what can be done with all of it. */
export function TableHead({ table, children }: { table: Table; children?: ReactNode }) {
  const [query, setQuery] = useSearchParams();
  const [asked, setAsked] = useState(false);
  const publishing = asked || query.has("publish");
  const close = () => {
    setAsked(false);
    if (query.has("publish")) setQuery({}, { replace: true });
  };
  const to = (rest = "") => tablePath(table.bookId, table.id, rest);
  return (
    <div className="mb-1 flex flex-wrap items-end gap-x-[15px] gap-y-1 border-b border-rule">
      <NavLink end to={to()} className={tab}>
        Columns
      </NavLink>
      <NavLink to={to("/rows")} className={tab}>
        Rows
      </NavLink>
      <NavLink to={to("/cross")} className={tab}>
        Cross
      </NavLink>
      <NavLink to={to("/keys")} className={tab}>
        Keys
      </NavLink>
      <NavLink to={to("/conditions")} className={tab}>
        Conditions
      </NavLink>
      <NavLink to={to("/journal")} className={tab}>
        Journal
      </NavLink>
      <div className="ml-auto flex gap-1.5 pb-1.5">
        {children}
        <ButtonLink to={to("/shape")}>Shape</ButtonLink>
        <ButtonLink to={to("/duplicates")}>Duplicates</ButtonLink>
        <ButtonLink to={`/books/${table.bookId}/join?left=${table.id}`}>Join</ButtonLink>
        <Button kind="small" onClick={() => setAsked(true)}>
          Publish
        </Button>
      </div>
      <PublishDialog table={table} open={publishing} onClose={close} />
    </div>
  );
}

/** What stands under a table's title, and the way to its next delivery. */
export function TableSub({ table: t }: { table: Table }) {
  const done = t.entries === 0 ? "No entry posted yet." : `${count(t.entries, "entry", "entries")} posted.`;
  return (
    <>
      {count(t.rows, "row")} and {count(t.columns.length, "column")}. {t.source.replace(/\.?$/, ".")} {done}{" "}
      {t.copyOf !== undefined && (
        <>
          <Link
            className="text-pencil underline underline-offset-2"
            to={`/books/${t.bookId}/comparison?before=${t.copyOf}&after=${t.id}`}
          >
            Compare
          </Link>{" "}
          {t.apart && (
            <Link
              className="text-pencil underline underline-offset-2"
              to={tablePath(t.bookId, t.copyOf, `/shape?do=putback&table=${encodeURIComponent(t.name)}`)}
            >
              Put back
            </Link>
          )}
        </>
      )}
      {!t.consolidated && t.copyOf === undefined && (
        <Link className="text-pencil underline underline-offset-2" to={tablePath(t.bookId, t.id, "/refresh")}>
          Refresh
        </Link>
      )}{" "}
      <Link className="text-pencil underline underline-offset-2" to={tablePath(t.bookId, t.id, "/watches")}>
        Watches
      </Link>
    </>
  );
}
