import type { ReactNode } from "react";
import { NavLink } from "react-router";
import { useContents } from "../api/queries";
import { n } from "../design/words";
import { ChooseFile } from "./DropZone";

const entry = "flex justify-between gap-2 rounded-l-[3px] py-[3px] pr-3 pl-6 text-ink hover:bg-paper/50";
const current = ({ isActive }: { isActive: boolean }) => `${entry} ${isActive ? "bg-paper! font-semibold" : ""}`;

/** The contents of the book: chapters in the order of the work, with what each holds. */
export function Contents({ book }: { book: number }) {
  const { data } = useContents(book);
  return (
    <nav aria-label="Contents" className="min-h-0 overflow-auto py-2 pl-3.5 max-[720px]:max-h-24">
      <Chapter number="I" name="Tables">
        {data?.tables.map((t) => (
          <NavLink key={t.id} to={`/books/${book}/tables/${t.id}`} className={current} title={t.name}>
            <span className="line-clamp-2 min-w-0 break-words">{t.name}</span>
            <span className="text-ink-2">{n(t.rows)}</span>
          </NavLink>
        ))}
        <ChooseFile className={`${entry} w-full cursor-pointer text-pencil!`}>Bring in a file…</ChooseFile>
      </Chapter>
      <Chapter number="II" name="Spellings">
        {data?.crosswalks.map((c) => (
          <NavLink
            key={c.name}
            to={`/books/${book}/crosswalk?name=${encodeURIComponent(c.name)}`}
            className={() => entry}
            title={c.name}
          >
            <span className="line-clamp-2 min-w-0 break-words">{c.name}</span>
            <span className="text-ink-2">{n(c.spellings)}</span>
          </NavLink>
        ))}
        {data && (
          <NavLink to={`/books/${book}/crosswalk`} className={`${entry} text-pencil!`} end>
            Start a crosswalk…
          </NavLink>
        )}
      </Chapter>
      <Chapter number="III" name="Linkage">
        {data?.linkages.map((l) => (
          <NavLink key={l.id} to={`/books/${book}/linkages/${l.id}`} className={current} title={l.name}>
            <span className="line-clamp-2 min-w-0 break-words">{l.name}</span>
          </NavLink>
        ))}
        {data && data.tables.length > 0 ? (
          <NavLink to={`/books/${book}/linkages/new`} className={`${entry} text-pencil!`}>
            Link records…
          </NavLink>
        ) : (
          <Nothing>needs a table</Nothing>
        )}
      </Chapter>
      <Chapter number="IV" name="Authorities">
        {data?.askings.map((a) => (
          <NavLink key={a.id} to={`/books/${book}/askings/${a.id}`} className={current} title={a.name}>
            <span className="line-clamp-2 min-w-0 break-words">{a.name}</span>
          </NavLink>
        ))}
        {data && data.tables.length > 0 ? (
          <NavLink to={`/books/${book}/askings/new`} className={`${entry} text-pencil!`}>
            Ask an authority…
          </NavLink>
        ) : (
          <Nothing>needs a table</Nothing>
        )}
      </Chapter>
      <Chapter number="V" name="Reconciliations">
        {data?.reconciliations.map((r) => (
          <NavLink key={r.id} to={`/books/${book}/reconciliations/${r.id}`} className={current} title={r.name}>
            <span className="line-clamp-2 min-w-0 break-words">{r.name}</span>
          </NavLink>
        ))}
        {data && data.tables.length > 1 ? (
          <NavLink to={`/books/${book}/reconciliations/new`} className={`${entry} text-pencil!`}>
            Prove two ledgers…
          </NavLink>
        ) : (
          <Nothing>needs two tables</Nothing>
        )}
      </Chapter>
      <Chapter number="VI" name="Consolidated">
        {data?.consolidated.map((t) => (
          <NavLink key={t.id} to={`/books/${book}/tables/${t.id}`} className={current} title={t.name}>
            <span className="line-clamp-2 min-w-0 break-words">{t.name}</span>
            <span className="text-ink-2">{n(t.rows)}</span>
          </NavLink>
        ))}
        {data && data.tables.length + data.consolidated.length > 1 ? (
          <NavLink
            to={`/books/${book}/join`}
            className={({ isActive }) => `${entry} text-pencil! ${isActive ? "bg-paper!" : ""}`}
          >
            Join two tables…
          </NavLink>
        ) : (
          <Nothing>needs two tables</Nothing>
        )}
      </Chapter>
    </nav>
  );
}

function Chapter({ number, name, children }: { number: string; name: string; children: ReactNode }) {
  return (
    <section className="mb-3">
      <h2 className="mt-1 mb-1 flex gap-2 text-[13px] text-ink-2">
        <span className="w-5 text-right text-red">{number}</span>
        {name}
      </h2>
      {children}
    </section>
  );
}

function Nothing({ children }: { children: ReactNode }) {
  return <p className="py-[3px] pl-6 text-[12px] text-ink-2 italic">{children}</p>;
}
