import type { Effect } from "../api/client";
import { Value } from "../design/Value";
import { count, n } from "../design/words";

/** Distinct values before and after, by count, with those that become one pointed out. */
export function EffectPairs({ effect, columns }: { effect: Effect; columns?: boolean }) {
  return (
    <table className="w-full table-fixed">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          {columns && <th className="w-[20%] py-1">Column</th>}
          <th className="py-1">Stands now</th>
          <th>Becomes</th>
          <th className="w-[14%] text-right">Rows</th>
          <th className="w-[17%] pl-3" />
        </tr>
      </thead>
      <tbody>
        {effect.pairs.map((p) => (
          <tr key={`${p.column} ${p.from}`} className="h-[27px] border-b border-rule-2">
            {columns && <td className="truncate pr-2 text-ink-2">{p.column}</td>}
            <td className="truncate pr-2">
              <Value value={p.from} className="struck" />
            </td>
            <td className="truncate pr-2">
              <Value value={p.to} className="pencilled" />
            </td>
            <td className="text-right">{n(p.rows)}</td>
            <td className="truncate pl-3 text-[12px] text-ochre">{p.collides && "joins others"}</td>
          </tr>
        ))}
        {effect.changed > effect.pairs.length && (
          <tr>
            <td colSpan={5} className="py-1 text-ink-2">
              and {count(effect.changed - effect.pairs.length, "value")} more with fewer rows
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
