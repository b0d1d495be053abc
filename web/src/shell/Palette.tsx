import { Command } from "cmdk";
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { useContents } from "../api/queries";
import { columnPath, tablePath, useBook } from "./useBook";

const item =
  "flex cursor-pointer justify-between gap-3 rounded-[3px] px-2 py-1 data-[selected=true]:bg-pencil-bg [&>span:first-child]:truncate";

/** Ctrl K: finds a table, a column or an action by name. */
export function Palette({ book, open, onOpen }: { book: number; open: boolean; onOpen: (open: boolean) => void }) {
  const navigate = useNavigate();
  const { table } = useBook();
  const { data } = useContents(book);
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "k") {
        e.preventDefault();
        onOpen(!open);
      }
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [open, onOpen]);

  const go = (path: string) => () => {
    onOpen(false);
    void navigate(path);
  };
  const tables = [...(data?.tables ?? []), ...(data?.consolidated ?? [])];
  const here = tables.find((t) => t.id === table);
  const actions: [string, () => void][] = here
    ? [
        [`Shape the columns of ${here.name}`, go(tablePath(book, here.id, "/shape"))],
        [`Find duplicates in ${here.name}`, go(tablePath(book, here.id, "/duplicates"))],
        [`Watches of ${here.name}`, go(tablePath(book, here.id, "/watches"))],
        [`Is a record in ${here.name} already?`, go(tablePath(book, here.id, "/check"))],
        [`Compare ${here.name} with another table`, go(`/books/${book}/comparison?before=${here.id}`)],
        [`Tidy columns of ${here.name}`, go(tablePath(book, here.id, "/tidy"))],
        [`Rows of ${here.name}`, go(tablePath(book, here.id, "/rows"))],
        [`Journal of ${here.name}`, go(tablePath(book, here.id, "/journal"))],
        [`Publish ${here.name}`, go(tablePath(book, here.id, "?publish"))],
      ]
    : [];
  actions.push(
    ["Join two tables", go(`/books/${book}/join${here ? `?left=${here.id}` : ""}`)],
    [
      "Bring in a file",
      () => {
        onOpen(false);
        document.querySelector<HTMLInputElement>("[data-choose-file]")?.click();
      },
    ],
  );
  // Columns of the table at hand first; of the others as well.
  const columns = tables
    .toSorted((a, b) => Number(b.id === table) - Number(a.id === table))
    .flatMap((t) => t.columns.slice(0, 500).map((c) => ({ t, c })));
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpen}
      label="Find a table, a column or an action"
      overlayClassName="fixed inset-0 z-40 bg-bar/40"
      contentClassName="fixed top-[12%] left-1/2 z-50 w-[min(560px,92vw)] -translate-x-1/2 rounded-[4px] border border-ink bg-paper p-2"
    >
      <Command.Input
        placeholder="Find a table, a column, an action"
        className="mb-2 h-8 w-full border-b border-rule bg-paper px-2 text-[15px] outline-none placeholder:text-ink-3"
      />
      <Command.List className="max-h-[50vh] overflow-auto [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-[11.5px] [&_[cmdk-group-heading]]:text-ink-2">
        <Command.Empty className="px-2 py-3 text-ink-2">Nothing here goes by that name.</Command.Empty>
        <Command.Group heading="Actions">
          {actions.map(([name, act]) => (
            <Command.Item key={name} value={`action ${name}`} onSelect={act} className={item}>
              <span>{name}</span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Tables">
          {tables.map((t) => (
            <Command.Item key={t.id} value={`table ${t.name}`} onSelect={go(tablePath(book, t.id))} className={item}>
              <span>{t.name}</span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Columns">
          {columns.map(({ t, c }) => (
            <Command.Item
              key={`${t.id} ${c}`}
              value={`column ${c} ${t.name}`}
              onSelect={go(columnPath(book, t.id, "tally", c))}
              className={item}
            >
              <span>{c}</span>
              <span className="text-ink-2">{t.name}</span>
            </Command.Item>
          ))}
        </Command.Group>
      </Command.List>
    </Command.Dialog>
  );
}
