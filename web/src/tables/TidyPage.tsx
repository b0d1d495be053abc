import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useRegister, type Draft } from "../api/queries";
import { Check, Segments } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { ColumnChoice } from "./ColumnChoice";
import { EffectPairs } from "./EffectPairs";
import { usePosting } from "./PostBar";
import { useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { usePinned } from "./usePinned";

type Case = NonNullable<Schemas["Tidy"]["case"]>;

const cases: { value: Case; name: string }[] = [
  { value: "", name: "as it is" },
  { value: "lower", name: "lower" },
  { value: "upper", name: "UPPER" },
  { value: "sentence", name: "First word" },
  { value: "title", name: "Every Word" },
];

/** Trims and collapses spaces and changes letter case, in one entry over one or more columns. */
export function TidyPage() {
  const { table } = useBook();
  const [query] = useSearchParams();
  const pinned = usePinned(table);
  const register = useRegister(table, pinned.revision, useWhere(table).text);
  const [columns, setColumns] = useState<string[]>(query.get("column") ? [query.get("column")!] : []);
  const [trim, setTrim] = useState(true);
  const [collapse, setCollapse] = useState(true);
  const [letter, setLetter] = useState<Case>("");
  const something = columns.length > 0 && (trim || collapse || letter !== "");
  const draft: Draft | null =
    something && pinned.revision !== undefined
      ? {
          revision: pinned.revision,
          kind: "tidy",
          params: { columns, trim, collapse, ...(letter && { case: letter }) },
        }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    idle: columns.length === 0 ? "Choose a column" : "Choose what to tidy",
    onPosted: () => setColumns([]),
  });
  const effect = draft && posting.drafted.data?.effect;
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
          <div className="grid grid-cols-[90px_1fr] items-center gap-y-2">
            <span className="text-ink-2">Spaces</span>
            <span className="flex gap-4">
              <Check checked={trim} onChange={setTrim}>
                trim at both ends
              </Check>
              <Check checked={collapse} onChange={setCollapse}>
                doubled ones to one
              </Check>
            </span>
            <span className="text-ink-2">Letter case</span>
            <span>
              <Segments label="Letter case" value={letter} options={cases} onChange={setLetter} />
            </span>
          </div>
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

function Figure({ of }: { of: number }) {
  return <span className={of ? "text-ochre" : "text-ink-3"}>{n(of)}</span>;
}
