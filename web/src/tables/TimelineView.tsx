import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Profile, type Table } from "../api/client";
import { useWhere } from "../conditions/useWhere";
import { Segments } from "../design/Field";
import { Histogram } from "../design/Histogram";
import { ProblemNotice } from "../design/Notice";
import { count, n } from "../design/words";

type By = "day" | "month" | "year";

/** The rows of a column of dates along the calendar, with what is missing in between. */
export function TimelineView({ table, profile: p }: { table: Table; profile: Profile }) {
  const [by, setBy] = useState<By>("month");
  const where = useWhere(table.id).text;
  const timeline = useQuery({
    queryKey: ["timeline", table.id, table.revision, p.column, by, where],
    staleTime: Infinity,
    retry: false,
    placeholderData: (last) => last,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/timeline", {
          params: { path: { table: table.id }, query: { column: p.column, by, revision: table.revision, where } },
        }),
      ),
  });
  const periods = timeline.data?.periods ?? [];
  const gaps = timeline.data?.gaps ?? [];
  const middle = periods[Math.floor(periods.length / 2)]?.period ?? "";
  return (
    <div className="mb-3">
      <div className="mb-2 flex items-center justify-between text-[12px] text-ink-2">
        <span>Rows by {by}</span>
        <Segments
          label="Timeline by"
          value={by}
          options={[
            { value: "day", name: "day" },
            { value: "month", name: "month" },
            { value: "year", name: "year" },
          ]}
          onChange={setBy}
        />
      </div>
      {timeline.error ? (
        <ProblemNotice error={timeline.error} />
      ) : (
        <Histogram
          rows={periods.map((x) => x.rows)}
          ticks={
            periods.length > 2 ? [periods[0]!.period, middle, periods.at(-1)!.period] : periods.map((x) => x.period)
          }
          label={`Rows of ${p.column} by ${by}`}
        />
      )}
      {gaps.length > 0 && (
        <p className="mt-1 text-[12px] text-ochre">
          No row in{" "}
          {count(
            gaps.reduce((sum, g) => sum + g.periods, 0),
            by,
          )}
          :{" "}
          {gaps
            .slice(0, 4)
            .map((g) => (g.periods > 1 ? `${g.from} to ${g.to}` : g.from))
            .join(", ")}
          {gaps.length > 4 && ` and ${n(gaps.length - 4)} more gaps`}.
        </p>
      )}
    </div>
  );
}
