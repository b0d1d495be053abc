import { useMutation, useQueries, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { Balance } from "../design/Balance";
import { Button } from "../design/Button";
import { Input, Labelled, Select } from "../design/Field";
import { Loading, Notice, ProblemNotice } from "../design/Notice";
import { Heading, Page, Spread } from "../design/Spread";
import { bytes, count, n } from "../design/words";
import { JobLine } from "../shell/Jobs";
import { useBook } from "../shell/useBook";
import { useJobToTable } from "../shell/useJobToTable";
import { ColumnsForm, type ColumnToBring } from "./ColumnsForm";
import { Cuts } from "./Cuts";
import { FirstRows } from "./FirstRows";
import { formats, HowForm } from "./HowForm";
import { Pieces } from "./Pieces";
import { useNextDelivery } from "./useNextDelivery";

type How = Schemas["How"];
type Upload = Schemas["Upload"];

/** How received files read: the first rows on the left, on the right what can be corrected and the table's name.
 * Several files in one go are of one shape and become one table. */
export function BringInPage() {
  const ids = (useParams().uploads ?? "").split(",").map(Number);
  const received = useQueries({
    queries: ids.map((upload) => ({
      queryKey: ["upload", upload],
      staleTime: Infinity,
      queryFn: () => ask(api.GET("/uploads/{upload}", { params: { path: { upload } } })),
    })),
  });
  const error = received.find((r) => r.error)?.error;
  if (error) {
    return (
      <Spread
        left={
          <Page side="left" title="This file is not here">
            <ProblemNotice error={error} />
            <p className="text-ink-2">
              It may have been brought in already, or discarded. Drop it again to bring it in anew.
            </p>
          </Page>
        }
      />
    );
  }
  const files = received.flatMap((r) => r.data ?? []);
  if (files.length < ids.length) return <Spread left={<Loading what="Reading the file…" />} />;
  return <BringIn key={ids.join()} files={files} />;
}

function BringIn({ files }: { files: Upload[] }) {
  const { book } = useBook();
  const navigate = useNavigate();
  const [first] = files as [Upload];
  const proposed = first.preview.how;
  const [how, setHow] = useState<How>(proposed);
  const [columns, setColumns] = useState<ColumnToBring[] | null>(null);
  const [each, setEach] = useState(false);
  const [name, setName] = useState(first.suggestedName);
  const changed = JSON.stringify(how) !== JSON.stringify(proposed);
  const corrected = useQuery({
    queryKey: ["preview", first.id, how],
    enabled: changed,
    staleTime: Infinity,
    retry: false,
    placeholderData: (last) => last,
    queryFn: () => ask(api.POST("/uploads/{upload}/preview", { params: { path: { upload: first.id } }, body: how })),
  });
  const preview = changed ? corrected.data : first.preview;
  // What the server filled in is what the forms show.
  const shown = preview && !corrected.isPlaceholderData ? preview.how : how;
  const chosen = columns?.filter((c) => c.bring).map(({ from, as }) => ({ from, as: as.trim() }));
  const pieces = shown.pieces ?? [];
  const tables = (): Schemas["BringIn"][] => {
    const uploads = files.map((f) => f.id);
    const read: How = { ...shown, columns: chosen };
    if (!each || pieces.length < 2) return [{ name, uploads, how: read }];
    // Each sheet has its own rows above its names: they are worked out when it is read.
    return pieces.map((piece) => ({
      name: pieceName(piece),
      uploads,
      how: { ...read, pieces: [piece], grid: undefined },
    }));
  };
  const start = useMutation({
    mutationFn: () => ask(api.POST("/books/{book}/bring-in", { params: { path: { book } }, body: tables() })),
    onSuccess: (jobs) => {
      if (jobs.length > 1) void navigate(`/books/${book}`);
    },
  });
  const discard = useMutation({
    mutationFn: async () => {
      for (const f of files) await ask(api.DELETE("/uploads/{upload}", { params: { path: { upload: f.id } } }));
    },
    onSuccess: () => navigate(`/books/${book}`),
  });
  const { job, busy: working } = useJobToTable(book, start.data?.length === 1 ? start.data[0]?.id : undefined);
  const next = useNextDelivery(book, files);
  const busy = start.isPending || working || next.busy;
  const change = (next: How) => {
    setColumns(null);
    setHow(next);
  };
  const size = files.reduce((sum, f) => sum + f.bytes, 0);
  const several = each && pieces.length > 1;
  return (
    <Spread
      widths="7fr 5fr"
      left={
        <Page
          side="left"
          title={files.length > 1 ? `${first.file} and ${files.length - 1} more` : first.file}
          tab={`Bring in ${first.file}`}
          sub={`${bytes(size)}. ${preview ? `The first ${count(preview.rows.length, "row")} as they read` : "Reading…"}; nothing is stored yet.`}
        >
          {corrected.error && changed && <ProblemNotice error={corrected.error} />}
          {shown.format === "fixed" && shown.fixed && preview?.choices.lines && (
            <Cuts
              lines={preview.choices.lines}
              layout={shown.fixed}
              onChange={(fixed) => change({ ...shown, fixed })}
            />
          )}
          {preview && <FirstRows preview={preview} columns={columns} />}
        </Page>
      }
      right={
        <Page
          side="right"
          title={several ? `Bring in ${pieces.length} tables` : "Bring it in as a table"}
          sub="How it was read. Correct what is wrong and the first rows follow."
          foot={
            <Balance
              figures={[
                { label: files.length > 1 ? `${files.length} files` : "File", value: bytes(size) },
                { label: "Columns", value: n(chosen?.length ?? preview?.names.length ?? 0), final: true },
              ]}
            >
              <Button onClick={() => discard.mutate()} disabled={busy}>
                Discard
              </Button>
              <Button
                kind="main"
                disabled={
                  busy ||
                  !preview ||
                  Boolean(changed && corrected.error) ||
                  (!several && name.trim() === "") ||
                  chosen?.length === 0
                }
                onClick={() => start.mutate()}
              >
                {several ? `Bring in ${pieces.length} tables` : "Bring in the table"}
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
          {next.notice}
          {!several && (
            <Labelled label="Name of the table">
              <Input value={name} onChange={(e) => setName(e.target.value)} maxLength={200} disabled={busy} />
            </Labelled>
          )}
          {preview && <Pieces how={shown} choices={preview.choices} each={each} onEach={setEach} onChange={change} />}
          <Heading>How it was read</Heading>
          <div className="grid grid-cols-[132px_1fr] items-center gap-y-2">
            <span className="text-ink-2">Kind of file</span>
            <Select
              label="Kind of file"
              value={shown.format}
              options={formats}
              onChange={(format) =>
                change({
                  format: format as How["format"],
                  packed: shown.packed,
                  pieces: shown.packed === "zip" ? shown.pieces : undefined,
                })
              }
              className="w-full"
            />
            <HowForm how={shown} choices={preview?.choices ?? {}} onChange={change} />
          </div>
          {changed && (
            <p className="mt-2 text-[12px]">
              <Button kind="quiet" onClick={() => change(proposed)}>
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
          {preview && !several && <ColumnsForm names={preview.names} columns={columns} onChange={setColumns} />}
        </Page>
      }
    />
  );
}

/** A table takes the name of its sheet, or of its file without folders and ending. */
function pieceName(piece: string): string {
  return piece.replace(/^.*\//, "").replace(/\.\w{2,7}$/, "");
}
