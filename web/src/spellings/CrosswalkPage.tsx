import { useState } from "react";
import { useSearchParams } from "react-router";
import { useCrosswalk } from "../api/queries";
import { useCrosswalkEdit } from "../api/spellings";
import { Button } from "../design/Button";
import { Check, Input, Segments } from "../design/Field";
import { Keys, useKeys } from "../design/Keys";
import { Empty, Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { VirtualList } from "../design/VirtualList";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { CrosswalkFiles } from "./CrosswalkFiles";
import { CrosswalkUses } from "./CrosswalkUses";
import { StandardPage } from "./StandardPage";
import { StartCrosswalk } from "./StartCrosswalk";
import { standardsOf, type StandardLine } from "./standards";

type View = "standards" | "tables";

/** A crosswalk: its standard values with their variants, to be worked on as a list, and the tables it is for. */
export function CrosswalkPage() {
  const [query] = useSearchParams();
  const name = query.get("name");
  return name ? <Crosswalk key={name} name={name} /> : <StartCrosswalk />;
}

function Crosswalk({ name }: { name: string }) {
  const { book } = useBook();
  const { data, error, isPending, dataUpdatedAt } = useCrosswalk(book, name);
  const edit = useCrosswalkEdit(book, name);
  const [view, setView] = useState<View>("standards");
  const [find, setFind] = useState("");
  const [chosen, choose] = useState<string>();
  const all = standardsOf(data);
  const wanted = find.toLowerCase();
  const lines = wanted
    ? all.filter((s) =>
        [s.value, s.code, ...s.variants.map((v) => v.variant)].some((v) => v?.toLowerCase().includes(wanted)),
      )
    : all;
  const at = Math.max(
    0,
    lines.findIndex((s) => s.value === chosen),
  );
  const standard = lines[at];
  const go = (to: number) => choose(lines[Math.min(Math.max(to, 0), lines.length - 1)]?.value);
  useKeys({ ArrowDown: () => go(at + 1), ArrowUp: () => go(at - 1) });
  const pending = data?.uses.reduce((sum, u) => sum + u.coverage.pendingRows, 0) ?? 0;
  return (
    <Spread
      widths="6fr 5fr"
      left={
        <Page
          side="left"
          title={`Crosswalk of ${name}`}
          tab={`Crosswalk of ${name}`}
          sub={
            data &&
            `${count(data.lines.length, "spelling")} of ${count(data.standards.length, "standard value")}. Every table with a column of this name is asked against it.`
          }
          foot={<Keys keys={[[["↑", "↓"], "standard value"]]} />}
        >
          {error && <ProblemNotice error={error} />}
          {isPending && <Loading what="Opening the crosswalk…" />}
          {data && (
            <div className="mb-2 flex flex-wrap items-center gap-2">
              <Segments<View>
                label="What is shown"
                value={view}
                options={[
                  { value: "standards", name: "Standard values" },
                  { value: "tables", name: pending > 0 ? `Tables (${n(pending)} rows behind)` : "Tables" },
                ]}
                onChange={setView}
              />
              <CrosswalkFiles book={book} name={name} empty={data.standards.length === 0} />
            </div>
          )}
          {data && view === "standards" && data.standards.length > 0 && (
            <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1">
              <Input
                className="w-44"
                placeholder="Search the crosswalk"
                aria-label="Search the crosswalk"
                value={find}
                onChange={(e) => setFind(e.target.value)}
              />
              <Check checked={data.closed} onChange={(closed) => edit.mutate({ do: "close", closed })}>
                <span className="text-[12px] text-ink-2" title="Spellings are tied to one of them or to none">
                  These are all right values there are
                </span>
              </Check>
            </div>
          )}
          {edit.error && <ProblemNotice error={edit.error} />}
          {data && view === "tables" && <CrosswalkUses book={book} name={name} uses={data.uses} />}
          {data && view === "standards" && data.standards.length === 0 && (
            <Empty>
              Nothing is decided yet. Open a column’s variant spellings, take what is right, and post; it is remembered
              here. Or read a file: two columns, variant and standard, or one list of right values.
            </Empty>
          )}
          {view === "standards" && lines.length > 0 && (
            <VirtualList<StandardLine>
              name={["standard values", book, name, find, dataUpdatedAt]}
              total={lines.length}
              page={(from, number) => Promise.resolve(lines.slice(from, from + number))}
              label="Standard values"
              selected={at}
              scrollTo={at}
              header={
                <div className="sticky top-0 z-10 grid grid-cols-[3fr_1fr_4fr] border-b border-ink bg-paper py-1 text-[12px] text-ink-2">
                  <span>Standard value</span>
                  <span>Code</span>
                  <span>Also written</span>
                </div>
              }
              line={(s) => (
                <div
                  className="grid h-full cursor-pointer grid-cols-[3fr_1fr_4fr] items-center hover:bg-paper-2"
                  onClick={() => choose(s.value)}
                >
                  <span role="gridcell" className="truncate pr-3 font-medium" style={{ paddingLeft: 14 * s.depth }}>
                    <Value value={s.value} />
                  </span>
                  <span role="gridcell" className="truncate pr-3">
                    {s.code}
                  </span>
                  <span role="gridcell" className="truncate pr-3 text-ink-2">
                    {s.variants.length > 0 && `${n(s.variants.length)}: `}
                    {s.variants.slice(0, 5).map((v, i) => (
                      <span key={v.variant}>
                        {i > 0 && ", "}
                        <Value value={v.variant} />
                      </span>
                    ))}
                  </span>
                </div>
              )}
            />
          )}
          {data && view === "standards" && lines.length === 0 && data.standards.length > 0 && (
            <p className="text-ink-2">
              None of them has “{find}” in it.{" "}
              <Button kind="quiet" onClick={() => setFind("")}>
                Show all
              </Button>
            </p>
          )}
        </Page>
      }
      right={
        <StandardPage
          key={`${name} ${standard?.value} ${dataUpdatedAt}`}
          book={book}
          name={name}
          standard={standard}
          all={all}
          apart={data?.apart ?? []}
          edit={edit}
          onChosen={choose}
        />
      }
    />
  );
}
