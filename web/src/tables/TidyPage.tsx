import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useRegister, type Draft } from "../api/queries";
import { useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { Button } from "../design/Button";
import { Loading, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { ColumnChoice } from "./ColumnChoice";
import { EffectPairs } from "./EffectPairs";
import { usePosting } from "./PostBar";
import { empty, StepsForm, stepsOf, type Chosen } from "./StepsForm";
import { usePinned } from "./usePinned";

/** Rewrites the text of one or more columns in one entry: what the columns need, or what the steward chooses. */
export function TidyPage() {
  const { table } = useBook();
  const [query] = useSearchParams();
  const pinned = usePinned(table);
  const where = useWhere(table).text;
  const register = useRegister(table, pinned.revision, where);
  const suggestions = useQuery({
    queryKey: ["suggestions", table, pinned.revision, where],
    enabled: pinned.revision !== undefined,
    staleTime: Infinity,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/suggestions", {
          params: { path: { table }, query: { revision: pinned.revision, where } },
        }),
      ),
  });
  const [columns, setColumns] = useState<string[]>(query.get("column") ? [query.get("column")!] : []);
  const [chosen, choose] = useState<Chosen>(query.get("column") ? { ...empty, marks: ["trim", "collapse"] } : empty);
  const steps = useDeferredValue(stepsOf(chosen));
  const draft: Draft | null =
    columns.length > 0 && steps.length > 0 && pinned.revision !== undefined
      ? { revision: pinned.revision, kind: "tidy", params: { columns, steps } }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    idle: columns.length === 0 ? "Choose a column" : "Choose what to tidy",
    onPosted: () => {
      setColumns([]);
      choose(empty);
    },
  });
  const take = (all: Schemas["TidySuggestion"][]) => {
    const wanted = new Set(all.flatMap((s) => s.columns));
    setColumns((register.data ?? []).map((p) => p.column).filter((c) => wanted.has(c)));
    choose({ ...empty, marks: all.map((s) => s.step.op) as Chosen["marks"] });
  };
  const effect = draft && posting.drafted.data?.effect;
  const needs = suggestions.data ?? [];
  return (
    <Spread
      left={
        <Page
          side="left"
          title="Tidy values"
          tab="Tidy values"
          sub={pinned.table && `${pinned.table.name}, ${count(pinned.table.rows, "row")}.`}
        >
          {(pinned.error ?? register.error) && <ProblemNotice error={pinned.error ?? register.error} />}
          <WhereStrip revision={pinned.revision} />
          {needs.length > 0 && <Needs needs={needs} onTake={take} />}
          <Heading>What to do</Heading>
          <StepsForm chosen={chosen} onChange={choose} />
          <Heading>In these columns</Heading>
          {register.isPending && <Loading />}
          {register.data && (
            <ColumnChoice
              label="Columns to tidy"
              profiles={register.data}
              chosen={columns}
              onChoose={setColumns}
              figures={[
                { name: "Distinct", of: (p) => n(p.distinct) },
                { name: "Loose spaces", of: (p) => <Figure of={p.spaces.values} /> },
                { name: "Look alike", of: (p) => <Figure of={p.alike.values} /> },
              ]}
            />
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
          {effect && effect.changed === 0 && (
            <p className="py-4 text-ink-2">Nothing to change: these columns are tidy in this already.</p>
          )}
          {effect && effect.changed > 0 && (
            <>
              <p className="mb-2">
                {count(effect.changed, "distinct value")} {effect.changed === 1 ? "changes" : "change"}.
              </p>
              <EffectPairs effect={effect} columns={columns.length > 1} />
            </>
          )}
        </Page>
      }
    />
  );
}

interface NeedsProps {
  needs: Schemas["TidySuggestion"][];
  onTake: (all: Schemas["TidySuggestion"][]) => void;
}

/** What the columns need, worded as what it fixes, in the order that makes sense. */
function Needs({ needs, onTake }: NeedsProps) {
  return (
    <table className="w-full table-fixed" aria-label="What the columns need">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="w-[46%] py-1">The columns need</th>
          <th>Such as</th>
          <th className="w-[12%] text-right">Cells</th>
          <th className="w-[16%] text-right">
            {needs.length > 1 && (
              <Button kind="small" onClick={() => onTake(needs)}>
                Draft all
              </Button>
            )}
          </th>
        </tr>
      </thead>
      <tbody>
        {needs.map((s) => (
          <tr key={s.step.op} className="border-b border-rule-2">
            <td className="py-1 pr-2 text-ochre" title={s.columns.join(", ")}>
              {s.words}
            </td>
            <td className="truncate pr-2">
              <Value value={s.example} />
            </td>
            <td className="text-right">{n(s.rows)}</td>
            <td className="text-right">
              <Button kind="small" onClick={() => onTake([s])}>
                Draft
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Figure({ of }: { of: number }) {
  return <span className={of ? "text-ochre" : "text-ink-3"}>{n(of)}</span>;
}
