import { useState } from "react";
import type { Schemas } from "../api/client";
import { useApart } from "../api/queries";
import type { useCrosswalkEdit } from "../api/spellings";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Input, Labelled, Select } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Heading, Page } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n, when } from "../design/words";
import type { StandardLine } from "./standards";

interface Props {
  book: number;
  name: string;
  standard: StandardLine | undefined;
  all: StandardLine[];
  apart: Schemas["Apart"][];
  edit: ReturnType<typeof useCrosswalkEdit>;
  onChosen: (value: string) => void;
}

/** The right page of a crosswalk: one standard value, its variants with who decided on what evidence, and what is kept apart. */
export function StandardPage({ book, name, standard, all, apart, edit, onChosen }: Props) {
  const withdraw = useApart(book, name);
  const variants = all.reduce((sum, s) => sum + s.variants.length, 0);
  return (
    <Page
      side="right"
      title={standard ? <Value value={standard.value} /> : "No standard value yet"}
      sub={standard && `${count(standard.variants.length, "other spelling")} known.`}
      foot={
        <Balance
          figures={[
            { label: "Spellings", value: n(variants) },
            { label: "Kept apart", value: n(apart.length) },
            { label: "Standard values", value: n(all.length), final: true },
          ]}
        />
      }
    >
      {withdraw.error && <ProblemNotice error={withdraw.error} />}
      {standard && <Said {...{ standard, all, edit, onChosen }} />}
      {standard && <Variants {...{ standard, all, edit }} />}
      <Heading>Kept apart</Heading>
      {apart.length === 0 && <p className="text-ink-2">No pair yet.</p>}
      <ul>
        {apart.map((p) => (
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
  );
}

type Part = Pick<Props, "all" | "edit"> & { standard: StandardLine };

/** The standard value itself: its name, code, note and broader value. */
function Said({ standard, all, edit, onChosen }: Part & Pick<Props, "onChosen">) {
  const [value, setValue] = useState(standard.value);
  const [code, setCode] = useState(standard.code ?? "");
  const [note, setNote] = useState(standard.note ?? "");
  const [broader, setBroader] = useState(standard.broader ?? "");
  const to = value.trim();
  const other = all.find((s) => s.value === to && s.value !== standard.value);
  const says = code !== (standard.code ?? "") || note !== (standard.note ?? "") || broader !== (standard.broader ?? "");
  return (
    <>
      <div className="flex items-end gap-2">
        <div className="min-w-0 flex-1 [&_input]:w-full">
          <Labelled label="Standard value">
            <Input
              aria-label="Standard value"
              value={value}
              onChange={(e) => setValue(e.target.value)}
              list="all-standard-values"
            />
          </Labelled>
        </div>
        <Button
          kind="plain"
          className="h-7! self-end!"
          disabled={to === "" || to === standard.value || edit.isPending}
          onClick={() => edit.mutate({ do: "rename", from: standard.value, to }, { onSuccess: () => onChosen(to) })}
        >
          {other ? `Merge into ${other.value.slice(0, 24)}` : "Rename"}
        </Button>
      </div>
      <datalist id="all-standard-values">
        {all.slice(0, 500).map((s) => (
          <option key={s.value} value={s.value} />
        ))}
      </datalist>
      <div className="mt-2 grid grid-cols-[110px_1fr] gap-2 [&_input]:w-full">
        <Labelled label="Code">
          <Input value={code} onChange={(e) => setCode(e.target.value)} />
        </Labelled>
        <Labelled label="Broader value">
          <Select
            label="Broader value"
            value={broader}
            options={[
              { value: "", name: "none" },
              ...all.filter((s) => s.value !== standard.value).map((s) => ({ value: s.value, name: s.value })),
            ]}
            onChange={setBroader}
          />
        </Labelled>
      </div>
      <div className="mt-2 flex items-end gap-2">
        <div className="min-w-0 flex-1 [&_input]:w-full">
          <Labelled label="Note">
            <Input value={note} onChange={(e) => setNote(e.target.value)} />
          </Labelled>
        </div>
        <Button
          kind="plain"
          className="h-7! self-end!"
          disabled={!says || edit.isPending}
          onClick={() => edit.mutate({ do: "say", standard: { value: standard.value, code, note, broader } })}
        >
          Keep
        </Button>
      </div>
    </>
  );
}

/** The variants of a standard value; each can go to another one or be forgotten, and one can be added. */
function Variants({ standard, all, edit }: Part) {
  const [adding, setAdding] = useState("");
  const decide = (variant: string, to: string) =>
    edit.mutate({
      do: "decide",
      change: { lines: [{ variant, standard: to, why: "" }], overrule: true },
    });
  return (
    <>
      <Heading>Also written</Heading>
      <ul aria-label="Variants">
        {standard.variants.map((v) => (
          <li key={v.variant} className="flex items-center gap-2 border-b border-rule-2 py-1">
            <span className="w-[34%] shrink-0 truncate">
              <Value value={v.variant} />
            </span>
            <span className="min-w-0 flex-1 truncate text-[12px] text-ink-2" title={`${v.why}; ${when(v.decidedAt)}`}>
              {[v.why, v.table ? `entry ${v.entry} of ${v.table}` : "by hand"].filter(Boolean).join("; ")}
            </span>
            <Select
              label={`Where ${v.variant} goes`}
              value={standard.value}
              options={all.map((s) => ({ value: s.value, name: s.value === standard.value ? "Move…" : s.value }))}
              onChange={(to) => decide(v.variant, to)}
              className="h-6! w-22 text-[12px]"
            />
            <Button kind="small" onClick={() => edit.mutate({ do: "forget", value: v.variant })}>
              Forget
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          decide(adding, standard.value);
        }}
      >
        <Input
          className="w-56"
          aria-label="Another spelling"
          placeholder="Another spelling"
          value={adding}
          onChange={(e) => setAdding(e.target.value)}
        />
        <Button kind="small" type="submit" disabled={adding.trim() === "" || edit.isPending}>
          Add
        </Button>
        {standard.variants.length === 0 && (
          <Button kind="small" onClick={() => edit.mutate({ do: "forget", value: standard.value })}>
            Drop this standard value
          </Button>
        )}
      </form>
    </>
  );
}
