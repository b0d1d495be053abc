import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useApart, useCrosswalk } from "../api/queries";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { Empty, Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { VirtualList } from "../design/VirtualList";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";

type Decision = Schemas["Decision"];

/** A crosswalk: each spelling that was decided on, the value it becomes, and what is kept apart. */
export function CrosswalkPage() {
  const { book } = useBook();
  const [query] = useSearchParams();
  const name = query.get("name") ?? "";
  const { data, error, isPending, dataUpdatedAt } = useCrosswalk(book, name);
  const [find, setFind] = useState("");
  const withdraw = useApart(book, name);
  const wanted = find.toLowerCase();
  const lines = (data?.lines ?? [])
    .filter((l) => !wanted || l.variant.toLowerCase().includes(wanted) || l.standard.toLowerCase().includes(wanted))
    .toSorted((a, b) => a.standard.localeCompare(b.standard) || a.variant.localeCompare(b.variant));
  const standards = new Set(data?.lines.map((l) => l.standard)).size;
  return (
    <Spread
      widths="8fr 4fr"
      left={
        <Page
          side="left"
          title={`Crosswalk of ${name}`}
          tab={`Crosswalk of ${name}`}
          sub={
            data &&
            `${count(data.lines.length, "spelling")} of ${count(standards, "standard value")}. Every table of the book with a column of this name is asked against it.`
          }
        >
          {(error ?? withdraw.error) && <ProblemNotice error={error ?? withdraw.error} />}
          {isPending && <Loading what="Opening the crosswalk…" />}
          {data && data.lines.length === 0 && (
            <Empty>
              Nothing is decided yet. Open a column’s variant spellings, take what is right, and post; it is remembered
              here.
            </Empty>
          )}
          {data && data.lines.length > 0 && (
            <>
              <Input
                className="mb-2 w-60 shrink-0"
                placeholder="Search the crosswalk"
                aria-label="Search the crosswalk"
                value={find}
                onChange={(e) => setFind(e.target.value)}
              />
              <VirtualList<Decision>
                name={["crosswalk lines", book, name, find, dataUpdatedAt]}
                total={lines.length}
                page={(from, number) => Promise.resolve(lines.slice(from, from + number))}
                label="Spellings"
                header={
                  <div className="sticky top-0 z-10 grid grid-cols-[1fr_1fr_1fr_1fr] border-b border-ink bg-paper py-1 text-[12px] text-ink-2">
                    <span>Spelling</span>
                    <span>Becomes</span>
                    <span>Evidence</span>
                    <span>Decided in</span>
                  </div>
                }
                line={(l) => (
                  <div className="grid h-full grid-cols-[1fr_1fr_1fr_1fr] items-center">
                    <span role="gridcell" className="truncate pr-3">
                      <Value value={l.variant} />
                    </span>
                    <span role="gridcell" className="truncate pr-3 font-medium">
                      <Value value={l.standard} />
                    </span>
                    <span role="gridcell" className="truncate pr-3 text-ink-2" title={l.why}>
                      {l.why}
                    </span>
                    <span role="gridcell" className="truncate text-ink-2" title={l.table}>
                      entry {l.entry} of {l.table}
                    </span>
                  </div>
                )}
              />
            </>
          )}
        </Page>
      }
      right={
        <Page
          side="right"
          title="Kept apart"
          sub="Pairs that are two things, however alike they look."
          foot={
            <Balance
              figures={[
                { label: "Spellings", value: n(data?.lines.length ?? 0) },
                { label: "Standard values", value: n(standards), final: true },
              ]}
            />
          }
        >
          {data && data.apart.length === 0 && <p className="text-ink-2">No pair yet.</p>}
          <ul>
            {data?.apart.map((p) => (
              <li
                key={`${p.value} ${p.other}`}
                className="flex items-center justify-between gap-2 border-b border-rule-2 py-1"
              >
                <span className="min-w-0 truncate">
                  <Value value={p.value} /> <span className="text-red">≠</span> <Value value={p.other} />
                </span>
                <Button kind="small" onClick={() => withdraw.mutate({ ...p, withdraw: true })}>
                  Withdraw
                </Button>
              </li>
            ))}
          </ul>
        </Page>
      }
    />
  );
}
