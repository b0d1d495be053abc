import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { Loading, ProblemNotice } from "../design/Notice";
import { Heading } from "../design/Spread";
import { Value } from "../design/Value";
import { when } from "../design/words";

interface Props {
  table: number;
  revision: number;
  row: number;
  column: string;
  /** Where the row came from, in words. */
  origin: string;
}

/** Each entry that changed a cell, the latest first, back to the row of its source. */
export function Life({ table, revision, row, column, origin }: Props) {
  const life = useQuery({
    queryKey: ["life", table, revision, row, column],
    staleTime: Infinity,
    queryFn: () =>
      ask(api.GET("/tables/{table}/life", { params: { path: { table }, query: { revision, row, column } } })),
  });
  return (
    <>
      <Heading>How it came to hold this</Heading>
      {life.error ? <ProblemNotice error={life.error} /> : null}
      {life.isPending && !life.error && <Loading />}
      {life.data && (
        <ol className="max-h-52 overflow-y-auto" aria-label="Life of the cell">
          {life.data.map((e) => (
            <li key={e.number} className="border-b border-rule-2 py-1">
              <p>
                {e.from !== undefined && (
                  <>
                    <Value value={e.from} className="struck" /> →{" "}
                  </>
                )}
                {e.to === undefined ? <i className="text-ink-2">no cell</i> : <Value value={e.to} />}
              </p>
              {e.made && (
                <p className="text-[12px]">
                  made of{" "}
                  {e.made.map((m, i) => (
                    <span key={i}>
                      {i > 0 && ", "}
                      <Value value={m.value} /> <span className="text-ink-2">(row {m.row || "–"})</span>
                    </span>
                  ))}
                </p>
              )}
              <p className="text-[12px] text-ink-2">
                {e.number === 0 ? `As it came, ${origin}` : `Entry ${e.number}: ${e.words}`}, {when(e.at)}
              </p>
            </li>
          ))}
        </ol>
      )}
    </>
  );
}
