import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Check, Select } from "../design/Field";
import { EntryForm, forms, hasForm, type FormKind } from "./EntryForm";
import { effectWords } from "./PostBar";
import type { Shaping } from "./ShapeForms";

/** An entry of the journal that is amended. */
export interface Line {
  /** Its number; below 0 of one that is inserted. */
  entry: number;
  /** As it stands; none of one that is inserted. */
  was?: Schemas["DeliveryStep"];
  off?: boolean;
  kind?: string;
  /** What it is changed to, or inserted with. */
  params?: Shaping;
  /** What it does, of one that came with a procedure. */
  words?: string;
}

/** The lines as the server takes them; one that is inserted and says nothing yet is left out. */
export const asSteps = (lines: Line[]): Schemas["AmendStep"][] =>
  lines
    .filter((l) => !l.off && (l.was || l.params))
    .map((l) => ({ entry: l.entry, ...(l.params && { kind: l.kind ?? l.was?.kind, params: l.params }) }));

/** The parameters without the condition that narrows them, and that condition. */
function apart(params: unknown): { own: Record<string, unknown>; where?: unknown } {
  const { where, ...own } = (params ?? {}) as Record<string, unknown>;
  return { own, where };
}

interface Props {
  lines: Line[];
  /** The columns of the table as it stands, for an entry that is put at the end. */
  columns: string[];
  revision: number | undefined;
  onChange: (lines: Line[]) => void;
}

/** The entries, each to be changed, switched off, moved, or to insert another one before. */
export function AmendEntries({ lines, columns, revision, onChange }: Props) {
  const [open, setOpen] = useState<number>();
  const set = (i: number, part: Partial<Line>) => onChange(lines.map((l, j) => (i === j ? { ...l, ...part } : l)));
  const move = (i: number, to: number) => {
    const next = [...lines];
    next.splice(to, 0, ...next.splice(i, 1));
    onChange(next);
  };
  const insert = (at: number, kind: string) => {
    const entry = Math.min(0, ...lines.map((l) => l.entry)) - 1;
    onChange(lines.toSpliced(at, 0, { entry, kind }));
    setOpen(entry);
  };
  // The columns before an inserted entry are those before the next one that stands.
  const before = (i: number) => lines.slice(i).find((l) => l.was?.columns)?.was?.columns ?? columns;
  return (
    <>
      {lines.length > 0 && (
        <table className="w-full table-fixed" aria-label="Entries">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="w-[12%] py-1">Entry</th>
              <th>What it does</th>
              <th className="w-[34%]" />
            </tr>
          </thead>
          <tbody>
            {lines.map((l, i) => {
              const name = l.was ? `entry ${l.entry}` : "the inserted entry";
              const kind = l.kind ?? l.was?.kind ?? "";
              return [
                <tr key={l.entry} className="border-b border-rule-2 align-top">
                  <td className="py-1">
                    {l.was ? (
                      <Check checked={!l.off} onChange={(on) => set(i, { off: !on })} label={`Entry ${l.entry}`}>
                        {l.entry}
                      </Check>
                    ) : (
                      <i className="text-pencil">new</i>
                    )}
                  </td>
                  <td className="py-1">
                    <p className={l.off ? "struck" : l.params ? "pencilled" : ""}>
                      {l.was?.words ?? l.words ?? forms[kind as FormKind]?.name}
                    </p>
                    {l.was?.was && (
                      <p className="text-[12px] text-ink-2">{l.params ? "Changed." : effectWords(l.was.was)}</p>
                    )}
                  </td>
                  <td className="py-1">
                    <span className="flex flex-wrap items-center justify-end gap-x-2">
                      {hasForm(kind) && !l.off && (
                        <Button
                          kind="quiet"
                          aria-label={`Change ${name}`}
                          onClick={() => setOpen(open === l.entry ? undefined : l.entry)}
                        >
                          {open === l.entry ? "close" : "change"}
                        </Button>
                      )}
                      {l.was && l.params && (
                        <Button kind="quiet" onClick={() => set(i, { params: undefined })}>
                          as it was
                        </Button>
                      )}
                      {!l.was && (
                        <Button kind="quiet" onClick={() => onChange(lines.filter((_, j) => j !== i))}>
                          remove
                        </Button>
                      )}
                      <Button
                        kind="quiet"
                        disabled={i === 0}
                        aria-label={`Move ${name} up`}
                        onClick={() => move(i, i - 1)}
                      >
                        up
                      </Button>
                      <Button
                        kind="quiet"
                        disabled={i === lines.length - 1}
                        aria-label={`Move ${name} down`}
                        onClick={() => move(i, i + 1)}
                      >
                        down
                      </Button>
                      <Insert label={`Insert before ${name}`} onInsert={(kind) => insert(i, kind)} />
                    </span>
                  </td>
                </tr>,
                open === l.entry && hasForm(kind) && (
                  <tr key={`${l.entry} form`} className="border-b border-ink">
                    <td colSpan={3} className="bg-pencil-bg px-3 py-3">
                      <Changing
                        line={l}
                        kind={kind}
                        columns={l.was?.columns ?? before(i)}
                        revision={revision}
                        onParams={(params) => set(i, { params: params ?? undefined })}
                      />
                    </td>
                  </tr>
                ),
              ];
            })}
          </tbody>
        </table>
      )}
      <p className="py-2">
        <Insert label="Add an entry at the end" onInsert={(kind) => insert(lines.length, kind)} />
      </p>
    </>
  );
}

function Insert({ label, onInsert }: { label: string; onInsert: (kind: string) => void }) {
  return (
    <Select
      label={label}
      value=""
      options={[
        { value: "", name: "insert here" },
        ...Object.entries(forms)
          .filter(([value]) => value !== "cell")
          .map(([value, f]) => ({ value, name: f.name })),
      ]}
      onChange={(kind) => kind !== "" && onInsert(kind)}
      className="w-[104px]"
    />
  );
}

interface ChangingProps {
  line: Line;
  kind: FormKind;
  columns: string[];
  revision: number | undefined;
  onParams: (params: Shaping | null) => void;
}

/** The form of an entry as it was; what is the same as before is no change. */
function Changing({ line, kind, columns, revision, onParams }: ChangingProps) {
  // As it was when the form was opened; what is typed since is the form's own.
  const [start] = useState(() => ({
    ...apart(line.params ?? line.was?.params),
    any: Boolean(line.params ?? line.was),
  }));
  return (
    <EntryForm
      kind={kind}
      names={columns}
      column={columns[0] ?? ""}
      params={start.any ? start.own : undefined}
      revision={revision}
      onShape={(shaping) => {
        const next = shaping && (start.where ? Object.assign({}, shaping, { where: start.where }) : shaping);
        onParams(next && same(next, line.was?.params) ? null : next);
      }}
    />
  );
}

/** Parameters stand for the same where they differ in nothing but what is left out. */
const same = (a: unknown, b: unknown) => b !== undefined && text(a) === text(b);

function text(v: unknown): string {
  if (Array.isArray(v)) return `[${v.map(text).join()}]`;
  if (v === null || typeof v !== "object") return JSON.stringify(v) ?? "";
  return `{${Object.entries(v)
    .filter(
      ([k, x]) =>
        k !== "tables" &&
        x !== undefined &&
        x !== "" &&
        x !== false &&
        x !== 0 &&
        !(Array.isArray(x) && x.length === 0),
    )
    .toSorted(([x], [y]) => (x < y ? -1 : 1))
    .map(([k, x]) => `${k}:${text(x)}`)
    .join()}}`;
}
