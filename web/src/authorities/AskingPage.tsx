import { useState } from "react";
import { useParams } from "react-router";
import { useAskedValues, useAsking, useAskService, useDecideAsked, useTrouble, type AskedState } from "../api/askings";
import { Button } from "../design/Button";
import { Input, Segments } from "../design/Field";
import { Keys, useKeys } from "../design/Keys";
import { Empty, Loading, Notice, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { Turn } from "../design/Turn";
import { Value } from "../design/Value";
import { count, listing, n } from "../design/words";
import { useReviewer } from "../linkage/useReviewer";
import { Candidates } from "./Candidates";
import { StandsBar } from "./StandsBar";

const shown = 50;

type View = AskedState | "trouble";

/** A column and an authority: where its values stand, the candidates of each, and what comes home. */
export function AskingPage() {
  const { asking } = useParams();
  const id = Number(asking);
  return <Asked key={id} id={id} />;
}

function Asked({ id }: { id: number }) {
  const [view, setView] = useState<View>("undecided");
  const [search, setSearch] = useState("");
  const [from, setFrom] = useState(0);
  const [chosen, choose] = useState(0);
  const [reviewer] = useReviewer();
  const about = useAsking(id);
  const values = useAskedValues(id, view === "trouble" ? "undecided" : view, search, from, shown);
  const trouble = useTrouble(id, view === "trouble");
  const decide = useDecideAsked(id);
  const service = useAskService(id);
  const { data } = about;
  const list = view === "trouble" ? [] : (values.data?.values ?? []);
  const at = Math.min(chosen, Math.max(list.length - 1, 0));
  const value = list[at];
  const say = (state: AskedState, identifier = "", standard = "") =>
    value &&
    !decide.isPending &&
    decide.mutate({ values: [{ of: value.of, state, identifier, standard, by: reviewer }] });
  const take = (i: number) => {
    const entry = value?.candidates[i]?.entry;
    if (entry) say("identified", entry.identifier, entry.name);
  };
  const last = decide.isSuccess && !decide.variables.withdraw ? decide.variables : undefined;
  const back = () => last && decide.mutate({ ...last, withdraw: true });
  const local = () =>
    value && say("not listed", `local-${value.of[0]!.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "-")}`, value.of[0]);
  useKeys({
    ArrowDown: () => choose(Math.min(at + 1, list.length - 1)),
    ArrowUp: () => choose(Math.max(at - 1, 0)),
    ...Object.fromEntries([0, 1, 2, 3, 4, 5].map((i) => [String(i + 1), () => take(i)])),
    l: local,
    u: () => say("undecided"),
    b: back,
  });
  const counted = (state: AskedState) => data?.counts.find((c) => c.state === state)?.values ?? 0;
  const show = (v: View) => {
    setView(v);
    setFrom(0);
    choose(0);
  };
  const testimony = data && data.with.length > 0 && listing(data.with.map((w) => w.columns.join(" and ")));
  return (
    <Spread
      widths="5fr 6fr"
      left={
        <Page
          side="left"
          title={data ? `${data.column}, by ${data.authority}` : "Authority"}
          tab={data?.name}
          sub={
            data &&
            `${count(data.rows, "row")} of ${data.tableName}. ${testimony ? `${testimony} ${data.with.length > 1 ? "testify" : "testifies"}.` : "Asked by the names alone."}`
          }
          foot={
            <Keys
              keys={[
                [["↑", "↓"], "value"],
                [["1–6"], "take a candidate"],
                [["L"], "not listed"],
                [["U"], "undecided"],
                [["B"], "take that back"],
              ]}
            />
          }
        >
          {(about.error ?? values.error ?? decide.error ?? service.error) && (
            <ProblemNotice error={about.error ?? values.error ?? decide.error ?? service.error} />
          )}
          {about.isPending && <Loading what="Weighing the candidates…" />}
          {data && <StandsBar asking={data} />}
          {data && data.unasked > 0 && (
            <Notice tone="ochre">
              {count(data.unasked, "value")} {data.unasked === 1 ? "was" : "were"} not asked yet.{" "}
              {data.job ? (
                "They are being asked; the work goes on when this page is closed."
              ) : (
                <>
                  The names of {data.column} are sent to {data.address}.{" "}
                  <Button kind="small" disabled={service.isPending} onClick={() => service.mutate()}>
                    Ask {data.authority}
                  </Button>
                </>
              )}
            </Notice>
          )}
          {data && (
            <div className="mt-2 flex shrink-0 flex-wrap items-center gap-2">
              <Segments<View>
                label="Which values"
                value={view}
                options={[
                  { value: "undecided", name: `Undecided (${n(counted("undecided"))})` },
                  { value: "identified", name: `Identified (${n(counted("identified"))})` },
                  { value: "not listed", name: `Not listed (${n(counted("not listed"))})` },
                  { value: "trouble", name: "Its trouble" },
                ]}
                onChange={show}
              />
              {view !== "trouble" && (
                <Input
                  aria-label="Search the values"
                  placeholder="Search"
                  className="w-28"
                  value={search}
                  onChange={(e) => {
                    setSearch(e.target.value);
                    setFrom(0);
                  }}
                />
              )}
            </div>
          )}
          {last && (
            <div className="mt-2">
              <Notice tone="green">
                {last.values[0]?.state === "identified" ? `It is ${last.values[0].identifier}` : last.values[0]?.state}:
                kept for every row of these values and for later deliveries.{" "}
                <Button kind="quiet" onClick={back}>
                  Take that back
                </Button>
              </Notice>
            </div>
          )}
          {view === "trouble" && trouble.data && (
            <>
              <Heading>To tell the keepers of {data?.authority}</Heading>
              {trouble.data.length === 0 && <Empty>Nothing in it is listed twice or contradicts what we know.</Empty>}
              <ul>
                {trouble.data.map((t) => (
                  <li key={t.words} className="border-b border-rule-2 py-1">
                    {t.words}.
                  </li>
                ))}
              </ul>
              {trouble.data.length > 0 && (
                <p className="mt-2">
                  <a
                    className="text-pencil underline"
                    download="trouble.csv"
                    href={`data:text/csv;charset=utf-8,${encodeURIComponent(
                      "kind,identifiers,what\n" +
                        trouble.data
                          .map((t) =>
                            [t.kind, t.identifiers.join(" "), t.words]
                              .map((c) => `"${c.replaceAll('"', '""')}"`)
                              .join(","),
                          )
                          .join("\n"),
                    )}`}
                  >
                    Save as CSV
                  </a>
                </p>
              )}
            </>
          )}
          {view !== "trouble" && values.data && list.length === 0 && (
            <Empty>
              {view === "undecided"
                ? "Every value is identified or not listed. Bring the identifiers home."
                : `No value is ${view}.`}
            </Empty>
          )}
          {list.length > 0 && (
            <table className="mt-2 w-full table-fixed">
              <thead>
                <tr className="border-b border-ink text-[12px] text-ink-2 [&_th]:font-normal">
                  <th className="py-1 text-left">{data?.column}</th>
                  <th className="w-[38%] text-left">{view === "not listed" ? "local entry" : "best candidate"}</th>
                  <th className="w-[60px] text-right">Rows</th>
                </tr>
              </thead>
              <tbody>
                {list.map((v, i) => (
                  <tr
                    key={v.of.join("\u0000")}
                    className={`h-[27px] cursor-pointer border-b border-rule-2 ${i === at ? "bg-pencil-bg" : "hover:bg-paper-2"}`}
                    aria-selected={i === at}
                    onClick={() => choose(i)}
                  >
                    <td className="truncate pr-3" title={v.of.join(", ")}>
                      <Value value={v.of[0] ?? ""} />{" "}
                      <span className="text-ink-2">{v.of.slice(1).filter(Boolean).join(", ")}</span>
                    </td>
                    <td className={`truncate pr-3 ${v.decided ? "" : "text-pencil"}`}>{v.standard || "–"}</td>
                    <td className="text-right">{n(v.rows)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {view !== "trouble" && <Turn from={from} shown={shown} total={values.data?.total ?? 0} onFrom={setFrom} />}
        </Page>
      }
      right={
        <Candidates
          key={value?.of.join("\u0000")}
          id={id}
          asking={data}
          value={value}
          onTake={(entry) => say("identified", entry.identifier, entry.name)}
          onUndecided={() => say("undecided")}
          onLocal={local}
          busy={decide.isPending}
        />
      }
    />
  );
}
