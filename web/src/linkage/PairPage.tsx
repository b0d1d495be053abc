import { useState } from "react";
import { Link } from "react-router";
import { useDrawGolden } from "../api/linkages";
import type { Schemas } from "../api/client";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { Notice, ProblemNotice } from "../design/Notice";
import { Page } from "../design/Spread";
import { Value } from "../design/Value";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";

interface Props {
  id: number;
  linkage: Schemas["Linkage"] | undefined;
  pair: Schemas["LinkedPair"] | undefined;
  onSay: (same: boolean) => void;
  busy: boolean;
}

/** The right page of a linkage: two records side by side, what each attribute finds in bits that add up, and the golden records there would be. */
export function PairPage({ id, linkage, pair, onSay, busy }: Props) {
  const { book } = useBook();
  const [typed, setTyped] = useState<string>();
  const name = typed ?? (linkage ? `${linkage.name}, golden` : "");
  const draw = useDrawGolden(id, name);
  return (
    <Page
      side="right"
      title={pair ? "Are these one thing?" : "Golden records"}
      sub={
        pair
          ? `${pair.left.name}, row ${n(pair.left.row + 1)}, and ${pair.right.name}, row ${n(pair.right.row + 1)}`
          : linkage &&
            `One record of each of ${count(linkage.clusters, "cluster")}, and of each record that is in none.`
      }
      foot={
        linkage && (
          <Balance
            figures={[
              { label: "Records", value: n(linkage.records) },
              { label: "Merged", value: n(linkage.records - linkage.golden), tone: "ochre" },
              { label: "Golden records", value: n(linkage.golden), final: true },
            ]}
          >
            <Input
              aria-label="Name of the golden table"
              className="w-40"
              value={name}
              onChange={(e) => setTyped(e.target.value)}
            />
            <Button
              kind="main"
              disabled={name.trim() === "" || linkage.golden === linkage.records || draw.isPending}
              onClick={() => draw.mutate()}
            >
              Draw the golden records
            </Button>
          </Balance>
        )
      }
    >
      {draw.error && <ProblemNotice error={draw.error} />}
      {draw.data && (
        <Notice tone="green">
          {draw.data.name} is drawn, with {count(draw.data.rows, "row")}.{" "}
          <Link className="text-pencil underline" to={tablePath(book, draw.data.id)}>
            Open it
          </Link>
        </Notice>
      )}
      {pair && (
        <>
          <div className="mb-3 flex flex-wrap items-center gap-2">
            <Button disabled={busy} onClick={() => onSay(true)}>
              The same
            </Button>
            <Button disabled={busy} onClick={() => onSay(false)}>
              Different
            </Button>
            <span className="text-ink-2">
              {pair.decided
                ? "Somebody decided that they are the same."
                : `Together ${pair.weight.toFixed(1)} bits: by what is known, ${(100 * pair.probability).toFixed(0)} of 100 such pairs are one thing.`}
            </span>
          </div>
          <table className="w-full table-fixed">
            <thead>
              <tr className="border-b border-ink text-[12px] text-ink-2">
                <th className="w-[17%] py-1 text-left font-normal" />
                <th className="text-left font-normal">{pair.left.name}</th>
                <th className="text-left font-normal">{pair.right.name}</th>
                <th className="w-[24%] text-left font-normal">Finding</th>
                <th className="w-[52px] text-right font-normal">Bits</th>
              </tr>
            </thead>
            <tbody>
              {pair.findings.map((f) => {
                const differs = !f.missing && f.bits < 0;
                return (
                  <tr key={f.attribute} className="border-b border-rule-2 align-baseline">
                    <td className="truncate py-1 pr-2 text-ink-2">{f.attribute}</td>
                    <td className={`py-1 pr-2 break-words ${differs ? "text-red" : ""}`}>
                      <Value value={f.left.join(", ")} />
                    </td>
                    <td className={`py-1 pr-2 break-words ${differs ? "text-red" : ""}`}>
                      <Value value={f.right.join(", ")} />
                    </td>
                    <td className="py-1 pr-2 text-ink-2">{f.missing ? "one is blank, says nothing" : f.words}</td>
                    <td className={`py-1 text-right ${differs ? "text-red" : ""}`}>
                      {f.missing ? "–" : `${f.bits > 0 ? "+" : ""}${f.bits.toFixed(1)}`}
                    </td>
                  </tr>
                );
              })}
              <tr>
                <td colSpan={4} className="py-1 text-right text-ink-2">
                  Weight
                </td>
                <td className="py-1 text-right font-serif font-semibold">
                  <span className="ruled-off inline-block">{pair.weight.toFixed(1)}</span>
                </td>
              </tr>
            </tbody>
          </table>
          <p className="mt-3 text-[12px] text-ink-2">
            Each bit doubles or halves the odds. What agrees seldom by chance weighs most; what is blank says nothing.
          </p>
        </>
      )}
    </Page>
  );
}
