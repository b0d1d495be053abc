import type { Schemas } from "../api/client";
import { Value } from "../design/Value";
import { n } from "../design/words";

/** What a column's values are understood as: first what is not read, then the rest, by rows. */
export function ReadingEffect({ effect: e, drafted }: { effect: Schemas["ReadingEffect"]; drafted?: boolean }) {
  return (
    <>
      {e.notRead > 0 && (
        <table className="mb-4 w-full table-fixed" aria-label="Values that are not read">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="py-1">Not read; they stay as they came</th>
              <th className="w-[18%] text-right">Rows</th>
            </tr>
          </thead>
          <tbody>
            {e.unread.slice(0, shownUnread).map((l) => (
              <tr key={l.value} className="h-[27px] border-b border-rule-2">
                <td className="truncate pr-2 text-ochre">
                  <Value value={l.value} />
                </td>
                <td className="text-right">{n(l.rows)}</td>
              </tr>
            ))}
            {e.unread.length > shownUnread && (
              <tr>
                <td colSpan={2} className="py-1 text-ink-2">
                  and others with fewer rows
                </td>
              </tr>
            )}
          </tbody>
        </table>
      )}
      {e.as.length > 0 && (
        <table className="w-full table-fixed" aria-label="What the values are understood as">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="py-1">Stands there</th>
              <th>Understood as</th>
              <th className="w-[18%] text-right">Rows</th>
            </tr>
          </thead>
          <tbody>
            {e.as.map((l) => (
              <tr key={l.value} className="h-[27px] border-b border-rule-2">
                <td className="truncate pr-2">
                  <Value value={l.value} />
                </td>
                <td className="truncate pr-2">
                  <Value value={l.as} className={drafted ? "pencilled" : ""} />
                </td>
                <td className="text-right">{n(l.rows)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

const shownUnread = 8;
