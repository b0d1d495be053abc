import { useQuery } from "@tanstack/react-query";
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
  onChoose: (key: Schemas["ConsideredKey"]) => void;
}

const as = { "": "", folded: " folded", words: " in any order", read: " as read" };

/** What each of several keys would find. */
export function KeysBeside({ revision, where, tried, current, onChoose }: Props) {
  const { table } = useBook();
  const mine = current.key.length > 0 ? [{ ...keyParams(current), keep: "first" as const }] : [];
  const keys = [...tried.filter((t) => JSON.stringify(t) !== JSON.stringify(mine[0])), ...mine];
  const found = useQuery({
    queryKey: ["keys considered", table, revision, where, keys],
    enabled: revision !== undefined,
    staleTime: Infinity,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/repeats/keys", {
          params: { path: { table }, query: { revision, where, keys: JSON.stringify(keys) } },
        }),
      ),
  });
  if (found.error) return <ProblemNotice error={found.error} />;
  if (!found.data) return <Loading what="Trying the keys…" />;
  const all = (found.data[0]?.key.length ?? 0) || 1;
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
        {found.data.map((k, i) => (
          <tr key={i} className="border-b border-rule-2 align-baseline">
            <td className="py-1.5 pr-2">
              <span className="font-semibold">{named(k, all)}</span>
              {k.apart && <span className="text-ink-2">, blanks apart</span>}
              {!k.proposed && <i className="ml-1 text-ink-2">tried</i>}
            </td>
            <td className="text-right">{n(k.summary.groups)}</td>
            <td className={`text-right ${k.summary.repeats > 0 ? "text-ochre" : "text-ink-3"}`}>
              {n(k.summary.repeats)}
            </td>
            <td className="text-right">{n(k.summary.remain)}</td>
            <td className="text-right">{n(k.summary.largest)}</td>
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

function named(k: Schemas["ConsideredKey"], all: number): string {
  if (k.key.length === all && all > 1) return `all ${count(all, "column")}`;
  const names = k.key.map((c) => c + as[k.as?.[c] ?? ""]);
  return names.length > 4 ? `${names.slice(0, 3).join(" + ")} and ${n(names.length - 3)} more` : names.join(" + ");
}
