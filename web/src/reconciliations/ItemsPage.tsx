import { useState } from "react";
import { useClose, useReopen } from "../api/reconciliations";
import type { Schemas } from "../api/client";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Heading, Page } from "../design/Spread";
import { count, figure, n, sentence } from "../design/words";
import { Step } from "./ClassList";

type Group = Schemas["SettledGroup"];

interface Props {
  id: number;
  reconciliation: Schemas["Reconciliation"] | undefined;
  group: Group | undefined;
  held: Group[];
  onHold: () => void;
  onDrop: () => void;
  onSay: (kind: "settle" | "break" | "explain", groups: Group[], note: string) => void;
  onWithdraw: (number: number) => void;
  onSetup: () => void;
  busy: boolean;
}

function Items({ name, items }: { name: string; items: Schemas["SettledItem"][] }) {
  return (
    <section>
      <h3 className="mb-1 truncate text-[12px] font-normal text-ink-2">{name}</h3>
      {items.length === 0 && <p className="text-ink-3 italic">nothing</p>}
      {items.map((i) => (
        <div key={i.key} className="grid grid-cols-[1fr_auto] border-b border-rule-2 py-1">
          <span className="min-w-0 truncate">
            {i.date} {i.reference}
          </span>
          <span className={`text-right ${i.amount.startsWith("-") ? "text-red" : ""}`}>{figure(i.amount)}</span>
          <span className="col-span-2 truncate text-ink-2">
            row {n(i.row + 1)}
            {i.text && `: ${i.text}`}
          </span>
        </div>
      ))}
    </section>
  );
}

/** The items of a set side by side, what is decided of them, and the closing of the whole. */
export function ItemsPage(p: Props) {
  const { reconciliation: data, group, held } = p;
  const [note, setNote] = useState("");
  const [signed, setSigned] = useState("");
  const close = useClose(p.id);
  const reopen = useReopen(p.id);
  const open = data ? (data.statement.open[0] ?? 0) + (data.statement.open[1] ?? 0) : 0;
  const offered = data ? (data.statement.offered[0] ?? 0) + (data.statement.offered[1] ?? 0) : 0;
  const all = held.length > 0 ? held : group ? [group] : [];
  const ours = all.flatMap((g) => g.ours);
  const theirs = all.flatMap((g) => g.theirs);
  const say = (kind: "settle" | "break" | "explain") => {
    p.onSay(kind, all, note);
    setNote("");
  };
  return (
    <Page
      side="right"
      title={
        held.length > 0
          ? `${count(ours.length + theirs.length, "item")} held for a set`
          : sentence(group?.class ?? "Items")
      }
      sub={held.length > 0 ? "Settled together, their difference is the set's." : group?.reason || undefined}
      foot={
        data && (
          <Balance
            figures={[
              { label: "Settled", value: n((data.statement.settled[0] ?? 0) + (data.statement.settled[1] ?? 0)) },
              { label: "Offered", value: n(offered), tone: "ochre" },
              { label: "Open", value: n(open), tone: "ochre" },
              { label: "Unexplained", value: figure(data.statement.unexplained), tone: "green", final: true },
            ]}
          >
            {data.closed ? (
              <Button disabled={reopen.isPending} onClick={() => reopen.mutate(undefined)}>
                Reopen
              </Button>
            ) : (
              <>
                <Input
                  aria-label="Signed by"
                  placeholder="Signed by"
                  className="w-24"
                  value={signed}
                  onChange={(e) => setSigned(e.target.value)}
                />
                <Button
                  kind="main"
                  disabled={signed.trim() === "" || close.isPending}
                  onClick={() => close.mutate({ signed, note })}
                >
                  Close it
                </Button>
              </>
            )}
          </Balance>
        )
      }
    >
      {(close.error ?? reopen.error) && <ProblemNotice error={close.error ?? reopen.error} />}
      {all.length > 0 && data && (
        <>
          <div className="mb-3 flex flex-wrap items-center gap-2">
            {(held.length > 0 || (group && group.set > 0 && !group.settled)) && (
              <Button disabled={p.busy} onClick={() => say("settle")}>
                Settle together
              </Button>
            )}
            {held.length === 0 && group && group.set > 0 && !group.decision && (
              <Button disabled={p.busy} onClick={() => say("break")}>
                Keep open
              </Button>
            )}
            {held.length === 0 && group?.set === 0 && (
              <>
                <Button disabled={p.busy} onClick={p.onHold}>
                  Hold for a set
                </Button>
                <Button kind="small" disabled={p.busy || note.trim() === ""} onClick={() => say("explain")}>
                  Explain it so
                </Button>
              </>
            )}
            {held.length > 0 && (
              <Button kind="quiet" onClick={p.onDrop}>
                Let them go
              </Button>
            )}
            {group?.decision && held.length === 0 ? (
              <Button kind="small" disabled={p.busy} onClick={() => p.onWithdraw(group.decision!)}>
                Take the decision back
              </Button>
            ) : null}
            <Input
              aria-label="Why"
              placeholder="Why"
              className="w-60"
              value={note}
              onChange={(e) => setNote(e.target.value)}
            />
          </div>
          <div className="grid grid-cols-2 gap-6">
            <Items name={data.ours.name} items={ours} />
            <Items name={data.theirs.name} items={theirs} />
          </div>
          {held.length === 0 && group && (
            <p className="mt-3 text-right">
              <span className="mr-3 text-ink-2">From ours to theirs</span>
              <span className="ruled-off font-serif font-semibold">
                <Step difference={group.difference} />
              </span>
            </p>
          )}
        </>
      )}
      {data && (
        <>
          <Heading>Hand it out</Heading>
          <p className="flex gap-4">
            {(
              [
                ["statement", "Statement (CSV)"],
                ["page", "Statement to print"],
                ["items", "Every item (CSV)"],
              ] as const
            ).map(([what, words]) => (
              <a key={what} className="text-pencil underline" href={`/api/reconciliations/${p.id}/export?what=${what}`}>
                {words}
              </a>
            ))}
          </p>
          <Heading>How it is settled</Heading>
          <p className="text-ink-2">
            Items up to {data.spec.window ?? 5} days apart;{" "}
            {data.spec.ours?.amount || `${data.spec.ours?.debit} and ${data.spec.ours?.credit}`} against{" "}
            {data.spec.theirs?.amount || `${data.spec.theirs?.debit} and ${data.spec.theirs?.credit}`}
            {data.spec.theirs?.turned && ", with the sign turned"}
            {data.spec.without?.length ? `, without ${data.spec.without.length} of the six passes` : ""}.{" "}
            <Button kind="quiet" disabled={data.closed} onClick={p.onSetup}>
              Change it
            </Button>
          </p>
        </>
      )}
    </Page>
  );
}
