import { createContext, useContext, useRef, useState, type DragEvent, type ReactNode } from "react";
import { useNavigate } from "react-router";
import { Problem, problemOf, type Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { ProblemNotice } from "../design/Notice";
import { bytes } from "../design/words";

const Choose = createContext<() => void>(() => {});

/** A button that opens the file chooser. */
export function ChooseFile({ className, children }: { className?: string; children: ReactNode }) {
  const choose = useContext(Choose);
  return (
    <button type="button" className={className} onClick={choose}>
      {children}
    </button>
  );
}

/** A file that is being received, or why it was not. */
interface Sending {
  file: File;
  sent: number;
  error?: unknown;
}

/** Takes files dropped anywhere on the page or chosen, sends the first one, and opens how it was read. */
export function DropZone({ book, children }: { book: number; children: ReactNode }) {
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<Sending | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const request = useRef<XMLHttpRequest | null>(null);
  const navigate = useNavigate();

  const send = (file: File | undefined) => {
    if (!file) return;
    setSending({ file, sent: 0 });
    // XMLHttpRequest, as fetch does not tell how much of a body has been sent.
    const r = new XMLHttpRequest();
    request.current = r;
    r.open("POST", `/api/books/${book}/uploads?name=${encodeURIComponent(file.name)}`);
    r.setRequestHeader("Content-Type", "application/octet-stream");
    r.upload.onprogress = (e) => setSending({ file, sent: e.loaded });
    r.onload = () => {
      const answer: unknown = r.response ? JSON.parse(r.response as string) : null;
      if (r.status === 201) {
        setSending(null);
        void navigate(`/books/${book}/uploads/${(answer as Schemas["Upload"]).id}`);
      } else {
        setSending({ file, sent: 0, error: new Problem(problemOf(answer, r.status)) });
      }
    };
    r.onerror = () =>
      setSending({
        file,
        sent: 0,
        error: new Problem({
          title: "The file was not received",
          status: 0,
          detail: "The connection was lost.",
          remedy: "Try again",
        }),
      });
    r.send(file);
  };
  const stop = () => {
    request.current?.abort();
    setSending(null);
  };
  const holdsFiles = (e: DragEvent) => e.dataTransfer.types.includes("Files");
  return (
    <Choose value={() => chooser.current?.click()}>
      <div
        onDragEnter={(e) => holdsFiles(e) && setOver(true)}
        onDragOver={(e) => holdsFiles(e) && e.preventDefault()}
        onDragLeave={(e) => e.currentTarget === e.target && setOver(false)}
        onDrop={(e) => {
          if (!holdsFiles(e)) return;
          e.preventDefault();
          setOver(false);
          send(e.dataTransfer.files[0]);
        }}
      >
        {children}
        <input
          ref={chooser}
          type="file"
          className="hidden"
          data-choose-file
          aria-label="File to bring in"
          onChange={(e) => {
            send(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
        {over && (
          <div className="pointer-events-none fixed inset-3 z-50 grid place-items-center rounded-[4px] border-2 border-dashed border-pencil bg-pencil-bg/90">
            <p className="font-serif text-[21px] font-semibold text-pencil">Drop the file to bring it in</p>
          </div>
        )}
      </div>
      <Dialog
        open={sending !== null}
        onClose={stop}
        title={sending?.error ? `${sending.file.name} was not taken` : `Receiving ${sending?.file.name}`}
      >
        {sending?.error ? (
          <>
            <ProblemNotice error={sending.error} />
            <div className="flex justify-end gap-2">
              <Button onClick={stop}>Close</Button>
              <Button
                kind="main"
                onClick={() => {
                  stop();
                  chooser.current?.click();
                }}
              >
                Choose another file
              </Button>
            </div>
          </>
        ) : (
          sending && (
            <>
              <progress className="w-full accent-(--green)" value={sending.sent} max={sending.file.size || 1} />
              <div className="mt-1 flex items-center justify-between text-ink-2">
                <span>
                  {bytes(sending.sent)} of {bytes(sending.file.size)}
                </span>
                <Button kind="small" onClick={stop}>
                  Stop
                </Button>
              </div>
            </>
          )
        )}
      </Dialog>
    </Choose>
  );
}
