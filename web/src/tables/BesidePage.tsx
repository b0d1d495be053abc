import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask } from "../api/client";
import type { Draft } from "../api/queries";
import { FirstRows } from "../bringin/FirstRows";
import { Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { usePosting } from "./PostBar";
import { usePinned } from "./usePinned";

/** Pasted columns, or those of a small file, put beside the columns of a table row by row. */
export function BesidePage() {
  const { table } = useBook();
  const [query] = useSearchParams();
  const id = Number(query.get("upload"));
  const pinned = usePinned(table);
  const [done, setDone] = useState(false);
  const upload = useQuery({
    queryKey: ["upload", id],
    staleTime: Infinity,
    queryFn: () => ask(api.GET("/uploads/{upload}", { params: { path: { upload: id } } })),
  });
  const draft: Draft | null =
    upload.data && !done && pinned.revision !== undefined
      ? { revision: pinned.revision, kind: "beside", params: { upload: id } }
      : null;
  const posting = usePosting({
    pinned,
    draft,
    whole: true,
    idle: "The columns stand in the table",
    onPosted: () => setDone(true),
  });
  const effect = draft && posting.drafted.data?.effect;
  const name = pinned.table?.name ?? "…";
  return (
    <Spread
      left={
        <Page
          side="left"
          title={`Beside ${name}`}
          tab={`Beside ${name}`}
          sub={
            pinned.table &&
            `${upload.data?.file ?? ""}: one cell for each of the ${count(pinned.table.rows, "row")}, in the order they stand.`
          }
        >
          {(pinned.error ?? upload.error) && <ProblemNotice error={pinned.error ?? upload.error} />}
          {upload.isPending && <Loading what="Reading the columns…" />}
          {upload.data && <FirstRows preview={upload.data.preview} columns={null} />}
        </Page>
      }
      right={
        <Page
          side="right"
          title={posting.drafted.data && draft ? posting.drafted.data.words : "Columns put beside"}
          sub="Nothing changes until you post. Rows set aside get no cell."
          foot={posting.strip}
        >
          {posting.notices}
          {effect && (
            <table className="w-full table-fixed">
              <thead>
                <tr className="border-b border-ink text-[12px] text-ink-2">
                  <th className="py-1">New column</th>
                  <th className="w-[22%] text-right">Cells</th>
                  <th className="w-[26%] text-right">Distinct values</th>
                </tr>
              </thead>
              <tbody>
                {effect.columns.map((c) => (
                  <tr key={c.column} className="h-[27px] border-b border-rule-2">
                    <td className="truncate">
                      <span className="pencilled">{c.column}</span>
                    </td>
                    <td className="text-right">{n(c.cells)}</td>
                    <td className="text-right">{n(c.distinctAfter)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Page>
      }
    />
  );
}
