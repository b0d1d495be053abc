import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useTable } from "../api/queries";
import { Balance } from "../design/Balance";
import { Button, ButtonLink } from "../design/Button";
import { Loading, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { count, figure, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { plainColumns, RowGrid } from "../tables/RowGrid";
import { TableHead, TableSub } from "../tables/TableHead";
import { useWatchChange, useWatches } from "./useWatches";
import { WatchForm } from "./WatchForm";

/** The rules a table is to hold: whether each does, the rows that break it, and new ones. */
export function WatchesPage() {
  const { book, table } = useBook();
  const { data, error } = useTable(table);
  const watches = useWatches(table, data?.revision);
  const change = useWatchChange(table);
  const [chosen, choose] = useState<number>();
  const all = watches.data ?? [];
  const at = all.find((w) => w.id === chosen) ?? all.find((w) => !w.finding?.holds) ?? all[0];
  const broken = all.filter((w) => !w.finding?.holds).length;
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title={data?.name ?? "…"}
          tab={data && `Watches of ${data.name}`}
          sub={data && <TableSub table={data} />}
        >
          {(error ?? watches.error) && <ProblemNotice error={error ?? watches.error} />}
          {data && <TableHead table={data} />}
          {watches.isPending && !error && <Loading what="Checking the watches…" />}
          {all.length > 0 && (
            <table className="w-full table-fixed" aria-label="Watches">
              <tbody>
                {all.map((w) => (
                  <tr
                    key={w.id}
                    aria-selected={w === at}
                    onClick={() => choose(w.id)}
                    className={`cursor-pointer border-b border-rule-2 align-baseline ${w === at ? "bg-pencil-bg" : "hover:bg-paper-2"}`}
                  >
                    <td className="py-1.5 pr-2 font-semibold">{w.words}</td>
                    <td className="w-[30%] py-1.5 text-right">{state(w)}</td>
                    <td className="w-[52px] text-right">
                      <Button
                        kind="quiet"
                        aria-label={`Drop the watch that ${w.words}`}
                        onClick={() => change.mutate({ drop: w.id })}
                      >
                        drop
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {watches.data?.length === 0 && (
            <p className="py-2 text-ink-2">
              Nothing is watched yet. A watch says what has to hold; a delivery that breaks it is held until you have
              seen it.
            </p>
          )}
          <Heading>Watch something more</Heading>
          {change.error && <ProblemNotice error={change.error} />}
          {data && (
            <WatchForm table={data} busy={change.isPending} onAdd={(add) => change.mutate({ add })} key={all.length} />
          )}
          <Heading>Before a record is entered</Heading>
          <p className="mb-2 text-ink-2">See whether it is in the table already, exactly or nearly.</p>
          <ButtonLink to={tablePath(book, table, "/check")}>Is it there already?</ButtonLink>
        </Page>
      }
      right={
        <Page
          side="right"
          title={at?.words ?? "What breaks a watch"}
          sub={at && (at.finding?.holds ? "It holds on every row." : "Rows of the table as it stands.")}
          foot={
            all.length > 0 && (
              <Balance
                figures={[
                  { label: "Watches", value: n(all.length) },
                  { label: "Hold", value: n(all.length - broken), tone: "green" },
                  { label: "Do not hold", value: n(broken), tone: broken > 0 ? "red" : undefined, final: true },
                ]}
              />
            )
          }
        >
          {at?.problem && (
            <p className="text-red">
              It cannot be checked: {at.problem.detail}. {at.problem.remedy}.
            </p>
          )}
          {at?.finding && data && <Broken watch={at} finding={at.finding} table={table} revision={data.revision} />}
        </Page>
      }
    />
  );
}

function state(w: Schemas["Watch"]) {
  if (!w.finding) return <span className="text-red">cannot be checked</span>;
  if (w.finding.holds) {
    return <span className="text-green">holds{w.finding.figure && `, ${figure(w.finding.figure)}`}</span>;
  }
  return (
    <span className="text-red">
      {w.finding.figure ? `is ${figure(w.finding.figure)}` : `${count(w.finding.against, "row")} against it`}
    </span>
  );
}

interface BrokenProps {
  watch: Schemas["Watch"];
  finding: Schemas["WatchFinding"];
  table: number;
  revision: number;
}

/** The values and rows that break a watch. */
function Broken({ watch: w, finding: f, table, revision }: BrokenProps) {
  const page = (from: number, many: number) =>
    ask(
      api.GET("/tables/{table}/watches/{watch}", {
        params: { path: { table, watch: w.id }, query: { revision, from, count: many } },
      }),
    );
  const listed = !f.holds && w.rule.kind !== "total";
  const head = useQuery({
    queryKey: ["watch rows", table, w.id, revision, "head"],
    enabled: listed,
    queryFn: () => page(0, 1),
  });
  return (
    <>
      {f.figure && (
        <p className="py-2">
          The total is <b className="font-serif text-[17px] font-semibold">{figure(f.figure)}</b>
          {f.unread > 0 && <span className="text-ochre">; {count(f.unread, "row")} hold no number</span>}.
        </p>
      )}
      {f.values.length > 0 && (
        <table className="mb-3 w-full table-fixed" aria-label="Values not in the crosswalk">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="py-1">Not in the crosswalk</th>
              <th className="w-[20%] text-right">Rows</th>
            </tr>
          </thead>
          <tbody>
            {f.values.slice(0, 12).map((l) => (
              <tr key={l.value} className="h-[26px] border-b border-rule-2">
                <td className="truncate pr-2">
                  <Value value={l.value} />
                </td>
                <td className="text-right">{n(l.rows)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {listed && head.data && head.data.total > 0 && (
        <RowGrid
          name={["watch rows", table, w.id, revision]}
          columns={plainColumns(head.data.columns)}
          total={head.data.total}
          page={async (from, many) => (await page(from, many)).rows}
        />
      )}
    </>
  );
}
