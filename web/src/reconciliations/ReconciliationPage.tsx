import { useState } from "react";
import { useParams } from "react-router";
import { useDecideItems, useReconciledItems, useReconciliation, useWithdrawItems } from "../api/reconciliations";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Keys, useKeys } from "../design/Keys";
import { Empty, Loading, Notice, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Turn } from "../design/Turn";
import { count, n } from "../design/words";
import { useReviewer } from "../linkage/useReviewer";
import { ClassList, Step } from "./ClassList";
import { ItemsPage } from "./ItemsPage";
import { SettleSetup } from "./SettleSetup";

const shown = 50;

type Group = Schemas["SettledGroup"];

/** Two ledgers: the walk from our balance to theirs class by class, the items of each, and what is decided of them. */
export function ReconciliationPage() {
  const { reconciliation } = useParams();
  const id = Number(reconciliation);
  return <Proved key={id} id={id} />;
}

const of = (g: Group) => g.ours[0] ?? g.theirs[0];

function Proved({ id }: { id: number }) {
  const about = useReconciliation(id);
  const { data } = about;
  const [wanted, setWanted] = useState<string>();
  const [from, setFrom] = useState(0);
  const [chosen, choose] = useState(0);
  const [held, hold] = useState<Group[]>([]);
  const [setup, setSetup] = useState(false);
  const [reviewer] = useReviewer();
  const there = data?.statement.classes.map((c) => c.class) ?? [];
  const name = wanted ?? data?.classes.find((c) => there.includes(c)) ?? "";
  const items = useReconciledItems(id, name, from, shown);
  const decide = useDecideItems(id);
  const withdraw = useWithdrawItems(id);
  const list = items.data?.groups ?? [];
  const at = Math.min(chosen, Math.max(list.length - 1, 0));
  const group = list[at];
  const show = (c: string) => {
    setWanted(c);
    setFrom(0);
    choose(0);
  };
  const say = (kind: "settle" | "break" | "explain", groups: Group[], note: string) =>
    !decide.isPending &&
    decide.mutate(
      {
        kind,
        note,
        by: reviewer,
        ours: groups.flatMap((g) => g.ours.map((i) => i.key)),
        theirs: groups.flatMap((g) => g.theirs.map((i) => i.key)),
      },
      { onSuccess: () => hold([]) },
    );
  const last = decide.isSuccess && !withdraw.isSuccess ? decide.data.number : undefined;
  const back = () => last !== undefined && withdraw.mutate(last);
  const toggle = () =>
    group &&
    !group.settled &&
    hold(
      held.some((h) => of(h)?.key === of(group)?.key)
        ? held.filter((h) => of(h)?.key !== of(group)?.key)
        : [...held, group],
    );
  const busy = decide.isPending || withdraw.isPending || data?.closed === true;
  useKeys({
    ArrowDown: () => choose(Math.min(at + 1, list.length - 1)),
    ArrowUp: () => choose(Math.max(at - 1, 0)),
    " ": toggle,
    s: () =>
      !busy && (held.length > 0 ? say("settle", held, "") : group?.set && !group.settled && say("settle", [group], "")),
    k: () => !busy && group?.set && say("break", [group], ""),
    b: back,
  });
  return (
    <Spread
      widths="5fr 6fr"
      left={
        <Page
          side="left"
          title={data?.name ?? "Reconciliation"}
          tab={data?.name}
          sub={
            data &&
            `${count(data.statement.items[0] ?? 0, "item")} of ${data.ours.name} against ${n(data.statement.items[1] ?? 0)} of ${data.theirs.name}.`
          }
          foot={
            <Keys
              keys={[
                [["↑", "↓"], "item"],
                [["Space"], "hold for a set"],
                [["S"], "settle"],
                [["K"], "keep open"],
                [["B"], "take that back"],
              ]}
            />
          }
        >
          {(about.error ?? items.error ?? decide.error ?? withdraw.error) && (
            <ProblemNotice error={about.error ?? items.error ?? decide.error ?? withdraw.error} />
          )}
          {about.isPending && <Loading what="Settling what agrees…" />}
          {data?.closed && (
            <Notice tone={data.stale ? "ochre" : "green"}>
              Closed by {data.signed}
              {data.note && `: ${data.note}`}.
              {data.stale && " The tables have moved on since; reopen it to prove them again."}
            </Notice>
          )}
          {last !== undefined && (
            <Notice tone="green">
              Decided, for every later look and delivery.{" "}
              <Button kind="quiet" onClick={back}>
                Take that back
              </Button>
            </Notice>
          )}
          {data && (
            <ClassList
              statement={data.statement}
              ours={data.ours.name}
              theirs={data.theirs.name}
              chosen={name}
              onChoose={show}
            />
          )}
          {items.data && list.length === 0 && <Empty>Nothing is left in this class.</Empty>}
          {list.length > 0 && (
            <table className="mt-3 w-full table-fixed">
              <thead>
                <tr className="border-b border-ink text-[12px] text-ink-2 [&_th]:font-normal">
                  <th className="w-[84px] py-1 text-left">Date</th>
                  <th className="text-left">{name}</th>
                  <th className="w-[56px] text-right">Items</th>
                  <th className="w-[96px] text-right">Difference</th>
                </tr>
              </thead>
              <tbody>
                {list.map((g, i) => {
                  const first = of(g);
                  const isHeld = held.some((h) => of(h)?.key === first?.key);
                  return (
                    <tr
                      key={`${g.set} ${first?.key}`}
                      className={`h-[27px] cursor-pointer border-b border-rule-2 ${i === at ? "bg-pencil-bg" : "hover:bg-paper-2"}`}
                      aria-selected={i === at}
                      onClick={() => choose(i)}
                    >
                      <td className="truncate">{first?.date}</td>
                      <td className="truncate pr-2">
                        {isHeld && <span className="pencilled mr-1">held</span>}
                        {first?.reference} <span className="text-ink-2">{first?.text}</span>
                      </td>
                      <td className="text-right text-ink-2">{n(g.ours.length + g.theirs.length)}</td>
                      <td className="text-right">
                        <Step difference={g.difference} />
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          )}
          <Turn from={from} shown={shown} total={items.data?.total ?? 0} onFrom={setFrom} />
        </Page>
      }
      right={
        setup && data ? (
          <SettleSetup id={id} reconciliation={data} onBack={() => setSetup(false)} />
        ) : (
          <ItemsPage
            id={id}
            reconciliation={data}
            group={group}
            held={held}
            onHold={toggle}
            onDrop={() => hold([])}
            onSay={say}
            onWithdraw={(number) => withdraw.mutate(number)}
            onSetup={() => setSetup(true)}
            busy={busy}
          />
        )
      }
    />
  );
}
