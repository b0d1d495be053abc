import { useState } from "react";
import { useShortForms } from "../api/spellings";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Loading, ProblemNotice } from "../design/Notice";

/** The short forms of the book, one a line, beside those that are shipped. */
export function ShortForms({ book, onClose }: { book: number; onClose: () => void }) {
  const { query, save } = useShortForms(book);
  const [typed, setTyped] = useState<string>();
  const known = Object.entries(query.data?.forms ?? {})
    .toSorted(([a], [b]) => a.localeCompare(b))
    .map(([short, long]) => `${short} = ${long}`)
    .join("\n");
  const text = typed ?? known;
  const lines = text.split("\n").filter((l) => l.trim() !== "");
  const wrong = lines.find((l) => !/^[^=]*\S[^=]*=[^=]*\S[^=]*$/.test(l));
  const forms = Object.fromEntries(lines.map((l) => l.split("=", 2).map((part) => part.trim()) as [string, string]));
  return (
    <Dialog open onClose={onClose} title="Short forms of this book">
      <p className="mb-2 text-ink-2">
        A word or a whole value, and what it stands for, one a line. Common ones such as Ltd, &amp;, St and nicknames
        are known already.
      </p>
      {query.isPending && <Loading what="Opening…" />}
      <textarea
        aria-label="Short forms"
        className="h-44 w-full rounded-[3px] border border-rule bg-paper p-2 font-sans"
        placeholder={"hbr = harbour\nGP = Gull Point"}
        value={text}
        onChange={(e) => setTyped(e.target.value)}
        spellCheck={false}
      />
      {wrong && <p className="mt-1 text-ochre">“{wrong.slice(0, 60)}” needs one =, as in hbr = harbour.</p>}
      {save.error && <ProblemNotice error={save.error} />}
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Close</Button>
        <Button
          kind="main"
          disabled={wrong !== undefined || typed === undefined || save.isPending}
          onClick={() => save.mutate(forms, { onSuccess: onClose })}
        >
          Keep {lines.length} short {lines.length === 1 ? "form" : "forms"}
        </Button>
      </div>
    </Dialog>
  );
}
