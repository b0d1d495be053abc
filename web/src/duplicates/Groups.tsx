import type { Row, Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Check } from "../design/Field";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import type { Cells, Rule } from "./rule";

interface Props {
  found: Schemas["Repeats"];
  rule: Rule;
  merging: boolean;
  /** Only groups in which this column differs are shown. */
  differs: string;
  onAll: () => void;
  onChosen: (chosen: Cells[]) => void;
}

/** How many columns a group shows: the key's, then those that differ within a group, then the others. */
const shownColumns = 8;

/** Whether a column differs within some group that is shown. */
const varies = (found: Schemas["Repeats"], at: number) =>
  found.groups.some((g) => [...g.rows, ...g.kept].some((r) => r.cells[at] !== g.rows[0]?.cells[at]));

/** The groups of equal rows, largest first, and what becomes of each row. */
export function Groups({ found, rule, merging, differs, onAll, onChosen }: Props) {
  const rest = found.columns.filter((c) => !rule.key.includes(c));
  const varying = rest.filter((c) => varies(found, found.columns.indexOf(c)));
  const order = [
    ...new Set([...rule.key.slice(0, shownColumns - 2), ...varying, ...(differs ? [differs] : []), ...rest]),
  ].slice(0, shownColumns);
  const byHand = !merging && (rule.only === "" || rule.only === "firsts");
  return (
    <>
      {differs && (
        <p className="mb-2 text-ink-2">
          Groups in which <b className="font-semibold text-ink">{differs}</b> differs.{" "}
          <Button kind="quiet" onClick={onAll}>
            show all groups
          </Button>
        </p>
      )}
      <div className="overflow-x-auto">
        <table className="w-full" aria-label="Groups">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="w-[1%] py-1 pr-3">
                <span className="sr-only">What becomes of the row</span>
              </th>
              {order.map((c) => (
                <th
                  key={c}
                  className={`max-w-[150px] truncate pr-3 ${rule.key.includes(c) ? "font-semibold text-ink" : ""}`}
                  title={c}
                >
                  {c}
                </th>
              ))}
            </tr>
          </thead>
          {found.groups.map((g, i) => (
            <GroupRows
              key={i}
              group={g}
              columns={found.columns}
              order={order}
              rule={rule}
              merging={merging}
              onChosen={byHand ? onChosen : undefined}
            />
          ))}
        </table>
      </div>
      {!differs && found.summary.groups > found.groups.length && (
        <p className="mt-2 text-ink-2">
          The {n(found.groups.length)} largest of {count(found.summary.groups, "group")}.
        </p>
      )}
      {byHand && (
        <p className="mt-2 text-[12px] text-ink-2">
          Tick the rows of a group that stay to choose by hand; the rule decides where you have not.
        </p>
      )}
    </>
  );
}

/** A row as an entry knows it: by its cells, without those that are too long to be shown whole. */
function cellsOf(row: Row, columns: string[]): Cells {
  const out: Cells = {};
  row.cells.forEach((v, i) => {
    if (v !== null && !row.cut?.includes(i)) out[columns[i]!] = v;
  });
  return out;
}

const same = (a: Cells, b: Cells) => JSON.stringify(a) === JSON.stringify(b);

interface GroupProps {
  group: Schemas["RepeatGroup"];
  columns: string[];
  order: string[];
  rule: Rule;
  merging: boolean;
  onChosen?: (chosen: Cells[]) => void;
}

function GroupRows({ group, columns, order, rule, merging, onChosen }: GroupProps) {
  const { only } = rule;
  // The rows that stay are shown, wherever in the group they stand.
  const further = merging ? [] : group.kept.filter((k) => !group.rows.some((r) => r.row === k.row));
  const listed = [...group.rows, ...further];
  const more = group.size - listed.length;
  const rows: (Row | null)[] =
    more === 0 ? listed : further.length === 0 ? [...group.rows, null] : [...group.rows, null, ...further];
  const first = group.rows[0];
  const keeps = (row: Row) => only === "repeats" || (only !== "unique" && group.kept.some((k) => k.row === row.row));
  const choose = (row: Row, stays: boolean) => {
    const mine = listed.map((r) => cellsOf(r, columns));
    const others = rule.chosen.filter((c) => !mine.some((m) => same(m, c)));
    const now = listed.filter((r) => (r.row === row.row ? stays : keeps(r)));
    onChosen?.([...others, ...now.map((r) => cellsOf(r, columns))]);
  };
  const places = order.map((c) => columns.indexOf(c));
  const becomes = group.becomes;
  return (
    <tbody className="border-b border-rule">
      {rows.map((row, i) => {
        if (row === null) {
          return (
            <tr key={i}>
              <td colSpan={places.length + 1} className="py-0.5 text-[12px] text-ink-2">
                and {count(more, "row")} more
              </td>
            </tr>
          );
        }
        const kept = !merging && keeps(row);
        const state = merging ? "combined" : kept ? "kept" : "set aside";
        return (
          <tr key={i} className="h-[25px]">
            <td className={`pr-3 text-[12px] whitespace-nowrap ${kept ? "font-medium text-green" : "text-ink-2"}`}>
              {onChosen ? (
                <Check checked={kept} onChange={(stays) => choose(row, stays)} label={`Keep row ${row.row + 1}`}>
                  {state}
                </Check>
              ) : (
                state
              )}
            </td>
            {places.map((at) => {
              const differs = !rule.key.includes(columns[at]!) && row.cells[at] !== first?.cells[at];
              return (
                <td
                  key={at}
                  className={`max-w-[150px] truncate pr-3 ${differs ? "text-red" : kept ? "" : "text-ink-2"}`}
                >
                  <Value value={row.cells[at] ?? null} />
                </td>
              );
            })}
          </tr>
        );
      })}
      {becomes && (
        <tr className="h-[27px]">
          <td className="pr-3 text-[12px] font-medium whitespace-nowrap text-pencil">one row</td>
          {places.map((at) => (
            <td key={at} className="max-w-[150px] truncate pr-3">
              <Value value={becomes.cells[at] ?? null} className="pencilled" />
            </td>
          ))}
        </tr>
      )}
    </tbody>
  );
}
