import { useState } from "react";
import { Link, Outlet } from "react-router";
import { useContents } from "../api/queries";
import { Kbd } from "../design/Keys";
import { Contents } from "./Contents";
import { DropZone } from "./DropZone";
import { Jobs } from "./Jobs";
import { Palette } from "./Palette";
import { useBook } from "./useBook";
import { useEvents } from "./useEvents";

/** The frame around every page of a book: the bar, the contents, the place where files are dropped. */
export function Shell() {
  const { book, table } = useBook();
  const contents = useContents(book);
  const [palette, setPalette] = useState(false);
  useEvents();
  const at = [...(contents.data?.tables ?? []), ...(contents.data?.consolidated ?? [])].find((t) => t.id === table);
  return (
    <DropZone book={book}>
      <div className="grid h-screen grid-cols-[206px_minmax(0,1fr)] grid-rows-[44px_minmax(0,1fr)] max-[720px]:grid-cols-1 max-[720px]:grid-rows-[44px_auto_minmax(0,1fr)]">
        <header className="col-span-full flex min-w-0 items-center gap-[18px] bg-bar px-4 max-[720px]:gap-2.5 max-[720px]:px-2 text-bar-ink">
          <Link
            to={`/books/${book}`}
            className="flex items-center gap-[9px] font-serif text-[17px] font-semibold whitespace-nowrap"
          >
            <Mark />
            Grand Ledger
          </Link>
          <nav aria-label="Where you are" className="min-w-0 truncate text-[#b9c1c8] max-[720px]:hidden">
            <Link to={`/books/${book}`} className="hover:text-bar-ink">
              {contents.data?.book.name}
            </Link>
            {at && (
              <>
                {" / "}
                <Link to={`/books/${book}/tables/${at.id}`} className="font-medium text-bar-ink">
                  {at.name}
                </Link>
              </>
            )}
          </nav>
          <button
            type="button"
            onClick={() => setPalette(true)}
            aria-label="Find a table, a column, an action"
            className="ml-auto flex h-7 w-[270px] shrink-0 items-center justify-between rounded-[3px] border border-[#5a6672] px-2.5 text-[#b9c1c8] hover:border-bar-ink max-[900px]:w-auto max-[900px]:gap-3"
          >
            <span className="truncate max-[720px]:hidden">Find a table, a column, an action</span>
            <Kbd>Ctrl K</Kbd>
          </button>
          <Jobs book={book} />
        </header>
        <Contents book={book} />
        <div className="grid min-h-0 min-w-0 py-3 pr-3.5 max-[720px]:p-2">
          <Outlet key={table} />
        </div>
      </div>
      <Palette book={book} open={palette} onOpen={setPalette} />
    </DropZone>
  );
}

function Mark() {
  return (
    <svg width={20} height={20} viewBox="0 0 20 20" aria-hidden>
      <path d="M2 3h7v14H2zM11 3h7v14h-7z" fill="none" stroke="currentColor" strokeWidth={1.5} />
      <path d="M10 2v16" stroke="#d9685a" strokeWidth={1.5} />
      <path d="M4 7h3M4 10h3M13 7h3M13 10h3M13 13h3" stroke="currentColor" strokeWidth={1.2} />
    </svg>
  );
}
