import { useStartLinkage } from "../api/linkages";
import type { Schemas } from "../api/client";
import { Button } from "../design/Button";
import { ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, listing } from "../design/words";

/** A linkage of tables that are too large to link while a page waits. */
export function Waiting({ linkage, id }: { linkage: Schemas["Linkage"]; id: number }) {
  const start = useStartLinkage(id);
  const under = linkage.job !== undefined && linkage.job !== 0;
  return (
    <Spread
      left={
        <Page
          side="left"
          title={linkage.name}
          tab={linkage.name}
          sub={`${count(linkage.records, "record")} of ${listing(linkage.tables.map((t) => t.name))}.`}
        >
          {start.error && <ProblemNotice error={start.error} />}
          <p className="mb-3 max-w-[60ch]">
            {under
              ? "The records are being linked. The work is shown above, and goes on when this page is closed."
              : "So many records are linked in the background: that takes some seconds for each million, and is done anew for every delivery and every other way to compare."}
          </p>
          {!under && (
            <Button kind="main" disabled={start.isPending} onClick={() => start.mutate()}>
              Link {count(linkage.records, "record")}
            </Button>
          )}
        </Page>
      }
    />
  );
}
