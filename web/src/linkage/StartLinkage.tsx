import { useState } from "react";
import { useNavigate } from "react-router";
import { useNewLinkage } from "../api/linkages";
import { useTables } from "../api/queries";
import { Button } from "../design/Button";
import { Check, Input, Labelled } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { Page, Spread } from "../design/Spread";
import { count, listing } from "../design/words";
import { useBook } from "../shell/useBook";

/** Chooses the tables of a linkage: one for records that are there twice, several for what they have in common. */
export function StartLinkage() {
  const { book } = useBook();
  const navigate = useNavigate();
  const [chosen, setChosen] = useState<number[]>([]);
  const [typed, setTyped] = useState<string>();
  const start = useNewLinkage(book);
  const tables = useTables(book);
  const names = tables.filter((t) => chosen.includes(t.id)).map((t) => t.name);
  const name = typed ?? listing(names);
  return (
    <Spread
      left={
        <Page
          side="left"
          title="Link records"
          tab="Link records"
          sub="Which records are one thing: within one table, or across several that each list a thing once."
        >
          {start.error && <ProblemNotice error={start.error} />}
          <form
            className="flex flex-col gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              start.mutate(
                { name, tables: chosen },
                { onSuccess: (l) => void navigate(`/books/${book}/linkages/${l.id}`) },
              );
            }}
          >
            <ul aria-label="Tables" className="max-w-[60ch]">
              {tables.map((t) => (
                <li key={t.id} className="flex justify-between gap-3 border-b border-rule-2 py-1">
                  <Check
                    checked={chosen.includes(t.id)}
                    onChange={(on) => setChosen(on ? [...chosen, t.id] : chosen.filter((id) => id !== t.id))}
                  >
                    <span>{t.name}</span>
                  </Check>
                  <span className="text-ink-2">{count(t.rows, "row")}</span>
                </li>
              ))}
            </ul>
            <div className="w-80 [&_input]:w-full">
              <Labelled label="Name of the linkage">
                <Input aria-label="Name of the linkage" value={name} onChange={(e) => setTyped(e.target.value)} />
              </Labelled>
            </div>
            <p className="max-w-[60ch] text-ink-2">
              The columns are paired, what they are and which pairs of records are worth comparing is worked out, and
              nothing changes in the tables.
            </p>
            <Button kind="main" type="submit" disabled={chosen.length === 0 || name.trim() === "" || start.isPending}>
              {chosen.length === 1 ? "Find what is there twice" : "Link the tables"}
            </Button>
          </form>
        </Page>
      }
    />
  );
}
