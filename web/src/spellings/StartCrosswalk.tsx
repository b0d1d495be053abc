import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../design/Button";
import { Input, Labelled } from "../design/Field";
import { Page, Spread } from "../design/Spread";
import { useBook } from "../shell/useBook";

/** A crosswalk that is started before any spelling was decided on. */
export function StartCrosswalk() {
  const { book } = useBook();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  return (
    <Spread
      left={
        <Page
          side="left"
          title="Start a crosswalk"
          tab="Start a crosswalk"
          sub="It opens by itself when the spellings of a column are posted, under the column’s name."
        >
          <form
            className="flex flex-col gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              void navigate(`/books/${book}/crosswalk?name=${encodeURIComponent(name.trim())}`);
            }}
          >
            <p className="max-w-[60ch] text-ink-2">
              Start one by hand to bring what is known already: a file of two columns, variant and standard, a list of
              right values, or a vocabulary in SKOS or SSSOM. Columns of its name are asked against it; others can
              choose it on the page of their spellings.
            </p>
            <div className="w-64 [&_input]:w-full">
              <Labelled label="Name, best that of the columns it is for">
                <Input aria-label="Name of the crosswalk" value={name} onChange={(e) => setName(e.target.value)} />
              </Labelled>
            </div>
            <Button kind="main" type="submit" disabled={name.trim() === ""}>
              Open {name.trim() || "it"}
            </Button>
          </form>
        </Page>
      }
    />
  );
}
