import { useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { api, ask, type Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Check, Select } from "../design/Field";
import { useBook } from "../shell/useBook";
import { options, Row } from "../tables/ShapeForms";
import { needsColumn, type Choice, type Rule } from "./rule";

interface KeyProps {
  rule: Pick<Rule, "key" | "as" | "apart">;
  /** Whether it can be told that blank cells never match. */
  blanks?: boolean;
  onChange: (part: Partial<Pick<Rule, "key" | "as" | "apart">>) => void;
}

/** How many columns of a key say how each is compared, before that is one choice for all. */
const each = 8;

/** How each column of the key is compared. */
export function KeyRows({ rule, blanks = true, onChange: set }: KeyProps) {
  const how = (as: Schemas["KeyAs"] | "", label: string, to: (how: Schemas["KeyAs"]) => void) => (
    <Select
      label={label}
      value={as}
      options={[
        { value: "", name: "to the letter" },
        { value: "folded", name: "case, spacing, accents aside" },
        { value: "words", name: "words in any order" },
        { value: "read", name: "as it is read: 1.0 is 1" },
      ]}
      onChange={(v) => to(v as Schemas["KeyAs"])}
      className="w-64"
    />
  );
  const all = (as: Schemas["KeyAs"]) => set({ as: Object.fromEntries(rule.key.map((column) => [column, as])) });
  return (
    <>
      {rule.key.length > each ? (
        <Row label="Compared">{how(rule.as[rule.key[0] ?? ""] ?? "", "How the columns are compared", all)}</Row>
      ) : (
        rule.key.map((column) => (
          <Fragment key={column}>
            <span className="truncate pt-1 pr-2 font-medium" title={column}>
              {column}
            </span>
            {how(rule.as[column] ?? "", `How ${column} is compared`, (as) => set({ as: { ...rule.as, [column]: as } }))}
          </Fragment>
        ))
      )}
      {blanks && rule.key.length > 0 && (
        <Row label="">
          <Check checked={rule.apart} onChange={(apart) => set({ apart })}>
            blank cells never match
          </Check>
        </Row>
      )}
    </>
  );
}

interface Props {
  rule: Rule;
  names: string[];
  onChange: (rule: Rule) => void;
}

const keeps: { value: Choice["keep"]; name: string }[] = [
  { value: "first", name: "the first row" },
  { value: "last", name: "the last row" },
  { value: "fullest", name: "the fullest" },
  { value: "newest", name: "the newest by" },
  { value: "oldest", name: "the oldest by" },
  { value: "highest", name: "the highest" },
  { value: "lowest", name: "the lowest" },
  { value: "prefer", name: "the preferred" },
];

/** Which rows stay. */
export function StayRows({ rule, names, onChange }: Props) {
  const set = (part: Partial<Rule>) => onChange({ ...rule, ...part });
  const choose = (i: number, part: Partial<Choice>) =>
    set({ choices: rule.choices.map((c, j) => (i === j ? { ...c, ...part } : c)) });
  const last = rule.choices.at(-1)?.keep;
  return (
    <>
      <Row label="What stays">
        <Select
          label="What stays"
          value={rule.only}
          options={[
            { value: "", name: "one row of each group" },
            { value: "firsts", name: "only one row of each group" },
            { value: "repeats", name: "only the rows that repeat" },
            { value: "unique", name: "only the rows that repeat nothing" },
          ]}
          onChange={(only) => set({ only: only as Rule["only"] })}
          className="w-64"
        />
      </Row>
      {(rule.only === "" || rule.only === "firsts") &&
        rule.choices.map((c, i) => (
          <Row key={i} label={i === 0 ? "Of each, keep" : "where equal"}>
            <ChoiceOf choice={c} place={i} names={names} onChange={(part) => choose(i, part)} />
            {i > 0 && (
              <Button kind="quiet" onClick={() => set({ choices: rule.choices.filter((_, j) => j !== i) })}>
                remove
              </Button>
            )}
            {i === rule.choices.length - 1 && i < 4 && last !== "first" && last !== "last" && (
              <Button kind="quiet" onClick={() => set({ choices: [...rule.choices, { keep: "fullest" }] })}>
                and where equal…
              </Button>
            )}
          </Row>
        ))}
    </>
  );
}

interface ChoiceProps {
  choice: Choice;
  place: number;
  names: string[];
  onChange: (part: Partial<Choice>) => void;
}

function ChoiceOf({ choice: c, place, names, onChange }: ChoiceProps) {
  const of = place === 0 ? "" : ` ${place + 1}`;
  return (
    <>
      <Select
        label={`Rule${of}`}
        value={c.keep}
        options={keeps}
        onChange={(keep) => onChange({ keep: keep as Choice["keep"] })}
        className="w-36"
      />
      {needsColumn(c.keep) && (
        <Select
          label={`Column that tells${of}`}
          value={c.by ?? ""}
          options={[{ value: "", name: "choose…" }, ...options(names)]}
          onChange={(by) => onChange({ by, order: [] })}
          className="w-40"
        />
      )}
      {c.keep === "prefer" && c.by && (
        <Order column={c.by} order={c.order ?? []} onChange={(order) => onChange({ order })} />
      )}
    </>
  );
}

/** The values of a column in the order they are preferred. */
function Order({ column, order, onChange }: { column: string; order: string[]; onChange: (order: string[]) => void }) {
  const { table } = useBook();
  const values = useQuery({
    queryKey: ["preferred", table, column],
    queryFn: () =>
      ask(api.GET("/tables/{table}/tally", { params: { path: { table }, query: { column, from: 0, count: 200 } } })),
  });
  const rest = (values.data?.lines ?? []).filter((l) => l.value !== "" && !order.includes(l.value));
  return (
    <span className="flex w-full flex-wrap items-center gap-1.5">
      {order.map((v, i) => (
        <span key={v} className="inline-flex items-center gap-1">
          {i > 0 && <span className="text-ink-2">before</span>}
          <span className="max-w-40 truncate font-medium" title={v}>
            {v}
          </span>
          <Button
            kind="quiet"
            aria-label={`Prefer ${v} no longer`}
            onClick={() => onChange(order.filter((o) => o !== v))}
          >
            ×
          </Button>
        </span>
      ))}
      <Select
        label={`Preferred value of ${column}`}
        value=""
        options={[
          { value: "", name: order.length === 0 ? "the best first…" : "then…" },
          ...rest.map((l) => ({ value: l.value, name: l.value })),
        ]}
        onChange={(v) => v && onChange([...order, v])}
        className="w-36"
      />
    </span>
  );
}

/** How the key is compared, and which rows stay. */
export function RuleForm({ rule, names, onChange }: Props) {
  return (
    <div className="grid grid-cols-[92px_1fr] items-start gap-y-2.5">
      <KeyRows rule={rule} onChange={(part) => onChange({ ...rule, ...part })} />
      <StayRows rule={rule} names={names} onChange={onChange} />
    </div>
  );
}
