import type { Schemas } from "../api/client";

type Duplicates = Schemas["Duplicates"];
export type Choice = Schemas["KeepChoice"];
export type Cells = Record<string, string>;

/** What two rows must have in common, and what stays of those that do. */
export interface Rule {
  key: string[];
  as: Record<string, Schemas["KeyAs"]>;
  apart: boolean;
  /** Which row stays; each decides where those before it leave rows equal. */
  choices: Choice[];
  only: NonNullable<Duplicates["only"]>;
  /** Rows that stay whatever the rule. */
  chosen: Cells[];
}

export const plainRule: Rule = { key: [], as: {}, apart: false, choices: [{ keep: "first" }], only: "", chosen: [] };

export const ruleOf = ({ keep, by, order, ties, ...p }: Duplicates): Rule => ({
  ...plainRule,
  ...p,
  choices: [{ keep, by, order }, ...(ties ?? [])],
});

/** Whether a rule tells the row by a column. */
export const needsColumn = (keep: Choice["keep"]) => !["first", "last", "fullest"].includes(keep);

const says = (c: Choice) =>
  !needsColumn(c.keep) || (Boolean(c.by) && (c.keep !== "prefer" || (c.order ?? []).length > 0));

/** A choice without what its rule does not ask. */
const bare = ({ keep, by, order }: Choice): Choice => ({
  keep,
  ...(needsColumn(keep) && { by }),
  ...(keep === "prefer" && { order }),
});

/** The key alone, as entries take it. */
export function keyParams(rule: Pick<Rule, "key" | "as" | "apart">) {
  const as = Object.fromEntries(Object.entries(rule.as).filter(([column, how]) => how && rule.key.includes(column)));
  return { key: rule.key, ...(Object.keys(as).length > 0 && { as }), ...(rule.apart && { apart: true }) };
}

/** The parameters of the entry; null while they do not say enough. */
export function asParams(rule: Rule): Duplicates | null {
  if (rule.key.length === 0 || !rule.choices.every(says)) return null;
  const [first, ...ties] = rule.choices.map(bare);
  return {
    ...keyParams(rule),
    ...(first ?? { keep: "first" }),
    ...(ties.length > 0 && { ties }),
    ...(rule.only && { only: rule.only }),
    ...(rule.chosen.length > 0 && { chosen: rule.chosen }),
  };
}
