import { useState } from "react";
import { useSetSettling } from "../api/reconciliations";
import type { Schemas } from "../api/client";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Check, Input, Labelled, Select } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Heading, Page } from "../design/Spread";
import { n } from "../design/words";

type Columns = Schemas["LedgerColumns"];

const parts: { key: "date" | "amount" | "debit" | "credit" | "reference" | "currency" | "direction"; name: string }[] =
  [
    { key: "date", name: "Date" },
    { key: "amount", name: "Amount, with its sign" },
    { key: "debit", name: "or debits" },
    { key: "credit", name: "and credits" },
    { key: "direction", name: "Words for debit and credit" },
    { key: "reference", name: "Reference" },
    { key: "currency", name: "Currency" },
  ];

const passes = [
  "The same reference, amount and date",
  "The same reference and amount, days apart",
  "The same amount, texts alike",
  "The same reference, amounts that hardly differ",
  "Several that add up",
  "Likely errors: digits swapped, a slide, the sign, gross for net",
];

/** Which columns of the two ledgers hold what, and how far items may lie apart. */
export function SettleSetup({
  id,
  reconciliation,
  onBack,
}: {
  id: number;
  reconciliation: Schemas["Reconciliation"];
  onBack: () => void;
}) {
  const [spec, setSpec] = useState(reconciliation.spec);
  const set = useSetSettling(id);
  const now = (state: "settled" | "offered" | "open") => reconciliation.statement[state].reduce((a, b) => a + b, 0);
  const without = spec.without ?? [];
  const side = (which: "ours" | "theirs") => {
    const columns = spec[which];
    const table = reconciliation[which];
    if (!columns) return null;
    const change = (part: Partial<Columns>) => setSpec({ ...spec, [which]: { ...columns, ...part } });
    return (
      <section className="flex min-w-0 flex-col gap-1.5">
        <Heading>{table.name}</Heading>
        {parts.map((p) => (
          <Labelled key={p.key} label={p.name}>
            <Select
              label={`${p.name} of ${table.name}`}
              value={columns[p.key]}
              options={[{ value: "", name: "none" }, ...table.columns.map((c) => ({ value: c, name: c }))]}
              onChange={(c) => change({ [p.key]: c })}
            />
          </Labelled>
        ))}
        <p className="text-[11.5px] text-ink-2">Texts: description, counterparty</p>
        {table.columns.map((c) => (
          <Check
            key={c}
            checked={(columns.texts ?? []).includes(c)}
            onChange={(on) =>
              change({ texts: on ? [...(columns.texts ?? []), c] : (columns.texts ?? []).filter((x) => x !== c) })
            }
          >
            <span className="truncate">{c}</span>
          </Check>
        ))}
      </section>
    );
  };
  return (
    <Page
      side="right"
      title="How it is settled"
      sub="Kept for the next delivery of the two tables."
      foot={
        <Balance
          figures={[
            { label: "Settled as it is", value: n(now("settled")) },
            { label: "Offered", value: n(now("offered")), tone: "ochre" },
            { label: "Open", value: n(now("open")), tone: "ochre" },
          ]}
        >
          <Button kind="quiet" onClick={onBack}>
            Leave it as it is
          </Button>
          <Button kind="main" disabled={set.isPending} onClick={() => set.mutate(spec, { onSuccess: onBack })}>
            {set.isPending ? "Settling…" : "Settle them so"}
          </Button>
        </Balance>
      }
    >
      {set.error && <ProblemNotice error={set.error} />}
      <div className="flex flex-wrap items-end gap-3">
        <Labelled label="Days apart">
          <Input
            aria-label="Days apart"
            type="number"
            min={0}
            className="w-20"
            value={spec.window ?? 5}
            onChange={(e) => setSpec({ ...spec, window: Number(e.target.value) })}
          />
        </Labelled>
        <Labelled label="Amounts may differ by, in thousandths">
          <Input
            aria-label="Tolerance"
            type="number"
            min={0}
            max={200}
            className="w-20"
            value={spec.tolerance ?? 10}
            onChange={(e) => setSpec({ ...spec, tolerance: Number(e.target.value) })}
          />
        </Labelled>
        <Check
          checked={spec.theirs?.turned === true}
          onChange={(turned) => spec.theirs && setSpec({ ...spec, theirs: { ...spec.theirs, turned } })}
        >
          Their amounts have the other sign
        </Check>
      </div>
      <Heading>Passes, from the surest to the weakest</Heading>
      <div className="flex flex-col gap-1">
        {passes.map((name, i) => (
          <Check
            key={name}
            checked={!without.includes(i + 1)}
            onChange={(on) =>
              setSpec({ ...spec, without: on ? without.filter((p) => p !== i + 1) : [...without, i + 1] })
            }
          >
            {name}
          </Check>
        ))}
      </div>
      <div className="grid grid-cols-2 gap-6">
        {side("ours")}
        {side("theirs")}
      </div>
    </Page>
  );
}
