import type { Schemas, Table } from "../api/client";
import { Heading } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n, share } from "../design/words";
import { columnPath } from "../shell/useBook";
import { ButtonLink } from "../design/Button";

interface Props {
  draft: Schemas["JoinDraft"];
  left: Table;
  right: Table;
  on: Schemas["On"][];
}

/** Coverage on both sides as two bars, how many rows come out and why, and what fails to match. */
export function CoverageView({ draft: d, left, right, on }: Props) {
  const c = d.coverage;
  return (
    <>
      <Heading>Coverage</Heading>
      <div className="grid grid-cols-[minmax(90px,170px)_1fr_170px] items-center gap-x-3 gap-y-1.5">
        <Bar name={left.name} matched={c.leftMatched} rows={c.leftRows} />
        <Bar name={right.name} matched={c.rightMatched} rows={c.rightRows} />
      </div>
      <p className="mt-2">
        {c.pairs === 0 ? (
          <b className="font-semibold text-red">No row finds a partner.</b>
        ) : (
          `${count(c.pairs, "row")} come of matching.`
        )}{" "}
        {c.leftMany > 0 && (
          <span className="text-ochre">
            {count(c.leftMany, "row")} of {left.name} {c.leftMany === 1 ? "finds" : "find"} several partners, so{" "}
            {n(c.pairs - c.leftMatched)} rows are added.{" "}
          </span>
        )}
        {c.rightMany > 0 &&
          `${count(c.rightMany, "row")} of ${right.name} ${c.rightMany === 1 ? "is" : "are"} found by several rows.`}
      </p>
      <Missing name={left.name} keys={d.unmatchedLeft} total={d.unmatchedLeftKeys} />
      <Missing name={right.name} keys={d.unmatchedRight} total={d.unmatchedRightKeys} />
      {d.unmatchedLeft.some((u) => u.near) && on.length === 1 && (
        <p className="mt-2 flex gap-2">
          <ButtonLink to={columnPath(left.bookId, left.id, "spellings", on[0]!.left)}>
            Bring the spellings of {on[0]!.left} together first
          </ButtonLink>
        </p>
      )}
    </>
  );
}

function Bar({ name, matched, rows }: { name: string; matched: number; rows: number }) {
  return (
    <>
      <span className="truncate" title={name}>
        {name}
      </span>
      <span
        className="relative h-[11px] border border-rule"
        role="img"
        aria-label={`${share(matched, rows)} of ${name} find a partner`}
      >
        <span
          className="absolute inset-y-0 left-0 bg-green"
          style={{ width: `${rows ? (100 * matched) / rows : 0}%` }}
        />
      </span>
      <span className="text-right">
        {n(matched)} of {n(rows)}, {share(matched, rows)}
      </span>
    </>
  );
}

/** Keys that find no partner, most rows first, with the nearest key of the other side. */
function Missing({ name, keys, total }: { name: string; keys: Schemas["Unmatched"][]; total: number }) {
  if (keys.length === 0) return null;
  return (
    <>
      <Heading>
        {count(total, "key")} of {name} without a partner
      </Heading>
      <table className="w-full table-fixed">
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            <th className="w-[40%] py-1">Key</th>
            <th className="w-[14%] text-right">Rows</th>
            <th className="pl-4">Nearest on the other side</th>
          </tr>
        </thead>
        <tbody>
          {keys.slice(0, 12).map((u) => (
            <tr key={u.key.join("\u0000")} className="h-[27px] border-b border-rule-2">
              <td className="truncate pr-2">
                <Key parts={u.key} />
              </td>
              <td className="text-right">{n(u.rows)}</td>
              <td className="truncate pl-4 text-ochre">{u.near && <Key parts={u.near} />}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {total > 12 && <p className="py-1 text-[12px] text-ink-2">and {count(total - 12, "key")} more</p>}
    </>
  );
}

function Key({ parts }: { parts: string[] }) {
  return parts.map((p, i) => (
    <span key={i}>
      {i > 0 && <span className="text-ink-3"> · </span>}
      <Value value={p} />
    </span>
  ));
}
