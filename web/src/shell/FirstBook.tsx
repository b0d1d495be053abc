import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { Navigate } from "react-router";
import { api, ask } from "../api/client";
import { useBooks } from "../api/queries";
import { Button } from "../design/Button";
import { Input, Labelled } from "../design/Field";
import { ProblemNotice } from "../design/Notice";

/** Opens the first book, or asks for the name of one where there is none. */
export function FirstBook() {
  const books = useBooks();
  const client = useQueryClient();
  const [name, setName] = useState("");
  const create = useMutation({
    mutationFn: () => ask(api.POST("/books", { body: { name } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["books"] }),
  });
  const first = books.data?.[0];
  if (first) return <Navigate to={`/books/${first.id}`} replace />;
  if (books.isPending) return null;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    create.mutate();
  };
  return (
    <main className="mx-auto mt-[18vh] w-[380px] rounded-[4px] bg-paper p-6">
      <h1 className="mb-1 text-[21px]">Grand Ledger</h1>
      <p className="mb-4 text-ink-2">
        A book holds the tables, spellings and journals of one undertaking. Open the first one.
      </p>
      {(books.error ?? create.error) && <ProblemNotice error={books.error ?? create.error} />}
      <form onSubmit={submit} className="flex items-end gap-2">
        <div className="flex-1">
          <Labelled label="Name of the book">
            <Input value={name} onChange={(e) => setName(e.target.value)} autoFocus required />
          </Labelled>
        </div>
        <Button kind="main" type="submit">
          Open the book
        </Button>
      </form>
    </main>
  );
}
