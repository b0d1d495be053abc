import { useQuery, type UseQueryResult } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Loading, ProblemNotice } from "../design/Notice";
import { count, listing, n } from "../design/words";
import { keyParams, type Rule } from "./rule";

/** What each column is within the groups of a key. */
export function useInside(table: number, revision: number | undefined, of: Rule, where?: string) {
  const rule = JSON.stringify({ ...keyParams(of), keep: "first" });
  return useQuery({
    queryKey: ["inside", table, revision, rule, where],
    enabled: revision !== undefined && of.key.length > 0,
    staleTime: Infinity,
    retry: false,
    queryFn: () =>
      ask(api.GET("/tables/{table}/repeats/inside", { params: { path: { table }, query: { rule, revision, where } } })),
  });
}

interface Props {
  inside: UseQueryResult<Schemas["Inside"][]>;
  keyColumns: string[];
  groups: number;
  onOpen: (column: string) => void;
}

/** Which columns differ within the groups, and how: a mere repeat, something new, or one id for different things. */
export function InsideView({ inside, keyColumns, groups, onOpen }: Props) {
  if (keyColumns.length === 0) return <p className="py-4 text-ink-2">Choose a key first.</p>;
  if (inside.error) return <ProblemNotice error={inside.error} />;
  if (!inside.data) return <Loading what="Looking into the groups…" />;
  const other = inside.data.filter((i) => !keyColumns.includes(i.column) || i.differs > 0);
  const differing = other.filter((i) => i.differs + i.fills > 0).toSorted((a, b) => b.differs - a.differs);
  const agree = other.filter((i) => i.differs + i.fills === 0).map((i) => i.column);
  return (
    <>
      {differing.length > 0 && (
        <table className="w-full table-fixed" aria-label="What differs in the groups">
          <thead>
            <tr className="border-b border-ink text-[12px] text-ink-2">
              <th className="py-1">Column</th>
              <th className="w-[17%] text-right">Groups that differ</th>
              <th className="w-[17%] text-right">in form alone</th>
              <th className="w-[17%] text-right">blank beside a value</th>
              <th className="w-[15%]" />
            </tr>
          </thead>
          <tbody>
            {differing.map((i) => (
              <tr key={i.column} className="h-[29px] border-b border-rule-2">
                <td className="truncate pr-2 font-semibold" title={i.column}>
                  {i.column}
                </td>
                <td className={`text-right ${i.differs > 0 ? "text-ochre" : "text-ink-3"}`}>{n(i.differs)}</td>
                <td className={`text-right ${i.forms > 0 ? "" : "text-ink-3"}`}>{n(i.forms)}</td>
                <td className={`text-right ${i.fills > 0 ? "" : "text-ink-3"}`}>{n(i.fills)}</td>
                <td className="text-right">
                  {i.differs > 0 && (
                    <Button
                      kind="small"
                      aria-label={`Groups that differ in ${i.column}`}
                      onClick={() => onOpen(i.column)}
                    >
                      Groups
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {agree.length > 0 && groups > 0 && (
        <p className="mt-3 text-ink-2">
          {differing.length === 0
            ? "All columns agree"
            : `${listing(agree)} ${agree.length === 1 ? "agrees" : "agree"}`}{" "}
          in all {count(groups, "group")}.
        </p>
      )}
      <p className="mt-3 text-[12px] text-ink-2">
        A column that should not differ, and does, says that one key stands for different things: choose more columns,
        or give new ids. One that may differ carries something new: combine the rows rather than set them aside.
      </p>
    </>
  );
}
