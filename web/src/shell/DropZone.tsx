import {
  createContext,
  useContext,
  useEffect,
  useEffectEvent,
  useRef,
  useState,
  type DragEvent,
  type ReactNode,
} from "react";
import { useNavigate } from "react-router";
import { Problem, problemOf, type Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { ProblemNotice } from "../design/Notice";
import { bytes } from "../design/words";
import { pasted } from "./pasted";

const Choose = createContext<(forTable?: number) => void>(() => {});

interface ChooseFileProps {
  className?: string;
  /** The table that the files are the next delivery of. */
  forTable?: number;
  children: ReactNode;
}

/** A button that opens the file chooser. */
export function ChooseFile({ className, forTable, children }: ChooseFileProps) {
  const choose = useContext(Choose);
  return (
    <button type="button" className={className} onClick={() => choose(forTable)}>
      {children}
    </button>
  );
}

/** Files that are being received, or why they were not. */
interface Sending {
  file: File;
  place: number;
  of: number;
  sent: number;
  error?: unknown;
}

/** Takes files dropped anywhere on the page, chosen or pasted, and tables pasted, sends them, and opens how they were read. */
export function DropZone({ book, children }: { book: number; children: ReactNode }) {
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<Sending | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const forTable = useRef<number | undefined>(undefined);
  const request = useRef<XMLHttpRequest | null>(null);
  const navigate = useNavigate();

  const send = async (files: File[]) => {
    const ids: number[] = [];
    for (const [place, file] of files.entries()) {
      const at = { file, place: place + 1, of: files.length };
      setSending({ ...at, sent: 0 });
      try {
        const upload = await receive(book, file, request, (sent) => setSending({ ...at, sent }));
        if (!upload) return; // stopped
        ids.push(upload.id);
      } catch (error) {
        setSending({ ...at, sent: 0, error });
        return;
      }
    }
    setSending(null);
    const goal = forTable.current ? `?for=${forTable.current}` : "";
    if (ids.length > 0) void navigate(`/books/${book}/uploads/${ids.join(",")}${goal}`);
  };
  const stop = () => {
    request.current?.abort();
    setSending(null);
  };
  const paste = useEffectEvent((e: ClipboardEvent) => {
    if (e.target instanceof HTMLElement && e.target.closest("input, textarea, [contenteditable]")) return;
    const files = pasted(e.clipboardData);
    if (files.length === 0) return;
    e.preventDefault();
    forTable.current = undefined;
    void send(files);
  });
  useEffect(() => {
    const listen = (e: ClipboardEvent) => paste(e);
    window.addEventListener("paste", listen);
    return () => window.removeEventListener("paste", listen);
  }, []);
  const holdsFiles = (e: DragEvent) => e.dataTransfer.types.includes("Files");
  return (
    <Choose
      value={(table) => {
        forTable.current = table;
        chooser.current?.click();
      }}
    >
      <div
        onDragEnter={(e) => holdsFiles(e) && setOver(true)}
        onDragOver={(e) => holdsFiles(e) && e.preventDefault()}
        onDragLeave={(e) => e.currentTarget === e.target && setOver(false)}
        onDrop={(e) => {
          if (!holdsFiles(e)) return;
          e.preventDefault();
          setOver(false);
          forTable.current = undefined;
          void send([...e.dataTransfer.files]);
        }}
      >
        {children}
        <input
          ref={chooser}
          type="file"
          multiple
          className="hidden"
          data-choose-file
          aria-label="Files to bring in"
          onChange={(e) => {
            void send([...(e.target.files ?? [])]);
            e.target.value = "";
          }}
        />
        {over && (
          <div className="pointer-events-none fixed inset-3 z-50 grid place-items-center rounded-[4px] border-2 border-dashed border-pencil bg-pencil-bg/90">
            <p className="font-serif text-[21px] font-semibold text-pencil">Drop files to bring them in</p>
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
                  {sending.of > 1 && `, file ${sending.place} of ${sending.of}`}
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

/** Sends one file; gives nothing where it was stopped. XMLHttpRequest, as fetch does not tell how much of a body has been sent. */
function receive(book: number, file: File, request: { current: XMLHttpRequest | null }, sent: (bytes: number) => void) {
  return new Promise<Schemas["Upload"] | null>((done, fail) => {
    const r = new XMLHttpRequest();
    request.current = r;
    r.open("POST", `/api/books/${book}/uploads?name=${encodeURIComponent(file.name)}`);
    r.setRequestHeader("Content-Type", "application/octet-stream");
    r.upload.onprogress = (e) => sent(e.loaded);
    r.onabort = () => done(null);
    r.onload = () => {
      const answer: unknown = r.response ? JSON.parse(r.response as string) : null;
      if (r.status === 201) done(answer as Schemas["Upload"]);
      else fail(new Problem(problemOf(answer, r.status)));
    };
    r.onerror = () =>
      fail(
        new Problem({
          title: "The file was not received",
          status: 0,
          detail: "The connection was lost.",
          remedy: "Try again",
        }),
      );
    r.send(file);
  });
}
