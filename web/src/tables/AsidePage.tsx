import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { useDraft, useJournal, useTable, type Draft } from "../api/queries";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Input, Labelled } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { useCopy } from "./IntoNew";
import { figures } from "./PostBar";
import { fileAddress } from "./PublishDialog";
import { plainColumns, RowGrid } from "./RowGrid";
import { usePinned, usePost } from "./usePinned";

/** Opens the rows as a table of their own, to be worked on and put back. */
function TakeApart({ number, revision }: { number: number; revision: number }) {
  const { table } = useBook();
  const { data } = useTable(table);
  const { asked, setAsked, copy } = useCopy();
  const open = asked.aside !== undefined;
  return (
    <>
      <Button
        onClick={() =>
          setAsked({ revision, aside: number, name: `${data?.name ?? "Table"}, set aside by entry ${number}` })
        }
      >
        Take apart…
      </Button>
      <Dialog open={open} onClose={() => setAsked({ ...asked, aside: undefined })} title="Take these rows apart">
        <p className="mb-3 text-ink-2">
          They become a table of their own, with a journal of its own. When they are as they should be, they are put
          back.
        </p>
        {copy.error && <ProblemNotice error={copy.error} />}
        <Labelled label="Name of the table">
          <Input value={asked.name} onChange={(e) => setAsked({ ...asked, name: e.target.value })} autoFocus />
        </Labelled>
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setAsked({ ...asked, aside: undefined })}>Cancel</Button>
          <Button kind="main" disabled={copy.isPending || asked.name.trim() === ""} onClick={() => copy.mutate()}>
            Take them apart
          </Button>
        </div>
      </Dialog>
    </>
  );
}

/** The rows that an entry set aside: looked at, exported, returned. */
export function AsidePage() {
  const { book, table } = useBook();
  const number = Number(useParams().number);
  const navigate = useNavigate();
  const pinned = usePinned(table);
  const journal = useJournal(table);
  const entry = journal.data?.find((e) => e.number === number);
  const page = (from: number, n: number) =>
    ask(api.GET("/tables/{table}/rows", { params: { path: { table }, query: { aside: number, from, count: n } } }));
  const head = useQuery({ queryKey: ["aside", table, number, "head"], staleTime: Infinity, queryFn: () => page(0, 1) });
  const returnable = number > 0 && entry?.state === "posted";
  const draft: Draft | null =
    pinned.revision !== undefined && returnable
      ? { revision: pinned.revision, kind: "return", params: { entry: number } }
      : null;
  const drafted = useDraft(table, draft);
  const post = usePost(table, draft, () => void navigate(tablePath(book, table, "/journal")));
  const total = head.data?.total ?? 0;
  const can = draft !== null && drafted.data !== undefined && !drafted.error;
  return (
    <Spread
      left={
        <Page
          side="left"
          title={number === 0 ? "Rows left out" : `Set aside by entry ${number}`}
          tab={`Set aside by entry ${number}`}
          sub={entry && `${entry.words}. ${count(total, "row")}, as they stood before it.`}
          foot={
            <Balance figures={can ? figures(drafted.data.effect) : []}>
              <a
                className="inline-flex h-[30px] items-center rounded-[3px] border border-ink px-3 font-medium hover:bg-paper-2"
                href={fileAddress(table, { aside: number })}
                download
              >
                Export as CSV
              </a>
              {can && <TakeApart number={number} revision={pinned.revision!} />}
              {can && (
                <Button kind="main" disabled={post.isPending} onClick={() => post.mutate()}>
                  {`Return ${count(drafted.data.effect.balance.added, "row")}`}
                </Button>
              )}
            </Balance>
          }
        >
          {(head.error ?? pinned.error ?? post.error) && (
            <ProblemNotice error={head.error ?? pinned.error ?? post.error} />
          )}
          {drafted.error && (
            <p className="mb-2 text-ink-2">{drafted.error.message.replace(/^./, (c) => c.toUpperCase())}.</p>
          )}
          <p className="mb-2">
            <Link className="text-pencil underline" to={tablePath(book, table, "/journal")}>
              Back to the journal
            </Link>
          </p>
          {head.isPending && <Loading what="Fetching rows…" />}
          {head.data && total > 0 && (
            <RowGrid
              name={["aside", table, number]}
              columns={plainColumns(head.data.columns)}
              total={total}
              page={async (from, n) => (await page(from, n)).rows}
            />
          )}
        </Page>
      }
    />
  );
}
