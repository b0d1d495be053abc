import { useState } from "react";
import { useNavigate } from "react-router";
import { useNewAsking } from "../api/askings";
import { useTables } from "../api/queries";
import { Button } from "../design/Button";
import { Check, Input, Labelled, Segments, Select } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count } from "../design/words";
import { useBook } from "../shell/useBook";

/** Chooses a column of names and the authority that is asked about it. */
export function StartAsking() {
  const { book } = useBook();
  const navigate = useNavigate();
  const [table, setTable] = useState("");
  const [column, setColumn] = useState("");
  const [kind, setKind] = useState<"table" | "service">("table");
  const [register, setRegister] = useState("");
  const [address, setAddress] = useState("");
  const [alone, setAlone] = useState(false);
  const start = useNewAsking(book);
  const tables = useTables(book);
  const names = (but: string) => [
    { value: "", name: "choose a table" },
    ...tables
      .filter((t) => String(t.id) !== but)
      .map((t) => ({ value: String(t.id), name: `${t.name}, ${count(t.rows, "row")}` })),
  ];
  const columns = tables.find((t) => String(t.id) === table)?.columns ?? [];
  const ready = table !== "" && column !== "" && (kind === "table" ? register !== "" : address.trim() !== "");
  return (
    <Spread
      left={
        <Page
          side="left"
          title="Ask an authority"
          tab="Ask an authority"
          sub="Ties each value of a column to the entry of an outside register that it names, and brings its facts home."
        >
          {start.error && <ProblemNotice error={start.error} />}
          <form
            className="flex max-w-[60ch] flex-col gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              start.mutate(
                {
                  table: Number(table),
                  column,
                  alone,
                  register: kind === "table" ? Number(register) : undefined,
                  address: kind === "service" ? address : undefined,
                },
                { onSuccess: (a) => void navigate(`/books/${book}/askings/${a.id}`) },
              );
            }}
          >
            <Labelled label="Table">
              <Select
                label="Table"
                value={table}
                options={names("")}
                onChange={(t) => {
                  setTable(t);
                  setColumn("");
                }}
              />
            </Labelled>
            <Labelled label="Column of names">
              <Select
                label="Column of names"
                value={column}
                options={[{ value: "", name: "choose a column" }, ...columns.map((c) => ({ value: c, name: c }))]}
                onChange={setColumn}
              />
            </Labelled>
            <Segments
              label="Authority"
              value={kind}
              options={[
                { value: "table", name: "A table of this book" },
                { value: "service", name: "A service at an address" },
              ]}
              onChange={setKind}
            />
            {kind === "table" ? (
              <Labelled label="Register">
                <Select label="Register" value={register} options={names(table)} onChange={setRegister} />
              </Labelled>
            ) : (
              <Labelled label="Address of a service that speaks the reconciliation service API">
                <Input
                  aria-label="Address"
                  placeholder="https://"
                  value={address}
                  onChange={(e) => setAddress(e.target.value)}
                />
              </Labelled>
            )}
            {kind === "table" ? (
              <Check checked={alone} onChange={setAlone}>
                By the names alone: let no other columns testify
              </Check>
            ) : (
              <p className="text-ink-2">
                The different names of the column are sent there, and nothing else; no other address is reached.
              </p>
            )}
            <Button kind="main" type="submit" disabled={!ready || start.isPending}>
              {kind === "table" ? "Look up the names" : "Look at the service"}
            </Button>
          </form>
        </Page>
      }
    />
  );
}
