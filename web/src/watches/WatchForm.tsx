import { useState } from "react";
import type { Schemas, Table } from "../api/client";
import { useContents } from "../api/queries";
import { blankCondition, Group } from "../conditions/Builder";
import type { Condition } from "../conditions/useWhere";
import { Button } from "../design/Button";
import { Input, Segments, Select } from "../design/Field";
import { KeyRows } from "../duplicates/RuleForm";
import { keyParams, plainRule } from "../duplicates/rule";
import { Several } from "../tables/Several";
import { options, Row } from "../tables/ShapeForms";

type Kind = Schemas["WatchRule"]["kind"];

interface Props {
  table: Table;
  busy: boolean;
  onAdd: (rule: Schemas["WatchRule"]) => void;
}

/** A rule to watch from now on. */
export function WatchForm({ table, busy, onAdd }: Props) {
  const contents = useContents(table.bookId);
  const crosswalks = (contents.data?.crosswalks ?? []).map((c) => c.name);
  const [kind, setKind] = useState<Kind>("unique");
  const [rule, setRule] = useState(plainRule);
  const [column, setColumn] = useState(table.columns[0] ?? "");
  const [crosswalk, setCrosswalk] = useState("");
  const [least, setLeast] = useState("");
  const [most, setMost] = useState("");
  const [where, setWhere] = useState<Condition>({ op: "all", of: [blankCondition(table.columns[0] ?? "")] });
  const walk = crosswalk || (crosswalks.includes(column) ? column : (crosswalks[0] ?? ""));
  const made: Record<Kind, Schemas["WatchRule"] | null> = {
    unique: rule.key.length > 0 ? { kind: "unique", ...keyParams(rule) } : null,
    known: walk ? { kind: "known", column, crosswalk: walk } : null,
    total:
      least.trim() || most.trim()
        ? { kind: "total", column, least: least.trim() || undefined, most: most.trim() || undefined }
        : null,
    none: { kind: "none", where },
  };
  const ready = made[kind];
  return (
    <div className="grid grid-cols-[92px_1fr] items-start gap-y-2.5">
      <Row label="It must hold">
        <Segments
          label="What must hold"
          value={kind}
          options={[
            { value: "unique", name: "a key is unique" },
            { value: "known", name: "values are known" },
            { value: "total", name: "a total" },
            { value: "none", name: "no row where…" },
          ]}
          onChange={setKind}
        />
      </Row>
      {kind === "unique" && (
        <>
          <Row label="Key">
            <Several
              names={table.columns}
              chosen={rule.key}
              label="Watched key"
              onChoose={(key) => setRule({ ...rule, key })}
            />
          </Row>
          <KeyRows rule={rule} blanks={false} onChange={(part) => setRule({ ...rule, ...part })} />
        </>
      )}
      {(kind === "known" || kind === "total") && (
        <Row label={kind === "known" ? "Every" : "Total of"}>
          <Select
            label="Watched column"
            value={column}
            options={options(table.columns)}
            onChange={setColumn}
            className="w-44"
          />
        </Row>
      )}
      {kind === "known" && (
        <Row label="is in">
          {crosswalks.length > 0 ? (
            <Select
              label="Crosswalk"
              value={walk}
              options={crosswalks.map((value) => ({ value, name: `the crosswalk ${value}` }))}
              onChange={setCrosswalk}
              className="w-52"
            />
          ) : (
            <span className="text-ink-2">the book has no crosswalk yet: map spellings of a column first</span>
          )}
        </Row>
      )}
      {kind === "total" && (
        <Row label="is between">
          <Input aria-label="Least" className="w-28" value={least} onChange={(e) => setLeast(e.target.value)} />
          <span className="text-ink-2">and</span>
          <Input aria-label="Most" className="w-28" value={most} onChange={(e) => setMost(e.target.value)} />
        </Row>
      )}
      {kind === "none" && (
        <Row label="No row">
          <Group
            table={table.id}
            revision={table.revision}
            columns={table.columns}
            condition={where}
            onChange={setWhere}
          />
        </Row>
      )}
      <Row label="">
        <Button kind="main" disabled={!ready || busy} onClick={() => ready && onAdd(ready)}>
          Watch it
        </Button>
      </Row>
    </div>
  );
}
