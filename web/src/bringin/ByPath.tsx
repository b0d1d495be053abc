import { useMutation } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { Button } from "../design/Button";
import { Input } from "../design/Field";
import { ProblemNotice } from "../design/Notice";

/** Takes a file on the server's own disk, which is not sent and may be of any size. */
export function ByPath({ book }: { book: number }) {
  const [path, setPath] = useState("");
  const navigate = useNavigate();
  const take = useMutation({
    mutationFn: () => ask(api.POST("/books/{book}/paths", { params: { path: { book } }, body: { path } })),
    onSuccess: (upload) => navigate(`/books/${book}/uploads/${upload.id}`),
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    take.mutate();
  };
  return (
    <form onSubmit={submit} aria-label="File on this machine's disk">
      <div className="flex gap-2">
        <Input
          aria-label="Path of the file"
          placeholder="/srv/deliveries/march.jsonl"
          value={path}
          onChange={(e) => setPath(e.target.value)}
          className="h-[30px]! min-w-0 flex-1"
          required
        />
        <Button type="submit" disabled={take.isPending}>
          Read it
        </Button>
      </div>
      {take.error && (
        <div className="mt-2">
          <ProblemNotice error={take.error} />
        </div>
      )}
    </form>
  );
}
