import { Fragment, useDeferredValue, useState } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import type { Draft } from "../api/queries";
import { WhereStrip } from "../conditions/WhereStrip";
import { Segments } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { EffectPairs } from "./EffectPairs";
import { effectWords, moves, usePosting } from "./PostBar";
import { EntryForm, forms, type FormKind } from "./EntryForm";
import type { Shaping } from "./ShapeForms";
import { usePinned } from "./usePinned";

const named = (kinds: FormKind[]) => kinds.map((value) => ({ value, name: forms[value].name }));
const ofColumns = named(["columns", "split", "combine", "formula", "review"]);
const ofRows = named(["fill", "number", "gather", "add", "putback"]);
const ofRepeats = named(["mark", "merge", "renumber", "check"]);

/** Changes which columns and rows a table has: splits, combines, works out, fills, gathers, adds, checks. */
export function ShapePage() {
  const { table } = useBook();
  const [query, setQuery] = useSearchParams();
  const kind = (query.get("do") as FormKind | null) ?? "columns";
  const pinned = usePinned(table);
  const names = pinned.table?.columns ?? [];
  const [shaping, shape] = useState<Shaping | null>(null);
  // What is typed is drafted once the typing pauses.
  const params = useDeferredValue(shaping);
  const draft: Draft | null =
    params && pinned.revision !== undefined
      ? { revision: pinned.revision, kind, params: params as Draft["params"] }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    whole: kind !== "fill" && !(kind === "formula" && params && "replace" in params && params.replace),
    idle: "Say what is to change",
    onPosted: () => shape(null),
  });
  const effect = draft && !posting.drafted.error ? posting.drafted.data?.effect : undefined;
  const form = { names, column: query.get("column") ?? names[0] ?? "", onShape: shape };
  return (
    <Spread
      left={
        <Page
          side="left"
          title="Shape the table"
          tab="Shape the table"
          sub={pinned.table && `${pinned.table.name}, ${count(names.length, "column")}.`}
        >
          {pinned.error ? <ProblemNotice error={pinned.error} /> : null}
          {(kind === "fill" || kind === "formula") && <WhereStrip revision={pinned.revision} />}
          <div className="grid shrink-0 grid-cols-[76px_1fr] items-center gap-y-1.5 text-ink-2">
            {(
              [
                ["Columns", ofColumns],
                ["Rows, cells", ofRows],
                ["Repeats", ofRepeats],
              ] as const
            ).map(([label, options]) => (
              <Fragment key={label}>
                {label}
                <span className="text-ink">
                  <Segments
                    label={label}
                    value={kind}
                    options={options}
                    onChange={(next) => {
                      shape(null);
                      setQuery({ do: next }, { replace: true });
                    }}
                  />
                </span>
              </Fragment>
            ))}
          </div>
          {names.length > 0 && (
            <div key={`${pinned.revision} ${kind}`} className="mt-3">
              <EntryForm kind={kind} {...form} revision={pinned.revision} />
            </div>
          )}
        </Page>
      }
      right={
        <Page
          side="right"
          title={effect ? (posting.drafted.data?.words ?? "") : "What would change"}
          sub="Worked out on every row. Nothing changes until you post."
          foot={posting.strip}
        >
          {posting.notices}
          {effect?.evaluation && <Evaluation evaluation={effect.evaluation} made={effect.shape !== undefined} />}
          {effect?.shape && <After shape={effect.shape} columns={effect.columns} />}
          {effect && effect.changed > 0 && !effect.evaluation && (
            <EffectPairs effect={effect} columns={effect.columns.length > 1} />
          )}
          {effect &&
            moves(effect) &&
            effect.columns.map((c) => c.top && <Parts key={c.column} column={c.column} top={c.top} />)}
          {effect && kind === "putback" && <p className="py-2">{effectWords(effect)}</p>}
          {effect && kind === "check" && <p className="py-4">It holds on every row. Post it to keep it so.</p>}
          {effect && effect.columns.some((c) => c.dropped) && <Dropped columns={effect.columns} />}
          {effect && kind !== "check" && !effect.shape && effect.changed === 0 && !moves(effect) && (
            <p className="py-4 text-ink-2">Nothing to change: no cell would become another.</p>
          )}
        </Page>
      }
    />
  );
}

/** What merged rows give up where they say something else than the row that stays. */
function Dropped({ columns }: { columns: Schemas["ColumnEffect"][] }) {
  return (
    <ul aria-label="What merged rows give up">
      {columns
        .filter((c) => c.dropped)
        .map((c) => (
          <li key={c.column} className="border-b border-rule-2 py-1 text-ochre">
            {count(c.dropped!, "cell")} of {c.column} {c.dropped === 1 ? "says" : "say"} something else than the row
            that stays.
          </li>
        ))}
    </ul>
  );
}

/** The most frequent of the parts that become rows, or of the lists that rows become. */
function Parts({ column, top }: { column: string; top: Schemas["Line"][] }) {
  return (
    <table className="mb-4 w-full table-fixed" aria-label={`Values of ${column} afterwards`}>
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="py-1">{column}, most frequent values afterwards</th>
          <th className="w-[20%] text-right">Rows</th>
        </tr>
      </thead>
      <tbody>
        {top.map((l) => (
          <tr key={l.value} className="h-[27px] border-b border-rule-2">
            <td className="truncate pr-2">
              <Value value={l.value} className="pencilled" />
            </td>
            <td className="text-right">{n(l.rows)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What a formula makes of the cells of real rows: those it fails on first, the most frequent, the rarest. */
function Evaluation({ evaluation: e, made }: { evaluation: Schemas["Evaluation"]; made: boolean }) {
  return (
    <>
      {e.failed > 0 && (
        <p className="mb-2 text-ochre">
          It fails on {count(e.failed, "row")};{" "}
          {made ? "the new cell stays blank there" : "the cells stay as they were there"}.
        </p>
      )}
      <table className="mb-4 w-full table-fixed" aria-label="What the formula gives">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            {e.names.slice(0, 4).map((name) => (
              <th key={name} className="truncate py-1 pr-2" title={name}>
                {name}
              </th>
            ))}
            <th className="w-[34%]">Gives</th>
            <th className="w-[12%] text-right">Rows</th>
          </tr>
        </thead>
        <tbody>
          {e.worked.map((w, i) => (
            <tr key={i} className="h-[27px] border-b border-rule-2">
              {w.from.slice(0, 4).map((v, j) => (
                <td key={j} className="truncate pr-2">
                  <Value value={v} />
                </td>
              ))}
              <td className="truncate pr-2" title={w.why}>
                {w.why ? <span className="text-ochre">{w.why}</span> : <Value value={w.to} className="pencilled" />}
              </td>
              <td className="text-right">{n(w.rows)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

interface AfterProps {
  shape: Schemas["Shape"];
  columns: Schemas["ColumnEffect"][];
}

/** The columns as they would stand, new ones pencilled, and those that go struck through. */
function After({ shape, columns }: AfterProps) {
  const effect = (name: string) => columns.find((c) => c.column === name);
  const gone = shape.before.filter((c) => !shape.after.includes(c));
  return (
    <table className="w-full table-fixed" aria-label="Columns afterwards">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="w-[9%] py-1 pr-3 text-right" />
          <th>Column</th>
          <th className="w-[44%]">Such as</th>
          <th className="w-[14%] text-right">Distinct</th>
        </tr>
      </thead>
      <tbody>
        {shape.after.map((name, i) => {
          const made = !shape.before.includes(name);
          return (
            <tr key={name} className="h-[27px] border-b border-rule-2">
              <td className="pr-3 text-right text-ink-3">{i + 1}</td>
              <td className="truncate">
                <span className={made ? "pencilled" : ""}>{name}</span>
              </td>
              <td className="truncate pr-2 text-ink-2">
                {effect(name)?.top?.map((l, i) => (
                  <span key={l.value}>
                    {i > 0 && " · "}
                    <Value value={l.value} />
                  </span>
                ))}
              </td>
              <td className="text-right">{effect(name) && n(effect(name)!.distinctAfter)}</td>
            </tr>
          );
        })}
        {gone.map((name) => (
          <tr key={name} className="h-[27px] border-b border-rule-2">
            <td />
            <td className="truncate">
              <span className="struck">{name}</span>
            </td>
            <td className="text-ink-2">{effect(name) ? "dropped" : "renamed"}</td>
            <td />
          </tr>
        ))}
      </tbody>
    </table>
  );
}
