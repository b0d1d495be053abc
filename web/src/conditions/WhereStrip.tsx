import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { Button } from "../design/Button";
import { ProblemNotice } from "../design/Notice";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { setWhere, useWhere, type Condition } from "./useWhere";

/** How many rows hold a condition, and each part of it by itself. */
export function useCount(table: number, revision: number | undefined, condition: Condition | null) {
  return useQuery({
    queryKey: ["condition", table, revision, condition],
    enabled: condition !== null && revision !== undefined,
    staleTime: Infinity,
    retry: false,
    placeholderData: (last) => last,
    queryFn: () =>
      ask(
        api.POST("/tables/{table}/condition", { params: { path: { table }, query: { revision } }, body: condition! }),
      ),
  });
}

/** Says that a table's views show only some of its rows, and which. */
export function WhereStrip({ revision }: { revision: number | undefined }) {
  const { book, table } = useBook();
  const { condition } = useWhere(table);
  const counted = useCount(table, revision, condition);
  if (!condition) return null;
  return (
    <div
      role="status"
      className="my-1 flex shrink-0 flex-wrap items-baseline gap-x-3 border-l-[3px] border-ochre bg-ochre-bg px-3 py-1"
    >
      {counted.error ? (
        <ProblemNotice error={counted.error} />
      ) : (
        counted.data && (
          <span className="min-w-0 flex-1">
            Only the <strong>{count(counted.data.count.rows, "row")}</strong> of {n(counted.data.total)} where{" "}
            {counted.data.words}
          </span>
        )
      )}
      <span className="flex gap-2">
        <Link className="text-pencil underline" to={tablePath(book, table, "/conditions")}>
          Change
        </Link>
        <Button kind="quiet" className="h-auto! p-0!" onClick={() => setWhere(table, null)}>
          Show all rows
        </Button>
      </span>
    </div>
  );
}
