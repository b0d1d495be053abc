import type { Schemas } from "../api/client";
import { Check, Segments } from "../design/Field";
import { Heading } from "../design/Spread";

type How = Schemas["How"];

interface Props {
  how: How;
  choices: Schemas["Choices"];
  each: boolean;
  onEach: (each: boolean) => void;
  onChange: (how: How) => void;
}

/** Which sheets of a workbook, or files of an archive, are brought in: one table each, or below one another. */
export function Pieces({ how, choices, each, onEach, onChange }: Props) {
  const archive = how.packed === "zip";
  const all = (archive ? choices.files : choices.sheets) ?? [];
  if (all.length < 2) return null;
  const chosen = how.pieces?.length ? how.pieces : all.slice(0, 1);
  const toggle = (piece: string, on: boolean) => {
    const next = all.filter((p) => (p === piece ? on : chosen.includes(p)));
    // Another first piece may be laid out in another way.
    const same = next[0] === chosen[0];
    onChange({ ...how, pieces: next, grid: same ? how.grid : undefined, columns: undefined });
  };
  const what = archive ? "files" : how.format === "html" ? "tables" : "sheets";
  return (
    <>
      <Heading>{archive ? "Files of the archive" : how.format === "html" ? "Tables of the page" : "Sheets"}</Heading>
      <ul className="max-h-40 overflow-auto" aria-label={`Chosen ${what}`}>
        {all.map((piece) => (
          <li key={piece} className="border-b border-rule-2 py-0.5">
            <Check
              checked={chosen.includes(piece)}
              disabled={chosen.length === 1 && chosen[0] === piece}
              onChange={(on) => toggle(piece, on)}
            >
              {piece}
            </Check>
          </li>
        ))}
      </ul>
      {chosen.length > 1 && (
        <p className="mt-2">
          <Segments
            label={`Several ${what}`}
            value={each ? "each" : "one"}
            options={[
              { value: "one", name: "one table, below one another" },
              { value: "each", name: "a table each" },
            ]}
            onChange={(v) => onEach(v === "each")}
          />
        </p>
      )}
    </>
  );
}
