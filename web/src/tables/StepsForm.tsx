import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Check, Input, Segments, Select } from "../design/Field";

type Step = Schemas["TidyStep"];
type Op = Step["op"];

/** Steps that need nothing more to be said, in the order they are done. */
const marks = [
  { op: "invisible", name: "invisible characters off" },
  { op: "punctuation", name: "plain quotes and dashes" },
  { op: "footnotes", name: "footnote marks off" },
  { op: "brackets", name: "brackets at the end off" },
  { op: "accents", name: "accents off" },
  { op: "trim", name: "trim at both ends" },
  { op: "collapse", name: "doubled spaces to one" },
] as const;

type Mark = (typeof marks)[number]["op"];
type Case = "" | "lower" | "upper" | "title" | "sentence";

/** What is chosen in the form. */
export interface Chosen {
  marks: Mark[];
  letter: Case;
  language: string;
  replaces: { find: string; with: string; pattern: boolean; whole: boolean; case: boolean }[];
  part: Step | null;
  pad: Step | null;
}

export const empty: Chosen = { marks: [], letter: "", language: "", replaces: [], part: null, pad: null };

/** The steps of what is chosen, those that say enough. */
export function stepsOf(c: Chosen): Step[] {
  const out: Step[] = marks.filter((m) => c.marks.includes(m.op)).map((m) => ({ op: m.op }));
  for (const r of c.replaces) {
    if (r.find !== "") out.push({ ...r, op: "replace" });
  }
  if (c.part && saysEnough(c.part)) out.push(c.part);
  if (c.letter) out.push({ op: c.letter, language: c.language || undefined });
  if (c.pad && (c.pad.width ?? 0) > 0 && c.pad.with) out.push(c.pad);
  return out;
}

/** What the form shows for steps, the other way round. */
export function chosenOf(steps: Step[]): Chosen {
  const out: Chosen = { ...empty, marks: [], replaces: [] };
  for (const s of steps) {
    if (s.op === "replace") {
      out.replaces.push({ find: "", with: "", pattern: false, whole: false, case: false, ...s });
    } else if (s.op === "keep" || s.op === "cut") out.part = s;
    else if (s.op === "pad") out.pad = s;
    else if (cases.some((c) => c.value === s.op)) {
      out.letter = s.op as Case;
      out.language = s.language ?? "";
    } else out.marks.push(s.op as Mark);
  }
  return out;
}

function saysEnough(s: Step): boolean {
  if (s.part === "between") return Boolean(s.from && s.to);
  return Boolean(s.part === "left" ? s.to : s.from) || (s.count ?? 0) > 0;
}

const cases: { value: Case; name: string }[] = [
  { value: "", name: "as it is" },
  { value: "lower", name: "lower" },
  { value: "upper", name: "UPPER" },
  { value: "sentence", name: "First word" },
  { value: "title", name: "Every Word" },
];

const languages = [
  { value: "", name: "any language" },
  { value: "nl", name: "Dutch" },
  { value: "el", name: "Greek" },
  { value: "lt", name: "Lithuanian" },
  { value: "tr", name: "Turkish" },
];

interface Props {
  chosen: Chosen;
  onChange: (chosen: Chosen) => void;
}

/** The steps of a tidy entry. */
export function StepsForm({ chosen: c, onChange }: Props) {
  const set = (part: Partial<Chosen>) => onChange({ ...c, ...part });
  const replace = (i: number, part: Partial<Chosen["replaces"][number]>) =>
    set({ replaces: c.replaces.map((r, j) => (i === j ? { ...r, ...part } : r)) });
  return (
    <div className="grid grid-cols-[92px_1fr] items-start gap-y-2">
      <span className="text-ink-2">Marks, spaces</span>
      <span className="flex flex-wrap gap-x-4 gap-y-1">
        {marks.map((m) => (
          <Check
            key={m.op}
            checked={c.marks.includes(m.op)}
            onChange={(on) => set({ marks: on ? [...c.marks, m.op] : c.marks.filter((x) => x !== m.op) })}
          >
            {m.name}
          </Check>
        ))}
      </span>
      <span className="text-ink-2">Letter case</span>
      <span className="flex flex-wrap items-center gap-2">
        <Segments label="Letter case" value={c.letter} options={cases} onChange={(letter) => set({ letter })} />
        {c.letter !== "" && c.letter !== "sentence" && (
          <Select
            label="Language of the letters"
            value={c.language}
            options={languages}
            onChange={(language) => set({ language })}
            className="w-32"
          />
        )}
      </span>
      <span className="text-ink-2">Replace</span>
      <span className="flex flex-col gap-1">
        {c.replaces.map((r, i) => (
          <span key={i} className="flex flex-wrap items-center gap-x-2 gap-y-1">
            <Input
              aria-label="Look for"
              placeholder={r.pattern ? "pattern, such as (\\d+) kilos" : "look for"}
              className="w-36"
              value={r.find}
              onChange={(e) => replace(i, { find: e.target.value })}
            />
            <span className="text-ink-2">by</span>
            <Input
              aria-label="Replace by"
              placeholder="nothing"
              className="w-28"
              value={r.with}
              onChange={(e) => replace(i, { with: e.target.value })}
            />
            <Check checked={r.whole} onChange={(whole) => replace(i, { whole })}>
              whole value
            </Check>
            <Check checked={r.case} onChange={(on) => replace(i, { case: on })}>
              case matters
            </Check>
            <Check checked={r.pattern} onChange={(pattern) => replace(i, { pattern })}>
              pattern
            </Check>
            <Button kind="quiet" onClick={() => set({ replaces: c.replaces.filter((_, j) => j !== i) })}>
              remove
            </Button>
          </span>
        ))}
        <Button
          kind="quiet"
          onClick={() =>
            set({ replaces: [...c.replaces, { find: "", with: "", pattern: false, whole: false, case: false }] })
          }
        >
          Replace text or a pattern
        </Button>
      </span>
      <span className="text-ink-2">A part</span>
      {c.part ? (
        <PartForm part={c.part} onChange={(part) => set({ part })} />
      ) : (
        <span>
          <Button kind="quiet" onClick={() => set({ part: { op: "keep", part: "left" } })}>
            Keep or cut a part
          </Button>
        </span>
      )}
      <span className="text-ink-2">Pad</span>
      {c.pad ? (
        <span className="flex flex-wrap items-center gap-2">
          <span className="text-ink-2">to</span>
          <Input
            aria-label="Characters"
            inputMode="numeric"
            className="w-14"
            value={c.pad.width ? String(c.pad.width) : ""}
            onChange={(e) => set({ pad: { ...c.pad!, width: whole(e.target.value) } })}
          />
          <span className="text-ink-2">characters with</span>
          <Input
            aria-label="Pad with"
            className="w-10"
            maxLength={2}
            value={c.pad.with ?? ""}
            onChange={(e) => set({ pad: { ...c.pad!, with: e.target.value } })}
          />
          <Segments
            label="Side to pad"
            value={c.pad.right ? "right" : "left"}
            options={[
              { value: "left", name: "on the left" },
              { value: "right", name: "on the right" },
            ]}
            onChange={(side) => set({ pad: { ...c.pad!, right: side === "right" } })}
          />
          <Button kind="quiet" onClick={() => set({ pad: null })}>
            remove
          </Button>
        </span>
      ) : (
        <span>
          <Button kind="quiet" onClick={() => set({ pad: { op: "pad", with: "0" } })}>
            Pad codes to one length
          </Button>
        </span>
      )}
    </div>
  );
}

function PartForm({ part: s, onChange }: { part: Step; onChange: (part: Step | null) => void }) {
  const marked = s.part === "between" || Boolean(s.part === "left" ? s.to !== undefined : s.from !== undefined);
  return (
    <span className="flex flex-wrap items-center gap-2">
      <Segments
        label="Keep or cut"
        value={s.op}
        options={[
          { value: "keep" as Op, name: "keep" },
          { value: "cut" as Op, name: "cut" },
        ]}
        onChange={(op) => onChange({ ...s, op })}
      />
      <Select
        label="Which part"
        value={`${s.part}${marked ? " mark" : ""}`}
        options={[
          { value: "left", name: "the first characters" },
          { value: "right", name: "the last characters" },
          { value: "left mark", name: "what is before" },
          { value: "right mark", name: "what is behind" },
          { value: "between mark", name: "what is between" },
        ]}
        onChange={(v) => {
          const [part, mark] = v.split(" ") as ["left" | "right" | "between", string?];
          onChange({
            op: s.op,
            part,
            ...(mark
              ? { from: part === "left" ? undefined : "", to: part === "right" ? undefined : "" }
              : { count: 1 }),
          });
        }}
        className="w-44"
      />
      {!marked && (
        <Input
          aria-label="How many characters"
          inputMode="numeric"
          className="w-14"
          value={s.count ? String(s.count) : ""}
          onChange={(e) => onChange({ ...s, count: whole(e.target.value) })}
        />
      )}
      {marked && s.part !== "left" && (
        <Input
          aria-label="Mark it begins behind"
          placeholder="mark"
          className="w-16"
          value={s.from ?? ""}
          onChange={(e) => onChange({ ...s, from: e.target.value })}
        />
      )}
      {s.part === "between" && <span className="text-ink-2">and</span>}
      {marked && s.part !== "right" && (
        <Input
          aria-label="Mark it ends before"
          placeholder="mark"
          className="w-16"
          value={s.to ?? ""}
          onChange={(e) => onChange({ ...s, to: e.target.value })}
        />
      )}
      <Button kind="quiet" onClick={() => onChange(null)}>
        remove
      </Button>
    </span>
  );
}

const whole = (text: string) => Number(text.replace(/\D/g, "").slice(0, 3)) || undefined;
