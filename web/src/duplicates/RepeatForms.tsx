import { useState } from "react";
import type { Schemas } from "../api/client";
import { Input, Select } from "../design/Field";
import { Several } from "../tables/Several";
import { options, Row, useShaping, type FormProps } from "../tables/ShapeForms";
import { KeyRows } from "./RuleForm";
import { keyParams, plainRule } from "./rule";

const shown = [
  { value: "repeats", name: "whether it repeats, yes or no", column: "repeats" },
  { value: "number", name: "the number of its group", column: "group" },
  { value: "place", name: "its place in the group", column: "place in group" },
  { value: "size", name: "the size of the group", column: "group size" },
];

/** A column that says of each row what repeats it; nothing is set aside. */
export function MarkForm({ names, params: p, onShape }: FormProps<Schemas["MarkEntry"]>) {
  const [rule, setRule] = useState({ ...plainRule, ...(p && { key: p.key, as: p.as ?? {}, apart: p.apart ?? false }) });
  const [shows, setShows] = useState<Schemas["MarkEntry"]["shows"]>(p?.shows ?? "repeats");
  const [name, setName] = useState(p?.name ?? "");
  const usual = shown.find((s) => s.value === shows)?.column ?? "";
  useShaping(rule.key.length > 0 ? { ...keyParams(rule), shows, name: name.trim() || usual } : null, onShape);
  return (
    <div className="grid grid-cols-[92px_1fr] items-start gap-y-2.5">
      <Row label="Same in">
        <Several names={names} chosen={rule.key} label="Key" onChoose={(key) => setRule({ ...rule, key })} />
      </Row>
      <KeyRows rule={rule} onChange={(part) => setRule({ ...rule, ...part })} />
      <Row label="Shows">
        <Select
          label="What the mark shows"
          value={shows}
          options={shown}
          onChange={(v) => setShows(v as typeof shows)}
          className="w-64"
        />
      </Row>
      <Row label="New column">
        <Input
          aria-label="Name of the new column"
          placeholder={usual}
          className="w-52"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </Row>
    </div>
  );
}

/** New ids for all but the first of the things that share one by mistake. */
export function RenumberForm({ names, column, params: p, onShape }: FormProps<Schemas["Renumber"]>) {
  const [of, setOf] = useState(p?.column ?? column);
  const [same, setSame] = useState<string[]>(p?.same ?? []);
  useShaping({ column: of, ...(same.length > 0 && { same }) }, onShape);
  return (
    <div className="grid grid-cols-[92px_1fr] items-start gap-y-2.5">
      <Row label="Ids">
        <Select label="Column of the ids" value={of} options={options(names)} onChange={setOf} className="w-52" />
        <span className="text-[12px] text-ink-2">the first keeps its id, the others continue after the highest</span>
      </Row>
      <Row label="One thing">
        <Several names={names.filter((c) => c !== of)} chosen={same} label="Same thing" onChoose={setSame} />
        <span className="text-[12px] text-ink-2">
          {same.length === 0
            ? "every row is a thing of its own; choose the columns in which the rows of one thing agree"
            : "rows that agree in these keep one id together"}
        </span>
      </Row>
    </div>
  );
}
