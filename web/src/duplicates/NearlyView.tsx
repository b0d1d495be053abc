import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Profile, type Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Segments } from "../design/Field";
import { Loading, ProblemNotice } from "../design/Notice";
import { Value } from "../design/Value";
import { count, listing } from "../design/words";
import { useBook } from "../shell/useBook";

interface Props {
  revision: number | undefined;
  where?: string;
  profiles: Profile[];
  onKey: (columns: string[]) => void;
}

/** How many columns are compared at most, and how many ways to differ are listed. */
const compared = 60;
const listed = 40;

/** Rows that are equal in all columns but a few, by the columns in which they differ. */
export function NearlyView({ revision, where, profiles, onKey }: Props) {
  const { table } = useBook();
  const [most, setMost] = useState<"1" | "2" | "3">("1");
  // A column that tells every row apart by itself leaves nothing equal.
  const unique = profiles.filter((p) => p.rows > 1 && p.unique === p.rows).map((p) => p.column);
  const columns = profiles
    .map((p) => p.column)
    .filter((c) => !unique.includes(c))
    .slice(0, compared);
  const found = useQuery({
    queryKey: ["nearly", table, revision, where, columns, most],
    enabled: revision !== undefined && columns.length > Number(most),
    staleTime: Infinity,
    retry: false,
    queryFn: ({ signal }) =>
      ask(
        api.GET("/tables/{table}/nearly", {
          params: { path: { table }, query: { columns, most: Number(most), revision, where } },
          signal,
        }),
      ),
  });
  return (
    <>
      <p className="mb-3 flex flex-wrap items-center gap-2 text-ink-2">
        Equal in all {count(columns.length, "column")} but at most
        <Segments
          label="Columns that may differ"
          value={most}
          options={[
            { value: "1", name: "one" },
            { value: "2", name: "two" },
            { value: "3", name: "three" },
          ]}
          onChange={setMost}
        />
        {unique.length > 0 && (
          <span>
            {listing(unique)} {unique.length === 1 ? "is" : "are"} different in every row and left out.
          </span>
        )}
      </p>
      {found.error && <ProblemNotice error={found.error} />}
      {found.isPending && columns.length > Number(most) && <Loading what="Comparing rows without each column…" />}
      {found.data?.sets.length === 0 && <p className="py-4 text-ink-2">No two rows are so nearly the same.</p>}
      {found.data?.sets.slice(0, listed).map((s) => (
        <NearSet
          key={s.columns.join()}
          set={s}
          columns={found.data.columns}
          onKey={() => onKey(columns.filter((c) => !s.columns.includes(c)))}
        />
      ))}
      {(found.data?.sets.length ?? 0) > listed && (
        <p className="text-ink-2">{count(found.data!.sets.length - listed, "further way")} to differ in few rows.</p>
      )}
    </>
  );
}

function NearSet({ set: s, columns, onKey }: { set: Schemas["NearSet"]; columns: string[]; onKey: () => void }) {
  const places = s.columns.map((c) => columns.indexOf(c));
  return (
    <section className="mb-3 border-b border-rule pb-2" aria-label={`Rows that differ in ${listing(s.columns)}`}>
      <p className="flex items-baseline gap-2">
        <span className="min-w-0 flex-1">
          They differ in <b className="font-semibold">{listing(s.columns)}</b> alone: {count(s.groups, "group")},{" "}
          {count(s.rows, "row")}.
        </span>
        <Button kind="small" onClick={onKey}>
          The others as key
        </Button>
      </p>
      <p className="text-[12px] text-ink-2">
        such as source row {s.first.map((r) => r.source || "–").join(", ")}:{" "}
        {s.first.map((r, i) => (
          <span key={i}>
            {i > 0 && <span className="mx-1.5 text-ink-3">|</span>}
            {places.map((at, j) => (
              <span key={at}>
                {j > 0 && ", "}
                <Value value={r.cells[at] ?? null} className="text-red" />
              </span>
            ))}
          </span>
        ))}
      </p>
    </section>
  );
}
