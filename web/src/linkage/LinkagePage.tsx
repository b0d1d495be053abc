import { useState } from "react";
import { useParams } from "react-router";
import {
  useClusters,
  useDecidePairs,
  useDisagreements,
  useLinkage,
  useLinkedPairs,
  useSpotPair,
  type Which,
} from "../api/linkages";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Input, Segments } from "../design/Field";
import { Keys, useKeys } from "../design/Keys";
import { Empty, Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, listing, n } from "../design/words";
import type { Held } from "./ClusterPage";
import { ClusterList } from "./Clusters";
import { Cuts } from "./Cuts";
import { GoldenValues } from "./GoldenValues";
import { PairList } from "./PairList";
import { RightPage } from "./RightPage";
import { Setup } from "./Setup";
import { SpotCheck } from "./SpotCheck";
import { useReviewer } from "./useReviewer";
import { Waiting } from "./Waiting";
import { Blocking, Weighing } from "./Weighing";

const shown = 50;

type View = Which | "clusters" | "golden" | "weighing" | "setup";

const listed: View[] = ["review", "links", "undecided", "spot"];

/** A linkage under review: the pairs that teach most first, both records side by side with what each attribute finds. */
export function LinkagePage() {
  const { linkage } = useParams();
  const id = Number(linkage);
  return <Reviewed key={id} id={id} />;
}

function Reviewed({ id }: { id: number }) {
  const [view, setView] = useState<View>("review");
  const [from, setFrom] = useState(0);
  const [chosen, choose] = useState(0);
  const [note, setNote] = useState("");
  const [held, hold] = useState<Held>();
  const [reviewer, setReviewer] = useReviewer();
  const which = listed.includes(view) ? (view as Which) : undefined;
  const about = useLinkage(id);
  const pairs = useLinkedPairs(
    id,
    about.data && !about.data.waits ? which : undefined,
    from,
    view === "spot" ? 200 : shown,
    reviewer,
  );
  const clusters = useClusters(id, from, shown, view === "clusters");
  const disagreements = useDisagreements(id, (about.data?.disagreements ?? 0) > 0);
  const decide = useDecidePairs(id);
  const spot = useSpotPair(id);
  const { data } = about;
  const list = which ? (pairs.data?.pairs ?? []) : [];
  const groups = view === "clusters" ? (clusters.data?.clusters ?? []) : [];
  const at = Math.min(chosen, Math.max(list.length + groups.length - 1, 0));
  const pair = list[at];
  const error = about.error ?? pairs.error ?? clusters.error ?? decide.error ?? spot.error;

  const decideAll = (all: Schemas["PairDecision"][], done?: () => void) =>
    decide.mutate({ pairs: all.map((p) => ({ ...p, by: reviewer })) }, { onSuccess: done });
  const say = (same: boolean | undefined) => {
    if (!pair || decide.isPending || spot.isPending) return;
    const said = { a: pair.left.key, b: pair.right.key, same, by: reviewer };
    if (view === "spot") {
      spot.mutate(said, { onSuccess: () => choose(Math.min(at + 1, list.length - 1)) });
      return;
    }
    decide.mutate({ pairs: [{ ...said, note }] }, { onSuccess: () => setNote("") });
  };
  const last = decide.isSuccess && !decide.variables.withdraw ? decide.variables.pairs : undefined;
  const back = () => last && decide.mutate({ pairs: last, withdraw: true });
  useKeys({
    ArrowDown: () => choose(Math.min(at + 1, list.length + groups.length - 1)),
    ArrowUp: () => choose(Math.max(at - 1, 0)),
    s: () => say(true),
    d: () => say(false),
    u: () => say(undefined),
    b: back,
    n: () => document.querySelector<HTMLInputElement>("input[aria-label=Note]")?.focus(),
  });
  const show = (v: View) => {
    setView(v);
    setFrom(0);
    choose(0);
  };
  const turn = (to: number) => {
    setFrom(to);
    choose(0);
  };
  if (data?.waits) return <Waiting linkage={data} id={id} />;
  return (
    <Spread
      widths="5fr 6fr"
      left={
        <Page
          side="left"
          title={data?.name ?? "Linkage"}
          tab={data?.name}
          sub={
            data &&
            `${count(data.records, "record")} of ${listing(data.tables.map((t) => t.name))}; ${n(data.compared)} of ${n(data.possible)} possible pairs were worth comparing.`
          }
          foot={
            which && (
              <Keys
                keys={[
                  [["↑", "↓"], "pair"],
                  [["S"], "the same"],
                  [["D"], "different"],
                  ...(view === "spot"
                    ? []
                    : ([
                        [["U"], "undecided"],
                        [["N"], "note"],
                        [["B"], "take that back"],
                      ] as [string[], string][])),
                ]}
              />
            )
          }
        >
          {error && <ProblemNotice error={error} />}
          {about.isPending && <Loading what="Comparing the records that share something…" />}
          {data && (
            <div className="flex shrink-0 flex-col gap-1.5">
              <Segments<View>
                label="What is shown"
                value={view}
                options={[
                  { value: "review", name: `To review (${n(data.review)})` },
                  ...(data.undecided > 0
                    ? [{ value: "undecided" as View, name: `Undecided (${n(data.undecided)})` }]
                    : []),
                  { value: "links", name: `Links (${n(data.links)})` },
                  { value: "clusters", name: `Clusters (${n(data.clusters)})` },
                ]}
                onChange={show}
              />
              <Segments<View>
                label="How it is done"
                value={view}
                options={[
                  { value: "setup", name: "Set up" },
                  { value: "weighing", name: "Weights and cuts" },
                  { value: "spot", name: "How right is it?" },
                  { value: "golden", name: "Golden values" },
                ]}
                onChange={show}
              />
            </div>
          )}
          {last && view !== "spot" && (
            <div className="mt-2">
              <Notice tone="green">
                {last.length > 1
                  ? `${count(last.length, "pair")} decided`
                  : last[0]?.same === undefined
                    ? "Left undecided"
                    : last[0].same
                      ? "Held to be the same"
                      : "Kept apart"}
                , in every later run and delivery.{" "}
                <Button kind="quiet" onClick={back}>
                  Take that back
                </Button>
              </Notice>
            </div>
          )}
          {data?.notes.map((text) => (
            <p key={text} className="mt-2 text-ochre">
              {text[0]?.toUpperCase()}
              {text.slice(1)}.
            </p>
          ))}
          {data && view === "weighing" && <Cuts linkage={data} id={id} />}
          {data && view === "setup" && <Setup linkage={data} id={id} />}
          {data && view === "golden" && <GoldenValues linkage={data} id={id} reviewer={reviewer} />}
          {data && view === "spot" && <SpotCheck linkage={data} />}
          {view === "review" && (
            <p className="mt-2 flex items-center gap-2 text-ink-2">
              Reviewing as
              <Input
                aria-label="Reviewing as"
                className="h-6 w-28"
                placeholder="your name"
                defaultValue={reviewer}
                onBlur={(e) => setReviewer(e.target.value.trim())}
              />
              {reviewer && <span className="text-[12px]">ten pairs at a time are kept for you</span>}
            </p>
          )}
          {which && pairs.data && list.length === 0 && (
            <Empty>
              {view === "links" || data?.links === 0
                ? "No two records look like one thing."
                : "Every pair is settled: nothing lies between a link and none. Draw the golden records, or look at the links."}
            </Empty>
          )}
          {list.length > 0 && (
            <PairList
              pairs={list}
              total={pairs.data?.total ?? 0}
              from={from}
              shown={view === "spot" ? 200 : shown}
              at={at}
              onChoose={choose}
              onFrom={turn}
            />
          )}
          {groups.length > 0 && (
            <ClusterList
              clusters={groups}
              total={clusters.data?.total ?? 0}
              from={from}
              shown={shown}
              at={at}
              onChoose={choose}
              onFrom={turn}
            />
          )}
          {view === "review" && disagreements.data && disagreements.data.length > 0 && (
            <section aria-label="Disagreements" className="mt-4">
              <h3 className="mb-1 text-[14px]">Reviewers do not agree</h3>
              {disagreements.data.map((d) => (
                <p key={d.a + d.b} className="border-b border-rule-2 py-1">
                  {d.left} – {d.right}: {d.by || "somebody"} says {d.same ? "the same" : "different"},{" "}
                  {d.otherwise || "somebody"} said otherwise{d.note && ` (${d.note})`}.
                </p>
              ))}
            </section>
          )}
        </Page>
      }
      right={
        <RightPage
          id={id}
          linkage={data}
          pair={pair}
          cluster={groups[at]}
          held={held}
          onHold={hold}
          onDecide={decideAll}
          onSay={say}
          beside={
            data && view === "weighing" ? (
              <Weighing linkage={data} />
            ) : data && view === "setup" ? (
              <Blocking linkage={data} />
            ) : undefined
          }
          besideTitle={view === "weighing" ? "What each agreement weighs, in bits" : "Which records are compared"}
          spot={view === "spot"}
          note={note}
          onNote={setNote}
          busy={decide.isPending || spot.isPending}
        />
      }
    />
  );
}
