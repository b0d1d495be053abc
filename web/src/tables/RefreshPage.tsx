import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, Problem, type Entry, type Schemas } from "../api/client";
import { useIdempotencyKey } from "../api/queries";
import { ByDatabase } from "../bringin/ByDatabase";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Check, Select } from "../design/Field";
import { Loading, Notice, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { ChooseFile } from "../shell/DropZone";
import { useBook } from "../shell/useBook";
import { HeldNotice } from "../watches/HeldNotice";
import { effectWords, PostedNotice } from "./PostBar";
import { usePinned } from "./usePinned";

type Delivery = Schemas["Delivery"];
type Renames = Record<string, string>;

/** The next delivery of a table's source: what came and went, and what each entry of the journal does on it. */
export function RefreshPage() {
  const { book, table } = useBook();
  const client = useQueryClient();
  const pinned = usePinned(table);
  const [renames, setRenames] = useState<Renames>({});
  const [leaveOut, setLeaveOut] = useState<number[]>([]);
  const [posted, setPosted] = useState<Entry>();
  const delivery = useQuery({
    queryKey: ["delivery", table, pinned.revision, renames, leaveOut],
    enabled: pinned.revision !== undefined && !posted,
    retry: false,
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/delivery", {
          params: {
            path: { table },
            query: { revision: pinned.revision, renames: JSON.stringify(renames), leaveOut },
          },
        }),
      ),
  });
  const [accept, setAccept] = useState<number[]>([]);
  const body = { revision: pinned.revision ?? 0, renames, leaveOut, accept };
  const key = useIdempotencyKey([table, body]);
  const settled = () => {
    void client.invalidateQueries({ queryKey: ["table", table] });
    void client.invalidateQueries({ queryKey: ["journal", table] });
    void client.invalidateQueries({ queryKey: ["contents"] });
    void client.invalidateQueries({ queryKey: ["delivery", table] });
  };
  const post = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/tables/{table}/delivery", {
          params: { path: { table }, header: { "Idempotency-Key": key } },
          body,
        }),
      ),
    onSuccess: (entry) => {
      setPosted(entry);
      pinned.follow();
      settled();
    },
  });
  const drop = useMutation({
    mutationFn: () => ask(api.DELETE("/tables/{table}/delivery", { params: { path: { table } } })),
    onSuccess: settled,
  });
  const none = delivery.error instanceof Problem && delivery.error.document.status === 404;
  const d = posted || none ? undefined : delivery.data;
  const title = `Refresh ${pinned.table?.name ?? ""}`;
  if (!d) {
    return (
      <Spread
        left={
          <Page side="left" title={title} tab={title} sub={pinned.table && `${pinned.table.source}.`}>
            {posted && <PostedNotice entry={posted} />}
            {delivery.error && !none && <ProblemNotice error={delivery.error} />}
            {delivery.isPending && !posted && <Loading what="Comparing the deliveries…" />}
            {(none || posted) && (
              <ChooseFile
                forTable={table}
                className="mt-2 flex w-full cursor-pointer flex-col items-center gap-1 rounded-[4px] border-2 border-dashed border-rule px-6 py-10 text-center hover:border-pencil hover:bg-pencil-bg/50"
              >
                <span className="font-serif text-[17px] font-semibold text-pencil">Choose the next delivery</span>
                <span className="text-ink-2">
                  It is read as the last one was. Before anything is posted you see what came and went, and what each
                  entry of the journal does on it.
                </span>
              </ChooseFile>
            )}
            {(none || posted) && (
              <>
                <Heading>Or copy it out of a PostgreSQL database</Heading>
                <ByDatabase book={book} forTable={table} />
              </>
            )}
          </Page>
        }
      />
    );
  }
  const stuck = d.steps.filter((s) => s.problem);
  const held = d.watches.some((w) => !accept.includes(w.watch.id));
  return (
    <Spread
      widths="1fr 1fr"
      left={
        <Page
          side="left"
          title={title}
          tab={title}
          sub={`${d.files.join(", ")}, read as the last delivery was. Nothing changes until you post.`}
        >
          <Compared delivery={d} renames={renames} onRename={setRenames} />
          {d.notes.length > 0 && (
            <>
              <Heading>Repaired while reading</Heading>
              <Notice tone="ochre">
                {d.notes.map((note) => (
                  <p key={note} className="first-letter:uppercase">
                    {note}
                  </p>
                ))}
              </Notice>
            </>
          )}
        </Page>
      }
      right={
        <Page
          side="right"
          title="The journal on it"
          sub="Each entry done again on every row of the delivery."
          foot={
            <Balance
              figures={[
                { label: "Last delivery", value: n(d.comparison.before) },
                { label: "Came", value: `+${n(d.comparison.come)}`, tone: "green" },
                { label: "Went", value: `−${n(d.comparison.gone)}`, tone: "red" },
                { label: "Delivered", value: n(d.comparison.after) },
                { label: "Rows after the journal", value: n(d.rows), final: true },
              ]}
            >
              <Button onClick={() => drop.mutate()} disabled={post.isPending || drop.isPending}>
                Discard
              </Button>
              <Button
                kind="main"
                disabled={stuck.length > 0 || held || post.isPending || delivery.isFetching || pinned.moved}
                onClick={() => post.mutate()}
              >
                {post.isPending ? "Posting…" : `Post entry ${pinned.table?.next ?? ""}`}
              </Button>
            </Balance>
          }
        >
          {(post.error ?? drop.error) && <ProblemNotice error={post.error ?? drop.error} />}
          {pinned.moved && (
            <Notice tone="ochre">
              <p>The table has changed since you opened this page.</p>
              <Button kind="small" className="mt-1.5" onClick={pinned.follow}>
                Look at it as it stands now
              </Button>
            </Notice>
          )}
          {stuck.length > 0 && (
            <Notice tone="ochre">
              {count(stuck.length, "entry", "entries")} cannot be done on this delivery. Say on the left which column
              stands for the one that went, or leave {stuck.length === 1 ? "it" : "them"} out.
            </Notice>
          )}
          <HeldNotice broken={d.watches} accepted={accept} onAccept={setAccept} />
          {d.steps.length === 0 && <p className="py-4 text-ink-2">No entry is posted since the last delivery.</p>}
          <Steps
            delivery={d}
            onLeaveOut={(number, out) =>
              setLeaveOut(out ? [...leaveOut, number].toSorted((a, b) => a - b) : leaveOut.filter((x) => x !== number))
            }
          />
        </Page>
      }
    />
  );
}

interface ComparedProps {
  delivery: Delivery;
  renames: Renames;
  onRename: (renames: Renames) => void;
}

function Compared({ delivery: d, renames, onRename }: ComparedProps) {
  const went = d.comparison.columns.filter((c) => c.state === "went").map((c) => c.column);
  const taken = Object.values(renames);
  const original = (name: string) => Object.entries(renames).find(([, to]) => to === name)?.[0];
  return (
    <table className="w-full table-fixed" aria-label="Columns of the delivery">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="w-[34%] py-1">Column</th>
          <th className="w-[20%] text-right">Values never seen</th>
          <th className="pl-4">Against the last delivery</th>
        </tr>
      </thead>
      <tbody>
        {d.comparison.columns.map((c) => {
          const came = c.state === "came" || original(c.column) !== undefined;
          return (
            <tr key={c.column} className="h-[27px] border-b border-rule-2 align-baseline">
              <td className={`truncate py-1 font-semibold ${c.state === "went" ? "struck" : ""}`} title={c.column}>
                {c.column}
              </td>
              <td className="text-right">{c.state === "stays" ? n(c.newValues) : ""}</td>
              <td className="py-0.5 pl-4">
                {c.state === "went" && <span className="text-red">is not there any more</span>}
                {c.broke && (
                  <span className="text-red">
                    {count(c.lostRows, "row")} do not read as {c.reading}; {n(c.wasLost)} before
                  </span>
                )}
                {c.state === "stays" && !c.broke && c.lostRows > 0 && (
                  <span className="text-ochre">
                    {count(c.lostRows, "row")} do not read as {c.reading}, {n(c.wasLost)} before
                  </span>
                )}
                {came && went.length + taken.length > 0 ? (
                  <span className="flex flex-wrap items-center gap-x-2 gap-y-1">
                    <span className="max-w-[45%] shrink-0 truncate text-green">
                      {original(c.column) ? `${original(c.column)} stands for` : "new, stands for"}
                    </span>
                    <Select
                      label={`What ${c.column} stands for`}
                      value={original(c.column) ? c.column : ""}
                      options={[
                        { value: "", name: "nothing, a new column" },
                        ...[...went, ...(original(c.column) ? [c.column] : [])].map((w) => ({ value: w, name: w })),
                      ]}
                      onChange={(to) => {
                        const from = original(c.column) ?? c.column;
                        const rest = Object.fromEntries(Object.entries(renames).filter(([k]) => k !== from));
                        onRename(to ? { ...rest, [from]: to } : rest);
                      }}
                      className="w-28 grow"
                    />
                    {c.likely && went.includes(c.likely) && (
                      <Button kind="small" onClick={() => onRename({ ...renames, [c.column]: c.likely })}>
                        It has the values of {c.likely}
                      </Button>
                    )}
                  </span>
                ) : (
                  c.state === "came" && <span className="text-green">new</span>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

interface StepsProps {
  delivery: Pick<Delivery, "steps">;
  onLeaveOut?: (number: number, out: boolean) => void;
}

/** Entries done again: what each did, and does now, or why it cannot. */
export function Steps({ delivery: d, onLeaveOut }: StepsProps) {
  if (d.steps.length === 0) return null;
  return (
    <table className="w-full table-fixed" aria-label="Entries on the delivery">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="w-[9%] py-1 pr-3 text-right">Entry</th>
          <th>What it did, and does now</th>
          {onLeaveOut && <th className="w-[22%] pl-3">Leave out</th>}
        </tr>
      </thead>
      <tbody>
        {d.steps.map((s) => (
          <tr key={s.number} className="border-b border-rule-2 align-top">
            <td className="py-1 pr-3 text-right text-ink-2">{s.number > 0 ? s.number : "new"}</td>
            <td className="py-1">
              <p className={s.leftOut ? "struck" : "font-medium"}>{s.words}</p>
              {s.was && <p className="text-ink-2">Did: {effectWords(s.was)}</p>}
              {s.now && (
                <p>
                  Now: <span className="pencilled">{effectWords(s.now)}</span>
                </p>
              )}
              {s.problem && (
                <p className="text-red">
                  Cannot: {s.problem.detail}. {s.problem.remedy}
                </p>
              )}
            </td>
            {onLeaveOut && (
              <td className="py-1 pl-3">
                <Check
                  checked={s.leftOut}
                  onChange={(out) => onLeaveOut(s.number, out)}
                  label={`Leave entry ${s.number} out`}
                >
                  leave out
                </Check>
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
