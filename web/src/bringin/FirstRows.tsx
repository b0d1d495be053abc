import type { Schemas } from "../api/client";
import { Value } from "../design/Value";
import { n } from "../design/words";
import type { ColumnToBring } from "./ColumnsForm";

/** How many columns the first rows show. */
const most = 60;

/** The first rows of a file as they read, with the columns as they will be brought in. */
export function FirstRows({ preview, columns }: { preview: Schemas["Preview"]; columns: ColumnToBring[] | null }) {
  const chosen = columns?.filter((c) => c.bring) ?? preview.names.map((name) => ({ from: name, as: name }));
  const places = chosen.map((c) => ({ name: c.as || c.from, at: preview.names.indexOf(c.from) }));
  const shown = places.slice(0, most);
  return (
    <div className="min-h-0 overflow-auto">
      <table>
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            <th className="sticky top-0 bg-paper py-1 pr-3 text-right">Row</th>
            {shown.map(({ name, at }) => (
              <th
                key={at}
                className="sticky top-0 max-w-[220px] truncate bg-paper pr-4 font-semibold text-ink"
                title={name}
              >
                {name}
              </th>
            ))}
            {places.length > most && <th className="sticky top-0 bg-paper">and {n(places.length - most)} more</th>}
          </tr>
        </thead>
        <tbody>
          {preview.rows.map((row, i) => (
            <tr key={i} className="h-[27px] border-b border-rule-2">
              <td className="pr-3 text-right text-ink-3">{i + 1}</td>
              {shown.map(({ at }) => (
                <td key={at} className="max-w-[220px] truncate pr-4">
                  <Value value={row[at] ?? ""} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {preview.rows.length === 0 && <p className="py-3 text-ink-2">There is no row below the names.</p>}
    </div>
  );
}
