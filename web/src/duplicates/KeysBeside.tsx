import { useQueries, useQuery } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Loading, ProblemNotice } from "../design/Notice";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";
import { keyParams, type Rule } from "./rule";

interface Props {
  revision: number | undefined;
  where?: string;
  /** Keys that were looked at before. */
  tried: Schemas["Duplicates"][];
  current: Rule;
  onChoose: (key: Schemas["Duplicates"]) => void;
}

const as = { "": "", folded: " folded", words: " in any order", read: " as read" };
const keep = "first" as const;

/** What each of several keys would find; each line fills in as it is counted. */
export function KeysBeside({ revision, where, tried, current, onChoose }: Props) {
  const { table } = useBook();
  const proposed = useQuery({
    queryKey: ["proposed keys", table, revision, where],
    enabled: revision !== undefined,
    staleTime: Infinity,
    queryFn: () =>
      ask(api.GET("/tables/{table}/repeats/keys", { params: { path: { table }, query: { revision, where } } })),
  });
  const mine = current.key.length > 0 ? [{ ...keyParams(current), keep }] : [];
  const own = [...tried, ...mine].filter(
    (t, i, all) => all.findIndex((o) => JSON.stringify(o) === JSON.stringify(t)) === i,
  );
  const keys: Schemas["Duplicates"][] = [...(proposed.data ?? []).map((key) => ({ key, keep })), ...own];
  const found = useQueries({
    queries: keys.map((k) => ({
      queryKey: ["key summary", table, revision, where, k],
      enabled: revision !== undefined && proposed.data !== undefined,
      staleTime: Infinity,
      retry: false,
      queryFn: async () => {
        const query = { rule: JSON.stringify(k), revision, where, count: 1 };
        return (await ask(api.GET("/tables/{table}/repeats", { params: { path: { table }, query } }))).summary;
      },
    })),
  });
  if (proposed.error) return <ProblemNotice error={proposed.error} />;
  if (!proposed.data) return <Loading what="Looking for keys…" />;
  const all = proposed.data[0]?.length ?? 0;
  return (
    <table className="w-full table-fixed" aria-label="Keys side by side">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="py-1">Same in</th>
          <th className="w-[12%] text-right">Groups</th>
          <th className="w-[13%] text-right">Repeats</th>
          <th className="w-[15%] text-right">Would remain</th>
          <th className="w-[12%] text-right">Largest</th>
          <th className="w-[15%]" />
        </tr>
      </thead>
      <tbody>
        {keys.map((k, i) => (
          <tr key={i} className="border-b border-rule-2 align-baseline">
            <td className="py-1.5 pr-2">
              <span className="font-semibold">{named(k, all)}</span>
              {k.apart && <span className="text-ink-2">, blanks apart</span>}
              {i >= proposed.data.length && <i className="ml-1 text-ink-2">tried</i>}
            </td>
            <Figures summary={found[i]?.data} error={found[i]?.error} />
            <td className="text-right">
              <Button kind="small" aria-label={`Use ${named(k, all)}`} onClick={() => onChoose(k)}>
                Use it
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Figures({ summary: s, error }: { summary?: Schemas["RepeatSummary"]; error?: Error | null }) {
  if (!s) {
    return (
      <td colSpan={4} className="text-right text-ink-3">
        {error ? error.message : "counting…"}
      </td>
    );
  }
  return (
    <>
      <td className="text-right">{n(s.groups)}</td>
      <td className={`text-right ${s.repeats > 0 ? "text-ochre" : "text-ink-3"}`}>{n(s.repeats)}</td>
      <td className="text-right">{n(s.remain)}</td>
      <td className="text-right">{n(s.largest)}</td>
    </>
  );
}

function named(k: Schemas["Duplicates"], all: number): string {
  if (k.key.length === all && all > 1 && !k.as) return `all ${count(all, "column")}`;
  const names = k.key.map((c) => c + as[k.as?.[c] ?? ""]);
  return names.length > 4 ? `${names.slice(0, 3).join(" + ")} and ${n(names.length - 3)} more` : names.join(" + ");
}
