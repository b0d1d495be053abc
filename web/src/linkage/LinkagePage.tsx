import { useState } from "react";
import { useParams } from "react-router";
import { useDecidePair, useLinkage, useLinkedPairs, type Which } from "../api/linkages";
import { Button } from "../design/Button";
import { Segments } from "../design/Field";
import { Keys, useKeys } from "../design/Keys";
import { Empty, Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, listing, n } from "../design/words";
import { PairList } from "./PairList";
import { PairPage } from "./PairPage";
import { Weighing } from "./Weighing";

const shown = 50;

type View = Which | "weighing";

/** A linkage under review: the pairs nearest the cut first, both records side by side with what each attribute finds. */
export function LinkagePage() {
  const { linkage } = useParams();
  const id = Number(linkage);
  return <Reviewed key={id} id={id} />;
}

function Reviewed({ id }: { id: number }) {
  const [view, setView] = useState<View>("review");
  const [from, setFrom] = useState(0);
  const which: Which = view === "links" ? "links" : "review";
  const about = useLinkage(id);
  const pairs = useLinkedPairs(id, which, from, shown);
  const decide = useDecidePair(id);
  const [chosen, choose] = useState(0);
  const { data } = about;
  const list = pairs.data?.pairs ?? [];
  const at = Math.min(chosen, Math.max(list.length - 1, 0));
  const pair = view === "weighing" ? undefined : list[at];
  const say = (same: boolean) => pair && !decide.isPending && decide.mutate({ pair, same });
  useKeys({
    ArrowDown: () => choose(Math.min(at + 1, list.length - 1)),
    ArrowUp: () => choose(Math.max(at - 1, 0)),
    s: () => say(true),
    d: () => say(false),
    b: () => decide.isSuccess && decide.mutate({ ...decide.variables, same: undefined }),
  });
  const show = (v: View) => {
    setView(v);
    setFrom(0);
    choose(0);
  };
  const last = decide.isSuccess ? decide.variables : undefined;
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
            <Keys
              keys={[
                [["↑", "↓"], "pair"],
                [["S"], "the same"],
                [["D"], "different"],
                [["B"], "take that back"],
              ]}
            />
          }
        >
          {(about.error ?? pairs.error ?? decide.error) && (
            <ProblemNotice error={about.error ?? pairs.error ?? decide.error} />
          )}
          {about.isPending && <Loading what="Comparing the records that share something…" />}
          {data && (
            <div className="shrink-0">
              <Segments<View>
                label="What is shown"
                value={view}
                options={[
                  { value: "review", name: `To review (${n(data.review)})` },
                  { value: "links", name: `Links (${n(data.links)})` },
                  { value: "weighing", name: "How it weighs" },
                ]}
                onChange={show}
              />
            </div>
          )}
          {last?.same !== undefined && (
            <Notice tone="green">
              {last.same ? "Held to be the same" : "Kept apart"}, in every later run and delivery.{" "}
              <Button kind="quiet" onClick={() => decide.mutate({ ...last, same: undefined })}>
                Take that back
              </Button>
            </Notice>
          )}
          {data?.notes.map((note) => (
            <p key={note} className="mt-2 text-ochre">
              {note[0]?.toUpperCase()}
              {note.slice(1)}.
            </p>
          ))}
          {data && view === "weighing" && <Weighing linkage={data} />}
          {view !== "weighing" && pairs.data && list.length === 0 && (
            <Empty>
              {which === "links" || data?.links === 0
                ? "No two records look like one thing."
                : "Every pair is settled: nothing lies between a link and none. Draw the golden records, or look at the links."}
            </Empty>
          )}
          {view !== "weighing" && list.length > 0 && (
            <PairList
              pairs={list}
              total={pairs.data?.total ?? 0}
              from={from}
              shown={shown}
              at={at}
              onChoose={choose}
              onFrom={(to) => {
                setFrom(to);
                choose(0);
              }}
            />
          )}
        </Page>
      }
      right={<PairPage id={id} linkage={data} pair={pair} onSay={say} busy={decide.isPending} />}
    />
  );
}
