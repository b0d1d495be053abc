import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Input, Select } from "../design/Field";
import { count, listing, n } from "../design/words";
import { Several } from "../tables/Several";
import { Row, useShaping, type FormProps } from "../tables/ShapeForms";
import { KeyRows } from "./RuleForm";
import { keyParams, plainRule, type Rule } from "./rule";

type Survivorship = Schemas["SurvivorshipRule"];

const rules: { value: Survivorship; name: string }[] = [
  { value: "first", name: "the first value" },
  { value: "last", name: "the last value" },
  { value: "longest", name: "the longest" },
  { value: "frequent", name: "the most frequent" },
  { value: "smallest", name: "the smallest" },
  { value: "largest", name: "the largest" },
  { value: "sum", name: "the sum" },
  { value: "mean", name: "the mean" },
  { value: "median", name: "the median" },
  { value: "count", name: "how many" },
  { value: "count-distinct", name: "how many different" },
  { value: "join", name: "all, joined" },
  { value: "join-distinct", name: "different ones, joined" },
  { value: "list", name: "all, as a list" },
  { value: "list-distinct", name: "different ones, as a list" },
];

/** What becomes of each column of rows that are combined. */
export interface Combining {
  columns: Record<string, Survivorship>;
  others: Survivorship;
  separator: string;
}

export const plainCombining: Combining = { columns: {}, others: "first", separator: "; " };

export const combiningOf = (p: Schemas["Merge"]): Combining => ({
  columns: Object.fromEntries((p.columns ?? []).map((c) => [c.column, c.rule])),
  others: p.others ?? "first",
  separator: p.separator ?? "; ",
});

/** The parameters of the entry; null while there is no key. */
export function mergeParams(rule: Pick<Rule, "key" | "as" | "apart">, c: Combining): Schemas["Merge"] | null {
  if (rule.key.length === 0) return null;
  const columns = Object.entries(c.columns).map(([column, of]) => ({ column, rule: of }));
  return {
    ...keyParams(rule),
    ...(columns.length > 0 && { columns }),
    ...(c.others !== "first" && { others: c.others }),
    ...(c.separator !== "; " && { separator: c.separator }),
  };
}

interface Props {
  names: string[];
  keyColumns: string[];
  /** What the columns are within the groups, where it is known. */
  inside?: Schemas["Inside"][];
  combining: Combining;
  onChange: (combining: Combining) => void;
}

/** A rule for each column that differs within the groups; those that agree are just kept. */
export function CombiningRows({ names, keyColumns, inside, combining: c, onChange }: Props) {
  const [all, setAll] = useState(false);
  const other = names.filter((name) => !keyColumns.includes(name));
  const of = (name: string) => inside?.find((i) => i.column === name);
  const agree = other.filter((name) => inside && of(name)?.differs === 0 && !c.columns[name]);
  const listed = all ? other : other.filter((name) => !agree.includes(name));
  const set = (name: string, rule: string) => {
    const columns = { ...c.columns };
    if (rule === "") delete columns[name];
    else columns[name] = rule as Survivorship;
    onChange({ ...c, columns });
  };
  const joins = [c.others, ...Object.values(c.columns)].some((r) => r === "join" || r === "join-distinct");
  return (
    <>
      <Row label="Every column">
        <Select
          label="Of every other column"
          value={c.others}
          options={rules}
          onChange={(others) => onChange({ ...c, others: others as Survivorship })}
          className="w-52"
        />
        <span className="text-[12px] text-ink-2">blank cells say nothing</span>
      </Row>
      {listed.length > 0 && (
        <Row label="but of">
          <table className="w-full table-fixed" aria-label="What becomes of each column">
            <tbody>
              {listed.map((name) => (
                <tr key={name} className="h-[30px] border-b border-rule-2">
                  <td className="w-[26%] truncate pr-2 font-medium" title={name}>
                    {name}
                  </td>
                  <td className="truncate pr-2 text-[12px] text-ink-2">{differing(of(name))}</td>
                  <td className="w-40">
                    <Select
                      label={`What becomes of ${name}`}
                      value={c.columns[name] ?? ""}
                      options={[{ value: "", name: "as every column" }, ...rules]}
                      onChange={(rule) => set(name, rule)}
                      className="w-40"
                    />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Row>
      )}
      {agree.length > 0 && (
        <Row label="Agree">
          <span className="text-ink-2">
            {listing(agree)} {agree.length === 1 ? "agrees" : "agree"} in every group and{" "}
            {agree.length === 1 ? "is" : "are"} just kept.{" "}
            <Button kind="quiet" onClick={() => setAll(!all)}>
              {all ? "hide" : "give a rule all the same"}
            </Button>
          </span>
        </Row>
      )}
      {joins && (
        <Row label="Between them">
          <Input
            aria-label="Between joined values"
            className="w-20"
            value={c.separator}
            maxLength={20}
            onChange={(e) => onChange({ ...c, separator: e.target.value })}
          />
        </Row>
      )}
    </>
  );
}

function differing(i: Schemas["Inside"] | undefined): string {
  if (!i) return "";
  if (i.differs === 0) return i.fills > 0 ? `blank in some of ${count(i.fills, "group")}` : "agrees";
  return `${count(i.differs, "group")} differ${i.differs === 1 ? "s" : ""}${i.forms > 0 ? `, ${n(i.forms)} in form alone` : ""}`;
}

/** Makes one row of the rows that are equal on a key. */
export function MergeForm({ names, params: p, onShape }: FormProps<Schemas["Merge"]>) {
  const [rule, setRule] = useState({ ...plainRule, ...(p && { key: p.key, as: p.as ?? {}, apart: p.apart ?? false }) });
  const [combining, combine] = useState(p ? combiningOf(p) : plainCombining);
  useShaping(mergeParams(rule, combining), onShape);
  return (
    <div className="grid grid-cols-[92px_1fr] items-start gap-y-2.5">
      <Row label="Same in">
        <Several names={names} chosen={rule.key} label="Key" onChoose={(key) => setRule({ ...rule, key })} />
      </Row>
      <KeyRows rule={rule} onChange={(part) => setRule({ ...rule, ...part })} />
      {rule.key.length > 0 && (
        <CombiningRows names={names} keyColumns={rule.key} combining={combining} onChange={combine} />
      )}
    </div>
  );
}
