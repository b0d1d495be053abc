import { Check, Input, Labelled, Segments, Select } from "../design/Field";
import { kinds, plain, type Kind, type Reading } from "./readings";

const groups = [
  { value: ",", name: "1,000" },
  { value: ".", name: "1.000" },
  { value: " ", name: "1 000" },
  { value: "'", name: "1'000" },
  { value: "", name: "1000 alone" },
];

/** A reading with what belongs to it. */
export function ReadingForm({ reading: r, onChange }: { reading: Reading; onChange: (r: Reading) => void }) {
  const set = (part: Partial<Reading>) => onChange({ ...r, ...part });
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-2 pb-2">
      <Labelled label="Kind">
        <Select
          label="Kind of reading"
          value={r.kind}
          options={Object.entries(kinds).map(([value, k]) => ({ value, name: k.name }))}
          onChange={(kind) => onChange(plain(kind as Kind))}
          className="w-40"
        />
      </Labelled>
      {r.kind === "number" && (
        <>
          <Labelled label="Decimals">
            <Segments
              label="Decimal mark"
              value={r.decimal ?? "."}
              options={[
                { value: ".", name: "1.5" },
                { value: ",", name: "1,5" },
              ]}
              onChange={(decimal) =>
                set({ decimal, group: r.group === decimal ? (decimal === "," ? "." : ",") : r.group })
              }
            />
          </Labelled>
          <Labelled label="Thousands">
            <Select
              label="Mark between thousands"
              value={r.group ?? ""}
              options={groups.filter((g) => g.value !== r.decimal)}
              onChange={(group) => set({ group })}
              className="w-28"
            />
          </Labelled>
          <Labelled label="Unit or currency beside it">
            <Input
              aria-label="Unit"
              className="w-36"
              placeholder="none"
              value={r.unit ?? ""}
              onChange={(e) => set({ unit: e.target.value })}
            />
          </Labelled>
          <Check checked={r.whole ?? false} onChange={(whole) => set({ whole })}>
            whole numbers only
          </Check>
        </>
      )}
      {r.kind === "date" && (
        <>
          <Labelled label="4/10/2031 is">
            <Segments
              label="Order of dates"
              value={r.order ?? ""}
              options={[
                { value: "dmy", name: "4 October" },
                { value: "mdy", name: "April 10" },
                { value: "ymd", name: "year first" },
                { value: "", name: "not said" },
              ]}
              onChange={(order) => set({ order })}
            />
          </Labelled>
          <Labelled label="Two-digit years from">
            <Input
              aria-label="Two-digit years from"
              className="w-24"
              placeholder="not read"
              inputMode="numeric"
              value={r.years ? String(r.years) : ""}
              onChange={(e) => set({ years: Number(e.target.value.replace(/\D/g, "").slice(0, 4)) })}
            />
          </Labelled>
        </>
      )}
      {r.kind === "list" && (
        <Labelled label="Items are split by (empty: JSON)">
          <Input
            aria-label="Separator"
            className="w-24"
            value={r.separator ?? ""}
            onChange={(e) => set({ separator: e.target.value })}
          />
        </Labelled>
      )}
    </div>
  );
}
