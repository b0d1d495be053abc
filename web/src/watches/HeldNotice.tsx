import type { Row, Schemas } from "../api/client";
import { Check } from "../design/Field";
import { Notice } from "../design/Notice";
import { Value } from "../design/Value";
import { count, figure, n } from "../design/words";

interface Props {
  broken: Schemas["DeliveryWatch"][];
  accepted: number[];
  onAccept: (accepted: number[]) => void;
}

/** How many columns of the rows that break a watch are shown. */
const shownColumns = 6;

/** The watches that a delivery breaks, with its rows beside those that stand; it is held until each is accepted. */
export function HeldNotice({ broken, accepted, onAccept }: Props) {
  return broken.map((b) => (
    <Notice key={b.watch.id} tone="red">
      <p>
        <b className="font-semibold">The delivery is held.</b> It breaks the watch that {b.watch.words}
        {b.watch.finding?.figure && `: it is ${figure(b.watch.finding.figure)}`}
        {b.watch.finding && !b.watch.finding.figure && (
          <>
            : {count(b.watch.finding.against, "row")}
            {b.was !== undefined && b.was > 0 && `, ${n(b.was)} as the table stands`}
          </>
        )}
        {b.watch.problem && `: ${b.watch.problem.detail}`}.
      </p>
      {b.coming.length > 0 && <Offending watch={b} />}
      <p className="mt-1.5">
        <Check
          checked={accepted.includes(b.watch.id)}
          onChange={(on) => onAccept(on ? [...accepted, b.watch.id] : accepted.filter((id) => id !== b.watch.id))}
        >
          it may, post it all the same
        </Check>
      </p>
    </Notice>
  ));
}

function Offending({ watch: b }: { watch: Schemas["DeliveryWatch"] }) {
  const { rule } = b.watch;
  const named = [...(rule.key ?? []), ...(rule.column ? [rule.column] : [])];
  const columns = [...named, ...b.columns.filter((c) => !named.includes(c))].slice(0, shownColumns);
  const lines = (rows: Row[], said: string) =>
    rows.map((row, i) => (
      <tr key={`${said} ${i}`} className="h-[23px]">
        <td className="w-[1%] pr-3 text-[12px] whitespace-nowrap text-ink-2">{said}</td>
        {columns.map((c) => (
          <td key={c} className="max-w-[110px] truncate pr-2">
            <Value value={row.cells[b.columns.indexOf(c)] ?? null} />
          </td>
        ))}
      </tr>
    ));
  return (
    <div className="mt-1.5 max-h-56 overflow-auto">
      <table className="w-full" aria-label={`Rows against ${b.watch.words}`}>
        <thead>
          <tr className="text-[12px] text-ink-2">
            <th />
            {columns.map((c) => (
              <th key={c} className="max-w-[110px] truncate pr-2">
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines(b.coming, "delivered")}
          {lines(b.standing, "stands")}
        </tbody>
      </table>
    </div>
  );
}
