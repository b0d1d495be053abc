import { useState } from "react";
import { useEntries } from "../api/askings";
import type { Schemas } from "../api/client";
import { Balance } from "../design/Balance";
import { Button, ButtonLink } from "../design/Button";
import { Input } from "../design/Field";
import { Kbd } from "../design/Keys";
import { Heading, Page } from "../design/Spread";
import { count, n } from "../design/words";
import { useBook } from "../shell/useBook";

interface Props {
  id: number;
  asking: Schemas["Asking"] | undefined;
  value: Schemas["AskedValue"] | undefined;
  onTake: (entry: Schemas["AuthorityEntry"]) => void;
  onUndecided: () => void;
  onLocal: () => void;
  busy: boolean;
}

function Facts({ entry }: { entry: Schemas["AuthorityEntry"] }) {
  return (
    <span className="text-ink-2">
      {entry.facts
        .slice(0, 5)
        .map((f) => `${f.property} ${f.value}`)
        .join(" · ")}
    </span>
  );
}

/** The candidates of a value, the best first: what speaks for each in bits that add up, and its facts. */
export function Candidates({ id, asking, value, onTake, onUndecided, onLocal, busy }: Props) {
  const { book } = useBook();
  const [text, setText] = useState("");
  const found = useEntries(id, text);
  const identified = asking?.counts.find((c) => c.state === "identified");
  return (
    <Page
      side="right"
      title={value ? value.of[0] : "What comes home"}
      sub={
        value &&
        `${count(value.rows, "row")}${value.of.length > 1 ? `; ${value.of.slice(1).filter(Boolean).join(", ")}` : ""}. ${value.decided ? `${value.by || "Somebody"} decided: ${value.state}${value.identifier && ` as ${value.identifier}`}.` : value.state === "identified" ? "Sure enough to be taken without a look." : ""}`
      }
      foot={
        asking && (
          <Balance
            figures={[
              { label: "Rows", value: n(asking.rows) },
              { label: "Identified", value: n(identified?.rows ?? 0), tone: "green", final: true },
            ]}
          >
            <ButtonLink kind="main" to={`/books/${book}/tables/${asking.table}/identify?asking=${id}`}>
              Bring the identifiers home
            </ButtonLink>
          </Balance>
        )
      }
    >
      {value && (
        <>
          <div className="mb-2 flex flex-wrap gap-2">
            <Button kind="small" disabled={busy} onClick={onLocal}>
              Not listed: a local entry
            </Button>
            <Button kind="small" disabled={busy} onClick={onUndecided}>
              Leave undecided
            </Button>
          </div>
          {value.candidates.length === 0 && <p className="text-ink-2">The authority has nothing like it.</p>}
          <ol>
            {value.candidates.map((c, i) => (
              <li key={c.entry.identifier} className="border-b border-rule-2 py-1.5">
                <p className="flex items-baseline gap-2">
                  <Kbd>{i + 1}</Kbd>
                  <Button kind="quiet" disabled={busy} onClick={() => onTake(c.entry)}>
                    {c.entry.name}
                  </Button>
                  <span className="text-ink-2">{c.entry.identifier}</span>
                  <span className="ml-auto shrink-0">
                    {c.weight.toFixed(1)} bits, {(100 * c.probability).toFixed(0)}%
                  </span>
                </p>
                <p className="truncate pl-6">
                  <Facts entry={c.entry} />
                </p>
                <p className="pl-6 text-[12px]">
                  {c.findings.map((f) => (
                    <span key={f.attribute} className="mr-3 whitespace-nowrap">
                      <span className="text-ink-2">
                        {f.attribute}: {f.missing ? "blank" : f.words}{" "}
                      </span>
                      {!f.missing && (
                        <span className={f.bits < 0 ? "text-red" : ""}>
                          {f.bits > 0 ? "+" : ""}
                          {f.bits.toFixed(1)}
                        </span>
                      )}
                    </span>
                  ))}
                </p>
              </li>
            ))}
          </ol>
          <Heading>Another entry</Heading>
          <Input
            aria-label="Search the authority"
            placeholder="Name or identifier"
            className="w-72"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <ul className="mt-1">
            {found.data?.map((e) => (
              <li key={e.identifier} className="flex gap-2 border-b border-rule-2 py-1">
                <Button kind="quiet" disabled={busy} onClick={() => onTake(e)}>
                  {e.name}
                </Button>
                <span className="text-ink-2">{e.identifier}</span>
                <span className="min-w-0 truncate">
                  <Facts entry={e} />
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </Page>
  );
}
