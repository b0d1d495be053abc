import { useQuery } from "@tanstack/react-query";
import { api, ask, type Schemas, type Table } from "../api/client";
import { useTable } from "../api/queries";
import { setWhere, useWhere } from "../conditions/useWhere";
import { WhereStrip } from "../conditions/WhereStrip";
import { Balance } from "../design/Balance";
import { ButtonLink } from "../design/Button";
import { Loading, ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, n } from "../design/words";
import { tablePath, useBook } from "../shell/useBook";
import { TableHead, TableSub } from "./TableHead";

type Together = Schemas["Together"];

/** What the columns are to one another: by which rows can be told apart, what determines what, what is there twice. */
export function KeysPage() {
  const { table } = useBook();
  const { data, error } = useTable(table);
  const where = useWhere(table);
  const keys = useQuery({
    queryKey: ["keys", table, data?.revision, where.text],
    enabled: data !== undefined,
    staleTime: Infinity,
    queryFn: () =>
      ask(
        api.GET("/tables/{table}/keys", {
          params: { path: { table }, query: { revision: data!.revision, where: where.text } },
        }),
      ),
  });
  const k = keys.data;
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title={data?.name ?? "…"}
          tab={data && `Keys of ${data.name}`}
          sub={data && <TableSub table={data} />}
        >
          {(error ?? keys.error) && <ProblemNotice error={error ?? keys.error} />}
          {data && <TableHead table={data} />}
          <WhereStrip revision={data?.revision} />
          {keys.isPending && !error && <Loading what="Comparing every pair of columns…" />}
          {k && data && <Keys table={data} keys={k.keys} />}
        </Page>
      }
      right={
        <Page
          side="right"
          title="What goes together"
          sub="Every figure over all rows."
          foot={
            k && (
              <Balance
                figures={[
                  { label: "Keys", value: n(k.keys.length) },
                  { label: "Determined", value: n(k.depends.length) },
                  { label: "Same content", value: n(k.same.length), final: true },
                ]}
              />
            )
          }
        >
          {k && data && <Depends table={data} depends={k.depends} />}
          {k && data && k.same.length > 0 && <SameContent table={data} same={k.same} />}
        </Page>
      }
    />
  );
}

function Keys({ table, keys }: { table: Table; keys: Together["keys"] }) {
  if (keys.length === 0) {
    return (
      <p className="py-4 text-ink-2">
        No column, and no pair of columns, tells the rows apart: each shares its value with others in more than one row
        of twenty.
      </p>
    );
  }
  return (
    <table className="w-full table-fixed" aria-label="Keys">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="py-1">Rows can be told apart by</th>
          <th className="w-[21%] text-right">Rows that share it</th>
          <th className="w-[13%] text-right">Blank</th>
          <th className="w-[19%]" />
        </tr>
      </thead>
      <tbody>
        {keys.map((k) => (
          <tr key={k.columns.join()} className="h-[29px] border-b border-rule-2">
            <td className="truncate font-semibold" title={k.columns.join(" and ")}>
              {k.columns.join(" and ")}
            </td>
            <td className={`text-right ${k.shared > 0 ? "text-ochre" : "text-green"}`}>
              {k.shared > 0 ? n(k.shared) : "none"}
            </td>
            <td className={`text-right ${k.blank > 0 ? "text-ochre" : "text-ink-3"}`}>{n(k.blank)}</td>
            <td className="text-right">
              {k.shared > 0 && (
                <ButtonLink
                  to={tablePath(
                    table.bookId,
                    table.id,
                    `/duplicates?${k.columns.map((c) => `key=${encodeURIComponent(c)}`).join("&")}`,
                  )}
                >
                  See them
                </ButtonLink>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Depends({ table, depends }: { table: Table; depends: Together["depends"] }) {
  if (depends.length === 0) return <p className="py-4 text-ink-2">No column determines another.</p>;
  return (
    <table className="mb-4 w-full table-fixed" aria-label="Columns that determine others">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="py-1">A value of</th>
          <th>has one</th>
          <th className="w-[22%] text-right">Exceptions</th>
          <th className="w-[22%]" />
        </tr>
      </thead>
      <tbody>
        {depends.map((d) => (
          <tr key={`${d.from} ${d.to}`} className="h-[29px] border-b border-rule-2">
            <td className="truncate pr-2 font-semibold" title={`${d.from}, ${count(d.values, "value")}`}>
              {d.from}
            </td>
            <td className="truncate pr-2" title={d.to}>
              {d.to}
            </td>
            <td className={`text-right ${d.exceptions > 0 ? "text-ochre" : "text-green"}`}>
              {d.exceptions > 0 ? count(d.exceptions, "row") : "none"}
            </td>
            <td className="text-right">
              {d.exceptions > 0 && (
                <ButtonLink
                  to={tablePath(
                    table.bookId,
                    table.id,
                    `/cross?lines=${encodeURIComponent(d.from)}&columns=${encodeURIComponent(d.to)}`,
                  )}
                >
                  Cross table
                </ButtonLink>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function SameContent({ table, same }: { table: Table; same: Together["same"] }) {
  return (
    <table className="w-full table-fixed" aria-label="Columns of the same content">
      <thead>
        <tr className="border-b border-ink text-[12px] text-ink-2">
          <th className="py-1">The same content</th>
          <th className="w-[22%] text-right">Rows that differ</th>
          <th className="w-[22%]" />
        </tr>
      </thead>
      <tbody>
        {same.map((s) => (
          <tr key={`${s.a} ${s.b}`} className="h-[29px] border-b border-rule-2">
            <td className="truncate">
              <b className="font-semibold">{s.a}</b> and <b className="font-semibold">{s.b}</b>
            </td>
            <td className={`text-right ${s.differ > 0 ? "text-ochre" : "text-green"}`}>
              {s.differ > 0 ? n(s.differ) : "none"}
            </td>
            <td className="text-right">
              {s.differ > 0 && (
                <ButtonLink
                  to={tablePath(table.bookId, table.id, "/rows")}
                  onClick={() => setWhere(table.id, { op: "differs", column: s.a, other: s.b })}
                >
                  Rows
                </ButtonLink>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
