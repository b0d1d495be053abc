import { useState } from "react";
import { Link } from "react-router";
import type { Schemas, Table } from "../api/client";
import { useContents, useJobs } from "../api/queries";
import { Balance } from "../design/Balance";
import { ButtonLink } from "../design/Button";
import { Segments } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { ByDatabase } from "../bringin/ByDatabase";
import { ByPath } from "../bringin/ByPath";
import { Heading, Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { ChooseFile } from "../shell/DropZone";
import { JobLine } from "../shell/Jobs";
import { tablePath, useBook } from "../shell/useBook";

/** The front page of a book: its tables, and what to do next. */
export function BookPage() {
  const { book } = useBook();
  const { data, error } = useContents(book);
  const jobs = useJobs(book);
  const all = [...(data?.tables ?? []), ...(data?.consolidated ?? [])];
  const rows = all.reduce((t, x) => t + x.rows, 0);
  const working = jobs.data?.filter((j) => j.state !== "done") ?? [];
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page side="left" title={data?.book.name ?? "…"} tab={data?.book.name} sub={data && said(data)}>
          {error && <ProblemNotice error={error} />}
          {!data && !error && <Loading what="Opening the book…" />}
          {all.length > 0 && <Tables tables={all} />}
          {working.length > 0 && (
            <>
              <Heading>Work under way</Heading>
              <ul>
                {working.map((j) => (
                  <li key={j.id} className="border-b border-rule-2 py-1.5">
                    <JobLine book={book} job={j} />
                  </li>
                ))}
              </ul>
            </>
          )}
        </Page>
      }
      right={
        <Page
          side="right"
          title="Bring in files"
          sub="Nothing leaves this machine, and the files themselves are never altered."
          foot={
            <Balance
              figures={[
                { label: "Tables", value: n(all.length) },
                { label: "Rows in the book", value: n(rows), final: true },
              ]}
            />
          }
        >
          <ChooseFile className="mt-2 flex w-full cursor-pointer flex-col items-center gap-1 rounded-[4px] border-2 border-dashed border-rule px-6 py-10 text-center hover:border-pencil hover:bg-pencil-bg/50">
            <span className="font-serif text-[17px] font-semibold text-pencil">Drop files here</span>
            <span className="text-ink-2">
              or choose them, or paste a table with Ctrl&nbsp;V. You see how they read before anything is stored.
            </span>
            <span className="mt-1 text-[12px] text-ink-2">
              CSV and other text, workbooks, JSON, Parquet, Arrow, XML, web pages; packed or not. Several files of one
              shape become one table.
            </span>
          </ChooseFile>
          <Heading>From elsewhere</Heading>
          <Elsewhere book={book} />
          {all.length > 1 && (
            <>
              <Heading>When two tables belong together</Heading>
              <p className="mb-2 text-ink-2">
                Put the columns of one beside the matching rows of another; you see the coverage on both sides first. Or
                find which of their records are one thing, however they are written.
              </p>
              <p className="flex gap-2">
                <ButtonLink to={`/books/${book}/join`}>Join two tables</ButtonLink>
                <ButtonLink to={`/books/${book}/linkages/new`}>Link records</ButtonLink>
                <ButtonLink to={`/books/${book}/comparison`}>Compare two tables</ButtonLink>
              </p>
            </>
          )}
        </Page>
      }
    />
  );
}

/** What need not be sent: a file that lies on the machine already, a table of a database. */
function Elsewhere({ book }: { book: number }) {
  const [from, setFrom] = useState<"disk" | "database">("disk");
  return (
    <>
      <Segments
        label="From elsewhere"
        value={from}
        options={[
          { value: "disk", name: "a file on this machine" },
          { value: "database", name: "a PostgreSQL database" },
        ]}
        onChange={setFrom}
      />
      <p className="my-2 text-ink-2">
        {from === "disk"
          ? "It is read where it lies, in the directories that may be read from."
          : "A table or the answer to a query is copied, reading only. The connection is used once and not kept."}
      </p>
      {from === "disk" ? <ByPath book={book} /> : <ByDatabase book={book} />}
    </>
  );
}

function said(c: Schemas["Contents"]): string {
  const tables = c.tables.length + c.consolidated.length;
  if (tables === 0) return "The book is empty. Bring in the first file.";
  const rest = [
    c.crosswalks.length > 0 && count(c.crosswalks.length, "crosswalk"),
    c.linkages.length > 0 && count(c.linkages.length, "linkage"),
  ];
  return `${[count(tables, "table"), ...rest.filter(Boolean)].join(", ")}.`;
}

function Tables({ tables }: { tables: Table[] }) {
  return (
    <table className="w-full table-fixed">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="w-[34%] py-1">Table</th>
          <th className="w-[11%] text-right">Rows</th>
          <th className="w-[11%] text-right">Columns</th>
          <th className="w-[10%] text-right">Entries</th>
          <th className="pl-4">Where it came from</th>
        </tr>
      </thead>
      <tbody>
        {tables.map((t) => (
          <tr key={t.id} className="h-[27px] border-b border-rule-2 hover:bg-pencil-bg">
            <td className="truncate pr-2 font-semibold" title={t.name}>
              <Link to={tablePath(t.bookId, t.id)} className="hover:underline">
                {t.name}
              </Link>
            </td>
            <td className="text-right">{n(t.rows)}</td>
            <td className="text-right">{n(t.columns.length)}</td>
            <td className="text-right">{n(t.entries)}</td>
            <td className="truncate pl-4 text-ink-2" title={t.source}>
              {t.source}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
