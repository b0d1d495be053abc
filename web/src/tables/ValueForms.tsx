import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Input, Select } from "../design/Field";
import { Value } from "../design/Value";
import { RuleForm } from "../duplicates/RuleForm";
import { asParams, plainRule, ruleOf, type Rule } from "../duplicates/rule";
import { ReadingForm } from "./ReadingForm";
import { plain, type Reading } from "./readings";
import { Several } from "./Several";
import { options, Row, useShaping, type FormProps } from "./ShapeForms";
import { chosenOf, empty, StepsForm, stepsOf } from "./StepsForm";

/** Rewrites the text of one or more columns by steps. */
export function TidyForm({ names, column, params: p, onShape }: FormProps<Schemas["Tidy"]>) {
  const [columns, setColumns] = useState<string[]>(p?.columns ?? [column]);
  const [chosen, choose] = useState(() => (p ? chosenOf(p.steps) : empty));
  const steps = stepsOf(chosen);
  useShaping(columns.length > 0 && steps.length > 0 ? { columns, steps } : null, onShape);
  return (
    <>
      <StepsForm chosen={chosen} onChange={choose} />
      <div className="mt-3">
        <Several names={names} chosen={columns} label="Columns to tidy" onChoose={setColumns} />
      </div>
    </>
  );
}

/** Sets repeats aside. */
export function DuplicatesForm({ names, params: p, onShape }: FormProps<Schemas["Duplicates"]>) {
  const [rule, setRule] = useState<Rule>(p ? ruleOf(p) : plainRule);
  useShaping(asParams(rule), onShape);
  return (
    <>
      <div className="mb-3">
        <Several names={names} chosen={rule.key} label="Key" onChoose={(key) => setRule({ ...rule, key })} />
      </div>
      <RuleForm rule={rule} names={names} onChange={setRule} />
    </>
  );
}

/** Maps values to others, one line each. */
export function ValuesForm({ names, column, params: p, onShape }: FormProps<Schemas["Values"]>) {
  const [of, setOf] = useState(p?.column ?? column);
  const [changes, setChanges] = useState<Schemas["Values"]["changes"]>(p?.changes ?? [{ from: "", to: "" }]);
  const said = changes.filter((c) => c.from !== c.to);
  useShaping(said.length > 0 ? { ...p, column: of, changes: said } : null, onShape);
  const set = (i: number, part: Partial<(typeof changes)[number]>) =>
    setChanges(changes.map((c, j) => (i === j ? { ...c, ...part } : c)));
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Column">
        <Select label="Column of the values" value={of} options={options(names)} onChange={setOf} className="w-52" />
        {p?.crosswalk && <span className="text-[12px] text-ink-2">remembered in the crosswalk {p.crosswalk}</span>}
      </Row>
      <Row label="Values">
        <span className="flex max-h-96 w-full flex-col gap-1 overflow-y-auto">
          {changes.map((c, i) => (
            <span key={i} className="flex items-center gap-2">
              <Input
                aria-label={`Value ${i + 1}`}
                className="w-44"
                value={c.from}
                onChange={(e) => set(i, { from: e.target.value })}
              />
              <span className="text-ink-2">becomes</span>
              <Input
                aria-label={`What value ${i + 1} becomes`}
                className="w-44"
                value={c.to}
                onChange={(e) => set(i, { to: e.target.value })}
              />
              <Button kind="quiet" onClick={() => setChanges(changes.filter((_, j) => j !== i))}>
                remove
              </Button>
            </span>
          ))}
          <span>
            <Button kind="small" onClick={() => setChanges([...changes, { from: "", to: "" }])}>
              One more value
            </Button>
          </span>
        </span>
      </Row>
    </div>
  );
}

/** Changes what one cell becomes. */
export function CellForm({ params: p, onShape }: FormProps<Schemas["Cell"]>) {
  const [to, setTo] = useState(p?.to ?? "");
  useShaping(p && to !== p.from ? { ...p, to } : null, onShape);
  if (!p) return null;
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Cell">
        {p.column} of source row {p.row}: <Value value={p.from} />
      </Row>
      <Row label="Becomes">
        <Input aria-label="What the cell becomes" className="w-72" value={to} onChange={(e) => setTo(e.target.value)} />
      </Row>
    </div>
  );
}

/** How a column is read. */
export function ReadForm({ names, column, params: p, onShape }: FormProps<Schemas["ReadingEntry"]>) {
  const [of, setOf] = useState(p?.column ?? column);
  const [reading, setReading] = useState<Reading>(p?.reading ?? plain("text"));
  useShaping({ column: of, reading }, onShape);
  return (
    <div className="grid grid-cols-[100px_1fr] gap-y-2.5">
      <Row label="Column">
        <Select label="Column to read" value={of} options={options(names)} onChange={setOf} className="w-52" />
      </Row>
      <Row label="Read as">
        <ReadingForm reading={reading} onChange={setReading} />
      </Row>
    </div>
  );
}
