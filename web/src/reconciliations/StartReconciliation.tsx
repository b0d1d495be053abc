import { useState } from "react";
import { useNavigate } from "react-router";
import { useTables } from "../api/queries";
import { useNewReconciliation } from "../api/reconciliations";
import { Button } from "../design/Button";
import { Input, Labelled, Select } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count } from "../design/words";
import { useBook } from "../shell/useBook";

/** Chooses two ledgers to be proved against each other. */
export function StartReconciliation() {
  const { book } = useBook();
  const navigate = useNavigate();
  const [ours, setOurs] = useState("");
  const [theirs, setTheirs] = useState("");
  const [typed, setTyped] = useState<string>();
  const start = useNewReconciliation(book);
  const tables = useTables(book);
  const nameOf = (id: string) => tables.find((t) => String(t.id) === id)?.name ?? "";
  const options = [
    { value: "", name: "choose a table" },
    ...tables.map((t) => ({ value: String(t.id), name: `${t.name}, ${count(t.rows, "row")}` })),
  ];
  const name = typed ?? (ours && theirs ? `${nameOf(ours)} and ${nameOf(theirs)}` : "");
  return (
    <Spread
      left={
        <Page
          side="left"
          title="Prove two ledgers"
          tab="Prove two ledgers"
          sub="What agrees is settled with its reason; what is left is the work, and the statement comes to nil."
        >
          {start.error && <ProblemNotice error={start.error} />}
          <form
            className="flex max-w-[60ch] flex-col gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              start.mutate(
                { name, ours: Number(ours), theirs: Number(theirs) },
                { onSuccess: (r) => void navigate(`/books/${book}/reconciliations/${r.id}`) },
              );
            }}
          >
            <Labelled label="Our ledger">
              <Select label="Our ledger" value={ours} options={options} onChange={setOurs} />
            </Labelled>
            <Labelled label="Theirs">
              <Select label="Theirs" value={theirs} options={options} onChange={setTheirs} />
            </Labelled>
            <Labelled label="Name">
              <Input aria-label="Name" value={name} onChange={(e) => setTyped(e.target.value)} />
            </Labelled>
            <p className="text-ink-2">
              Dates, amounts, references and texts are found by what the columns are called and hold, and can be
              changed. Nothing changes in the tables.
            </p>
            <Button kind="main" type="submit" disabled={!ours || !theirs || name.trim() === "" || start.isPending}>
              Prove them
            </Button>
          </form>
        </Page>
      }
    />
  );
}
