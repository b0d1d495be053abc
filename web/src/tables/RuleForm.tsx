import { Fragment } from "react";
import type { Schemas } from "../api/client";
import { Check, Segments, Select } from "../design/Field";
import { options, Row } from "./ShapeForms";

type Duplicates = Schemas["Duplicates"];

/** What two rows must have in common, and what stays of those that do. */
export interface Rule {
  key: string[];
  as: Record<string, Schemas["KeyAs"]>;
  apart: boolean;
  keep: Duplicates["keep"];
  by: string;
  only: NonNullable<Duplicates["only"]>;
}

export const plainRule: Rule = { key: [], as: {}, apart: false, keep: "first", by: "", only: "" };

export const ruleOf = (p: Duplicates): Rule => ({ ...plainRule, ...p });

/** Whether a rule tells the row by a column. */
const needsColumn = (keep: Rule["keep"]) => ["newest", "oldest", "highest", "lowest"].includes(keep);

/** The parameters of the entry; null while they do not say enough. */
export function asParams(rule: Rule): Duplicates | null {
  const byColumn = needsColumn(rule.keep);
  if (rule.key.length === 0 || (byColumn && rule.by === "")) return null;
  const as = Object.fromEntries(Object.entries(rule.as).filter(([column, how]) => how && rule.key.includes(column)));
  return {
    key: rule.key,
    ...(Object.keys(as).length > 0 && { as }),
    ...(rule.apart && { apart: true }),
    keep: rule.keep,
    ...(byColumn && { by: rule.by }),
    ...(rule.only && { only: rule.only }),
  };
}

interface KeyProps {
  rule: Pick<Rule, "key" | "as" | "apart">;
  onChange: (part: Partial<Rule>) => void;
}

/** How each column of the key is compared. */
export function KeyRows({ rule, onChange: set }: KeyProps) {
  return (
    <>
      {rule.key.map((column) => (
        <Fragment key={column}>
          <span className="truncate pt-1 pr-2 font-medium" title={column}>
            {column}
          </span>
          <Select
            label={`How ${column} is compared`}
            value={rule.as[column] ?? ""}
            options={[
              { value: "", name: "to the letter" },
              { value: "folded", name: "case, spacing, accents aside" },
              { value: "words", name: "words in any order" },
              { value: "read", name: "as it is read: 1.0 is 1" },
            ]}
            onChange={(how) => set({ as: { ...rule.as, [column]: how as Schemas["KeyAs"] } })}
            className="w-64"
          />
        </Fragment>
      ))}
      {rule.key.length > 0 && (
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

/** How the key is compared, and which rows stay. */
export function RuleForm({ rule, names, onChange }: Props) {
  const set = (part: Partial<Rule>) => onChange({ ...rule, ...part });
  return (
    <div className="grid grid-cols-[92px_1fr] items-start gap-y-2.5">
      <KeyRows rule={rule} onChange={set} />
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
      {(rule.only === "" || rule.only === "firsts") && (
        <Row label="Of each, keep">
          <Segments
            label="Of each group, keep"
            value={needsColumn(rule.keep) || rule.keep === "fullest" ? "rule" : rule.keep}
            options={[
              { value: "first", name: "the first row" },
              { value: "last", name: "the last row" },
              { value: "rule", name: "by a rule" },
            ]}
            onChange={(keep) => set({ keep: keep === "rule" ? "fullest" : (keep as Rule["keep"]) })}
          />
          {rule.keep !== "first" && rule.keep !== "last" && (
            <Select
              label="Rule"
              value={rule.keep}
              options={[
                { value: "fullest", name: "the fullest" },
                { value: "newest", name: "the newest by" },
                { value: "oldest", name: "the oldest by" },
                { value: "highest", name: "the highest" },
                { value: "lowest", name: "the lowest" },
              ]}
              onChange={(keep) => set({ keep: keep as Rule["keep"] })}
              className="w-36"
            />
          )}
          {needsColumn(rule.keep) && (
            <Select
              label="Column that tells"
              value={rule.by}
              options={[{ value: "", name: "choose…" }, ...options(names)]}
              onChange={(by) => set({ by })}
              className="w-40"
            />
          )}
        </Row>
      )}
    </div>
  );
}
