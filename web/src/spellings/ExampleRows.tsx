import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { ProblemNotice } from "../design/Notice";
import { Heading } from "../design/Spread";
import { Value } from "../design/Value";
import { n } from "../design/words";

interface Props {
  table: number;
  revision: number | undefined;
  column: string;
  value: string;
}

/** The first rows that hold a spelling, the columns beside it first. */
export function ExampleRows({ table, revision, column, value }: Props) {
  const { data, error } = useQuery({
    queryKey: ["example rows", table, revision, column, value],
    staleTime: Infinity,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/rows", { params: { path: { table }, query: { revision, column, value, count: 5 } } }),
      ),
  });
  const at = data ? data.columns.indexOf(column) : -1;
  const places = (data?.columns ?? []).map((_, i) => i).filter((i) => i !== at);
  return (
    <>
      <Heading>
        Rows with <Value value={value} />
      </Heading>
      {error && <ProblemNotice error={error} />}
      {data && (
        <div className="overflow-x-auto pb-1" tabIndex={0} aria-label={`Rows with ${value}`}>
          <table className="text-[12px]">
            <thead>
              <tr className="border-b border-ink text-ink-2">
                {places.map((i) => (
                  <th key={i} className="max-w-[140px] truncate py-0.5 pr-3 text-left font-normal">
                    {data.columns[i]}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {data.rows.map((row) => (
                <tr key={row.row} className="border-b border-rule-2">
                  {places.map((i) => (
                    <td key={i} className="max-w-[140px] truncate py-0.5 pr-3">
                      <Value value={row.cells[i] ?? null} />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          {data.total > data.rows.length && (
            <p className="pt-0.5 text-[12px] text-ink-2">
              the first {data.rows.length} of {n(data.total)}
            </p>
          )}
        </div>
      )}
    </>
  );
}
