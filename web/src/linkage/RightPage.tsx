import { useState, type ReactNode } from "react";
import { Link } from "react-router";
import { useDrawGolden } from "../api/linkages";
import type { Schemas } from "../api/client";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Check, Input } from "../design/Field";
import { Notice, ProblemNotice } from "../design/Notice";
import { Page } from "../design/Spread";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { ClusterPage, type Held } from "./ClusterPage";
import { PairPage } from "./PairPage";

interface Props {
  id: number;
  linkage: Schemas["Linkage"] | undefined;
  pair: Schemas["LinkedPair"] | undefined;
  cluster: Schemas["Cluster"] | undefined;
  held: Held | undefined;
  onHold: (held: Held | undefined) => void;
  onDecide: (pairs: Schemas["PairDecision"][], done?: () => void) => void;
  onSay: (same: boolean | undefined) => void;
  /** What else is shown, in the place of a pair. */
  beside: ReactNode;
  besideTitle: string;
  spot: boolean;
  note: string;
  onNote: (note: string) => void;
  busy: boolean;
}

/** The right page of a linkage: the pair or cluster that is looked at, and the golden records there would be. */
export function RightPage(p: Props) {
  const { linkage, pair, cluster } = p;
  const { book } = useBook();
  const [typed, setTyped] = useState<string>();
  const [cross, setCross] = useState(false);
  const name = typed ?? (linkage ? `${linkage.name}, ${cross ? "cross-reference" : "golden"}` : "");
  const draw = useDrawGolden(p.id, name, cross);
  const sub = pair
    ? `${pair.left.name}, row ${n(pair.left.row + 1)}, and ${pair.right.name}, row ${n(pair.right.row + 1)}`
    : cluster
      ? `${count(cluster.size, "record")} held together by ${cluster.weakest >= 100 ? "what was decided" : `a tie of ${cluster.weakest.toFixed(1)} bits or more`}`
      : p.beside
        ? undefined
        : linkage && `One record of each of ${count(linkage.clusters, "cluster")}, and of each record that is in none.`;
  return (
    <Page
      side="right"
      title={pair ? "Are these one thing?" : cluster ? "One thing" : p.beside ? p.besideTitle : "Golden records"}
      sub={sub}
      foot={
        linkage && (
          <Balance
            figures={[
              { label: "Records", value: n(linkage.records) },
              { label: "Merged", value: n(cross ? 0 : linkage.records - linkage.golden), tone: "ochre" },
              {
                label: cross ? "Rows" : "Golden records",
                value: n(cross ? linkage.records : linkage.golden),
                final: true,
              },
            ]}
          >
            <Input
              aria-label="Name of the golden table"
              className="w-36"
              value={name}
              onChange={(e) => setTyped(e.target.value)}
            />
            <Button
              kind="main"
              disabled={name.trim() === "" || linkage.golden === linkage.records || draw.isPending}
              onClick={() => draw.mutate()}
            >
              {cross ? "Draw the references" : "Draw the golden records"}
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
      {pair && <PairPage pair={pair} onSay={p.onSay} spot={p.spot} note={p.note} onNote={p.onNote} busy={p.busy} />}
      {cluster && linkage && (
        <ClusterPage
          key={cluster.records.map((r) => r.record.key).join()}
          cluster={cluster}
          linkage={linkage}
          held={p.held}
          onHold={p.onHold}
          onDecide={p.onDecide}
          busy={p.busy}
        />
      )}
      {!pair && !cluster && p.beside}
      {!pair && !cluster && !p.beside && linkage && (
        <>
          <p>
            Every golden record has a lasting identifier: it stays the same on later runs and deliveries, and when
            records are merged or taken apart it is remembered which became which.
            {linkage.identified > 0 && ` ${count(linkage.identified, "record")} stand under one now.`}
          </p>
          <p className="mt-3">
            <Check checked={cross} onChange={setCross}>
              Draw which record stands under which identifier instead
            </Check>
          </p>
        </>
      )}
    </Page>
  );
}
