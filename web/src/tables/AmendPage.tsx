import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Entry } from "../api/client";
import { useIdempotencyKey } from "../api/queries";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Check } from "../design/Field";
import { Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { effectWords, PostedNotice } from "./PostBar";
import { Steps } from "./RefreshPage";
import { usePinned } from "./usePinned";

/** The journal amended: entries switched off or moved, and what each later one does then. */
export function AmendPage() {
  const { table } = useBook();
  const client = useQueryClient();
  const pinned = usePinned(table);
  const [order, setOrder] = useState<number[]>();
  const [off, setOff] = useState<number[]>([]);
  const [posted, setPosted] = useState<Entry>();
  const stays = order?.filter((number) => !off.includes(number));
  const amended = useQuery({
    queryKey: ["amendment", table, pinned.revision, stays],
    enabled: pinned.revision !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/amendment", {
          params: { path: { table }, query: { revision: pinned.revision, order: stays?.join(",") } },
        }),
      ),
  });
  const a = amended.data;
  const entries = a?.entries ?? [];
  const shown = (order ?? entries.map((e) => e.number)).flatMap(
    (number) => entries.find((e) => e.number === number) ?? [],
  );
  const body = { revision: pinned.revision ?? 0, order: stays ?? [] };
  const key = useIdempotencyKey([table, body]);
  const begin = () => {
    setOrder(undefined);
    setOff([]);
  };
  const post = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/tables/{table}/amendment", {
          params: { path: { table }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    onSuccess: (entry) => {
      setPosted(entry);
      begin();
      pinned.follow();
      for (const name of ["table", "journal", "contents", "crosswalk", "amendment"]) {
        void client.invalidateQueries({ queryKey: [name] });
      }
    },
  });
  const numbers = shown.map((e) => e.number);
  const move = (i: number, to: number) => {
    const next = [...numbers];
    next.splice(to, 0, ...next.splice(i, 1));
    setOrder(next);
    setPosted(undefined);
  };
  const turn = (number: number, on: boolean) => {
    setOrder(numbers);
    setOff(on ? off.filter((x) => x !== number) : [...off, number]);
    setPosted(undefined);
  };
  const changed = stays !== undefined && stays.join() !== entries.map((e) => e.number).join();
  const stuck = changed ? (a?.steps ?? []).filter((s) => s.problem) : [];
  return (
    <Spread
      widths="1fr 1fr"
      left={
        <Page
          side="left"
          title="Amend the journal"
          tab="Amend the journal"
          sub={pinned.table && `${pinned.table.name}. Switch entries off or move them; nothing changes until you post.`}
        >
          {(pinned.error ?? amended.error) ? <ProblemNotice error={pinned.error ?? amended.error} /> : null}
          {posted && <PostedNotice entry={posted} />}
          {amended.isPending && !amended.error && <Loading what="Reading the journal…" />}
          {a && entries.length === 0 && <p className="py-4 text-ink-2">No entry is posted that could be amended.</p>}
          {shown.length > 0 && (
            <table className="w-full table-fixed" aria-label="Entries">
              <thead>
                <tr className="border-b border-ink text-[12px] text-ink-2">
                  <th className="w-[12%] py-1">Entry</th>
                  <th>What it does</th>
                  <th className="w-[20%]" />
                </tr>
              </thead>
              <tbody>
                {shown.map((e, i) => (
                  <tr key={e.number} className="border-b border-rule-2 align-top">
                    <td className="py-1">
                      <Check
                        checked={!off.includes(e.number)}
                        onChange={(on) => turn(e.number, on)}
                        label={`Entry ${e.number}`}
                      >
                        {e.number}
                      </Check>
                    </td>
                    <td className="py-1">
                      <p className={off.includes(e.number) ? "struck" : ""}>{e.words}</p>
                      <p className="text-[12px] text-ink-2">{effectWords(e.was)}</p>
                    </td>
                    <td className="py-1 text-right whitespace-nowrap">
                      <Button
                        kind="quiet"
                        disabled={i === 0}
                        aria-label={`Move entry ${e.number} up`}
                        onClick={() => move(i, i - 1)}
                      >
                        up
                      </Button>
                      <Button
                        kind="quiet"
                        disabled={i === shown.length - 1}
                        aria-label={`Move entry ${e.number} down`}
                        onClick={() => move(i, i + 1)}
                      >
                        down
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
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
                a
                  ? [
                      { label: "Rows now", value: n(pinned.table?.rows ?? 0) },
                      {
                        label: "Entries switched off",
                        value: n(off.length),
                        tone: off.length > 0 ? "ochre" : undefined,
                      },
                      { label: "Rows after", value: n(changed ? a.rows : (pinned.table?.rows ?? 0)), final: true },
                    ]
                  : []
              }
            >
              {changed && <Button onClick={begin}>Discard</Button>}
              <Button
                kind="main"
                disabled={
                  !changed ||
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
          {post.error && <ProblemNotice error={post.error} />}
          {pinned.moved && (
            <Notice tone="ochre">
              <p>The table has changed since you opened this page.</p>
              <Button
                kind="small"
                className="mt-1.5"
                onClick={() => {
                  begin();
                  pinned.follow();
                }}
              >
                Look at it as it stands now
              </Button>
            </Notice>
          )}
          {stuck.length > 0 && (
            <Notice tone="ochre">
              {count(stuck.length, "entry", "entries")} cannot be done there. Switch{" "}
              {stuck.length === 1 ? "it" : "them"} off, or move {stuck.length === 1 ? "it" : "them"}.
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
