import { useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { crosswalkFile, useCrosswalkEdit } from "../api/spellings";
import { Button } from "../design/Button";
import { Select } from "../design/Field";
import { Notice, ProblemNotice } from "../design/Notice";
import { Value } from "../design/Value";
import { count } from "../design/words";

const formats = [
  { value: "csv", name: "CSV" },
  { value: "xlsx", name: "Workbook (XLSX)" },
  { value: "json", name: "JSON" },
  { value: "ttl", name: "SKOS (Turtle)" },
  { value: "sssom.tsv", name: "SSSOM (TSV)" },
];

/** A crosswalk out to a file, and what a file says in; a variant that has another standard value is asked about. */
export function CrosswalkFiles({ book, name, empty }: { book: number; name: string; empty: boolean }) {
  const read = useCrosswalkEdit(book, name);
  const [file, setFile] = useState<File>();
  const picker = useRef<HTMLInputElement>(null);
  const take = (chosen: File | undefined, overrule = false) => {
    if (!chosen) return;
    setFile(chosen);
    read.mutate({ do: "read", file: chosen, overrule });
  };
  return (
    <>
      <Button kind="small" className="h-7!" onClick={() => picker.current?.click()}>
        Read a file…
      </Button>
      <input
        ref={picker}
        type="file"
        className="hidden"
        aria-label="File of a crosswalk"
        accept=".csv,.tsv,.xlsx,.ods,.json,.ttl,.nt"
        onChange={(e) => {
          take(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      {!empty && (
        <Select
          label="Write it to a file"
          value=""
          options={[{ value: "", name: "Write to a file…" }, ...formats]}
          onChange={(format) => format && window.location.assign(crosswalkFile(book, name, format))}
          className="w-36"
        />
      )}
      {read.error && (
        <div className="basis-full">
          <ProblemNotice error={read.error} />
        </div>
      )}
      {read.data && (
        <div className="basis-full">
          <Read answer={read.data} onOverrule={() => take(file, true)} />
        </div>
      )}
    </>
  );
}

function Read({ answer, onOverrule }: { answer: Schemas["CrosswalkChanged"]; onOverrule: () => void }) {
  const { added, conflicts, standards } = answer;
  return (
    <Notice tone={conflicts.length > 0 ? "ochre" : "green"}>
      <p>
        {count(added, "spelling")} added, {count(standards ?? 0, "standard value")} read.
        {conflicts.length > 0 &&
          ` ${count(conflicts.length, "spelling has", "spellings have")} another standard value here than in the file:`}
      </p>
      {conflicts.length > 0 && (
        <>
          <ul className="my-1">
            {conflicts.slice(0, 5).map((c) => (
              <li key={c.variant}>
                <Value value={c.variant} />: <Value value={c.known} /> here, <Value value={c.new} /> in the file
              </li>
            ))}
            {conflicts.length > 5 && <li>and {conflicts.length - 5} more</li>}
          </ul>
          <Button kind="small" onClick={onOverrule}>
            Let the file decide
          </Button>{" "}
          <span className="text-[12px]">or leave them as they are here.</span>
        </>
      )}
    </Notice>
  );
}
