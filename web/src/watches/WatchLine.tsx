import { Link } from "react-router";
import type { Table } from "../api/client";
import { count, n } from "../design/words";
import { tablePath } from "../shell/useBook";
import { useWatches } from "./useWatches";

/** What the watches of a table come to, in one line; nothing where there are none. */
export function WatchLine({ table }: { table: Table }) {
  const watches = useWatches(table.id, table.revision).data ?? [];
  if (watches.length === 0) return null;
  const broken = watches.filter((w) => !w.finding?.holds);
  const to = tablePath(table.bookId, table.id, "/watches");
  return (
    <p className="py-1.5" aria-label="Watches">
      <Link className={`hover:underline ${broken.length === 0 ? "text-green" : "text-red"}`} to={to}>
        {broken.length === 0
          ? `${watches.length === 1 ? "Its watch holds" : `All ${count(watches.length, "watch", "watches")} hold`}.`
          : `${n(broken.length)} of ${count(watches.length, "watch", "watches")} ${broken.length === 1 ? "does not hold" : "do not hold"}: ${broken[0]!.words}${broken.length > 1 ? ", …" : "."}`}
      </Link>
    </p>
  );
}
