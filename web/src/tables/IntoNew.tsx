import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { useIdempotencyKey, useTable, type Draft } from "../api/queries";
import { Button } from "../design/Button";
import { Dialog } from "../design/Dialog";
import { Input, Labelled } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { tablePath, useBook } from "../shell/useBook";

/** Copies a table, or the rows that an entry of it set aside, under a name, and opens the copy. */
export function useCopy(onCopied?: (table: number, revision: number) => Promise<unknown>) {
  const { book, table } = useBook();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [asked, setAsked] = useState({ revision: 0, name: "", aside: undefined as number | undefined });
  const key = useIdempotencyKey([table, asked]);
  return {
    asked,
    setAsked,
    copy: useMutation({
      mutationFn: async () => {
        const made = await ask(
          api.POST("/books/{book}/copies", {
            params: { path: { book }, header: { "Idempotency-Key": key } },
            body: { table, ...asked },
          }),
        );
        await onCopied?.(made.id, made.revision);
        return made;
      },
      onSettled: () => client.invalidateQueries({ queryKey: ["contents"] }),
      onSuccess: (made) => void navigate(tablePath(book, made.id, onCopied ? "/journal" : "")),
    }),
  };
}

/** Posts a draft on a copy of the table, which stays as it is, so that both can be compared. */
export function IntoNew({ draft, disabled }: { draft: Draft | null; disabled: boolean }) {
  const { table } = useBook();
  const { data } = useTable(table);
  const [open, setOpen] = useState(false);
  const key = useIdempotencyKey(["into new", draft]);
  const { asked, setAsked, copy } = useCopy((id, revision) =>
    ask(
      api.POST("/tables/{table}/entries", {
        params: { path: { table: id }, header: { "Idempotency-Key": `${key} ${id}` } },
        body: { ...draft!, revision },
      }),
    ),
  );
  if (!draft) return null;
  return (
    <>
      <Button
        disabled={disabled}
        onClick={() => {
          setAsked({ revision: draft.revision, name: `${data?.name ?? "Table"}, cleaned`, aside: undefined });
          setOpen(true);
        }}
      >
        Into a new table…
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} title="Post into a new table">
        <p className="mb-3 text-ink-2">
          {data?.name} stays as it is. The new table begins as a copy of it, and the entry is posted there.
        </p>
        {copy.error && <ProblemNotice error={copy.error} />}
        <Labelled label="Name of the new table">
          <Input value={asked.name} onChange={(e) => setAsked({ ...asked, name: e.target.value })} autoFocus />
        </Labelled>
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setOpen(false)}>Cancel</Button>
          <Button kind="main" disabled={copy.isPending || asked.name.trim() === ""} onClick={() => copy.mutate()}>
            {copy.isPending ? "Posting…" : "Post into it"}
          </Button>
        </div>
      </Dialog>
    </>
  );
}
