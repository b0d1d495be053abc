import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ask, type Dialect, type Schemas } from "../api/client";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Input, Labelled, Segments, Select } from "../design/Field";
import { Loading, Notice, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { Value } from "../design/Value";
import { bytes, count, n } from "../design/words";
import { JobLine } from "../shell/Jobs";
import { useBook } from "../shell/useBook";
import { useJobToTable } from "../shell/useJobToTable";

/** How a received file reads: the first rows on the left, on the right what can be corrected and the table's name. */
export function BringInPage() {
  const upload = Number(useParams().upload);
  const received = useQuery({
    queryKey: ["upload", upload],
    staleTime: Infinity,
    queryFn: () => ask(api.GET("/uploads/{upload}", { params: { path: { upload } } })),
  });
  if (received.error) {
    return (
      <Spread
        left={
          <Page side="left" title="This file is not here">
            <ProblemNotice error={received.error} />
            <p className="text-ink-2">
              It may have been brought in already, or discarded. Drop it again to bring it in anew.
            </p>
          </Page>
        }
      />
    );
  }
  if (!received.data) return <Spread left={<Loading what="Reading the file…" />} />;
  return <BringIn key={upload} received={received.data} />;
}

function BringIn({ received }: { received: Schemas["Upload"] }) {
  const { book } = useBook();
  const navigate = useNavigate();
  const [dialect, setDialect] = useState<Dialect>(received.preview.dialect);
  const [name, setName] = useState(received.suggestedName);
  const changed = JSON.stringify(dialect) !== JSON.stringify(received.preview.dialect);
  const path = { upload: received.id };
  const corrected = useQuery({
    queryKey: ["preview", received.id, dialect],
    enabled: changed,
    staleTime: Infinity,
    retry: false,
    queryFn: () => ask(api.POST("/uploads/{upload}/preview", { params: { path }, body: dialect })),
  });
  const start = useMutation({
    mutationFn: () => ask(api.POST("/uploads/{upload}/bring-in", { params: { path }, body: { name, dialect } })),
  });
  const discard = useMutation({
    mutationFn: () => ask(api.DELETE("/uploads/{upload}", { params: { path } })),
    onSuccess: () => navigate(`/books/${book}`),
  });
  const preview = changed ? corrected.data : received.preview;
  const { job, busy: working } = useJobToTable(book, start.data?.id);
  const busy = start.isPending || working;
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title={received.file}
          tab={`Bring in ${received.file}`}
          sub={`${bytes(received.bytes)}. ${preview ? `The first ${count(preview.rows.length, "row")} as they read` : "Reading…"}; nothing is stored yet.`}
        >
          {corrected.error && changed && <ProblemNotice error={corrected.error} />}
          {preview && <FirstRows preview={preview} />}
        </Page>
      }
      right={
        <Page
          side="right"
          title="Bring it in as a table"
          sub="How it was read. Correct what is wrong and the first rows follow."
          foot={
            <Balance
              figures={[
                { label: "File", value: bytes(received.bytes) },
                { label: "Columns", value: n(preview?.names.length ?? 0), final: true },
              ]}
            >
              <Button onClick={() => discard.mutate()} disabled={busy}>
                Discard
              </Button>
              <Button kind="main" disabled={busy || !preview || name.trim() === ""} onClick={() => start.mutate()}>
                Bring in the table
              </Button>
            </Balance>
          }
        >
          {(start.error ?? discard.error) && <ProblemNotice error={start.error ?? discard.error} />}
          {job && job.state !== "done" && (
            <div className="mb-3">
              <JobLine book={book} job={job} />
            </div>
          )}
          <Labelled label="Name of the table">
            <Input value={name} onChange={(e) => setName(e.target.value)} maxLength={200} disabled={busy} />
          </Labelled>
          <Heading>How it was read</Heading>
          <DialectForm dialect={dialect} onChange={setDialect} />
          {changed && (
            <p className="mt-2 text-[12px]">
              <Button kind="quiet" onClick={() => setDialect(received.preview.dialect)}>
                Read it as proposed
              </Button>
            </p>
          )}
          {preview && preview.notes.length > 0 && (
            <>
              <Heading>Repaired in the first rows</Heading>
              <Notice tone="ochre">
                {preview.notes.map((note) => (
                  <p key={note.what} className="first-letter:uppercase">
                    {note.what}
                    {note.rows && `: row ${note.rows.map(n).join(", ")}`}
                  </p>
                ))}
              </Notice>
            </>
          )}
        </Page>
      }
    />
  );
}

const delimiters = [
  { value: ",", name: "comma" },
  { value: ";", name: "semicolon" },
  { value: "\t", name: "tab" },
  { value: "|", name: "bar" },
  { value: ":", name: "colon" },
];

const encodings: { value: Dialect["encoding"]; name: string }[] = [
  { value: "utf-8", name: "UTF-8" },
  { value: "windows-1252", name: "Windows-1252 (Western European)" },
  { value: "iso-8859-1", name: "ISO 8859-1 (Latin 1)" },
  { value: "utf-16le", name: "UTF-16, little-endian" },
  { value: "utf-16be", name: "UTF-16, big-endian" },
];

function DialectForm({ dialect, onChange }: { dialect: Dialect; onChange: (d: Dialect) => void }) {
  const set = (part: Partial<Dialect>) => onChange({ ...dialect, ...part });
  const known = delimiters.some((d) => d.value === dialect.delimiter);
  const line = "grid grid-cols-[120px_1fr] items-center gap-y-2";
  return (
    <div className={line}>
      <span className="text-ink-2">Cells are split by</span>
      <span>
        <Segments
          label="Cells are split by"
          value={dialect.delimiter}
          options={known ? delimiters : [...delimiters, { value: dialect.delimiter, name: dialect.delimiter }]}
          onChange={(delimiter) => set({ delimiter })}
        />
      </span>
      <span className="text-ink-2">Quotation mark</span>
      <span>
        <Segments
          label="Quotation mark"
          value={dialect.quote}
          options={[
            { value: '"', name: 'double "' },
            { value: "'", name: "single '" },
            { value: "", name: "none" },
          ]}
          onChange={(quote) => set({ quote })}
        />
      </span>
      <span className="text-ink-2">First row</span>
      <span>
        <Segments
          label="First row"
          value={dialect.header ? "names" : "data"}
          options={[
            { value: "names", name: "names the columns" },
            { value: "data", name: "is a row like the others" },
          ]}
          onChange={(v) => set({ header: v === "names" })}
        />
      </span>
      <span className="text-ink-2">Encoding</span>
      <Select
        label="Encoding"
        value={dialect.encoding}
        options={encodings}
        onChange={(encoding) => set({ encoding: encoding as Dialect["encoding"] })}
        className="w-full"
      />
    </div>
  );
}

/** How many columns the first rows show. */
const shownColumns = 60;

function FirstRows({ preview }: { preview: Schemas["Preview"] }) {
  const names = preview.names.slice(0, shownColumns);
  return (
    <div className="min-h-0 overflow-auto">
      <table>
        <thead>
          <tr className="border-b border-ink text-[12px] text-ink-2">
            <th className="sticky top-0 bg-paper py-1 pr-3 text-right">Row</th>
            {names.map((name) => (
              <th
                key={name}
                className="sticky top-0 max-w-[220px] truncate bg-paper pr-4 font-semibold text-ink"
                title={name}
              >
                {name}
              </th>
            ))}
            {preview.names.length > shownColumns && (
              <th className="sticky top-0 bg-paper">and {n(preview.names.length - shownColumns)} more</th>
            )}
          </tr>
        </thead>
        <tbody>
          {preview.rows.map((row, i) => (
            <tr key={i} className="h-[27px] border-b border-rule-2">
              <td className="pr-3 text-right text-ink-3">{i + 1}</td>
              {row.slice(0, shownColumns).map((cell, c) => (
                <td key={c} className="max-w-[220px] truncate pr-4">
                  <Value value={cell} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {preview.rows.length === 0 && <p className="py-3 text-ink-2">There is no row below the names.</p>}
    </div>
  );
}
