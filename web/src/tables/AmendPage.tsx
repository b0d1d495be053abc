import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Entry, type Schemas } from "../api/client";
import { useIdempotencyKey } from "../api/queries";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { AmendEntries, asSteps, type Line } from "./AmendEntries";
import { PostedNotice } from "./PostBar";
import { ProcedureIn } from "./ProcedureIn";
import { Steps } from "./RefreshPage";
import { usePinned } from "./usePinned";

/** The journal amended: entries changed, switched off, moved or inserted, and what each later one does then. */
export function AmendPage() {
  const { table } = useBook();
  const client = useQueryClient();
  const pinned = usePinned(table);
  const [chosen, choose] = useState<Line[]>();
  const [posted, setPosted] = useState<Entry>();
  const journal = useQuery({
    queryKey: ["amendment", table, pinned.revision],
    enabled: pinned.revision !== undefined,
    retry: false,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/amendment", {
          params: { path: { table }, query: { revision: pinned.revision } },
        }),
      ),
  });
  const entries = journal.data?.entries ?? [];
  const lines = chosen ?? entries.map((e): Line => ({ entry: e.number, was: e }));
  const steps = asSteps(lines);
  const changed = JSON.stringify(steps) !== JSON.stringify(entries.map((e) => ({ entry: e.number })));
  const body: Schemas["AmendSteps"] = { revision: pinned.revision ?? 0, steps };
  const amended = useQuery({
    queryKey: ["amended", table, body],
    enabled: changed && pinned.revision !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: () => ask(api.POST("/tables/{table}/amendment/draft", { params: { path: { table } }, body })),
  });
  const a = changed ? amended.data : undefined;
  const key = useIdempotencyKey([table, body]);
  const set = (next: Line[] | undefined) => {
    choose(next);
    setPosted(undefined);
  };
  const post = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/tables/{table}/amendment", {
          params: { path: { table }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    onSuccess: async (entry) => {
      const stale = ["table", "journal", "marks", "contents", "crosswalk", "amendment"];
      await Promise.all(stale.map((name) => client.invalidateQueries({ queryKey: [name] })));
      choose(undefined);
      setPosted(entry);
      pinned.follow();
    },
  });
  const stuck = (a?.steps ?? []).filter((s) => s.problem);
  const off = lines.filter((l) => l.off).length;
  return (
    <Spread
      widths="1fr 1fr"
      left={
        <Page
          side="left"
          title="Amend the journal"
          tab="Amend the journal"
          sub={
            pinned.table &&
            `${pinned.table.name}. Change, switch off, move or insert entries; nothing changes until you post.`
          }
        >
          {(pinned.error ?? journal.error) ? <ProblemNotice error={pinned.error ?? journal.error} /> : null}
          {posted && <PostedNotice entry={posted} />}
          {journal.isPending && !journal.error && <Loading what="Reading the journal…" />}
          {journal.data && pinned.table && (
            <>
              {entries.length === 0 && lines.length === 0 && (
                <p className="py-2 text-ink-2">No entry is posted that could be amended.</p>
              )}
              <AmendEntries lines={lines} columns={pinned.table.columns} revision={pinned.revision} onChange={set} />
              <ProcedureIn
                columns={pinned.table.columns}
                onSteps={(more) => set([...lines, ...more.filter((m) => !lines.some((l) => l.entry === m.entry))])}
              />
            </>
          )}
        </Page>
      }
      right={
        <Page
          side="right"
          title="What the later entries do then"
          sub="Each done again on every row."
          foot={
            <Balance
              figures={
                pinned.table
                  ? [
                      { label: "Rows now", value: n(pinned.table.rows) },
                      ...(off > 0 ? [{ label: "Switched off", value: n(off), tone: "ochre" as const }] : []),
                      { label: "Rows after", value: n(a?.rows ?? pinned.table.rows), final: true },
                    ]
                  : []
              }
            >
              {changed && <Button onClick={() => set(undefined)}>Discard</Button>}
              <Button
                kind="main"
                disabled={
                  !a ||
                  stuck.length > 0 ||
                  post.isPending ||
                  amended.isFetching ||
                  Boolean(amended.error) ||
                  pinned.moved
                }
                onClick={() => post.mutate()}
              >
                {post.isPending ? "Posting…" : `Post entry ${pinned.table?.next ?? ""}`}
              </Button>
            </Balance>
          }
        >
          {(post.error ?? amended.error) && <ProblemNotice error={post.error ?? amended.error} />}
          {pinned.moved && (
            <Notice tone="ochre">
              <p>The table has changed since you opened this page.</p>
              <Button
                kind="small"
                className="mt-1.5"
                onClick={() => {
                  set(undefined);
                  pinned.follow();
                }}
              >
                Look at it as it stands now
              </Button>
            </Notice>
          )}
          {stuck.length > 0 && (
            <Notice tone="ochre">
              {count(stuck.length, "entry", "entries")} cannot be done there. Change{" "}
              {stuck.length === 1 ? "it" : "them"}, switch {stuck.length === 1 ? "it" : "them"} off, or move{" "}
              {stuck.length === 1 ? "it" : "them"}.
            </Notice>
          )}
          {!changed && (
            <p className="py-4 text-ink-2">
              Nothing is changed yet. Entries before the first that changes stay as they are.
            </p>
          )}
          {changed && a && a.steps.length === 0 && !amended.isFetching && (
            <p className="py-4 text-ink-2">No entry is done again.</p>
          )}
          {changed && a && <Steps delivery={{ steps: a.steps.map((s) => ({ ...s, leftOut: false })) }} />}
        </Page>
      }
    />
  );
}
