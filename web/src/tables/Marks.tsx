import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas, type Table } from "../api/client";
import { Button } from "../design/Button";
import { Input, Labelled } from "../design/Field";
import { ProblemNotice } from "../design/Notice";
import { useJournalChange } from "./usePinned";

type Mark = Schemas["Mark"];

/** Names for how a table stood. */
export function useMarks(table: number) {
  return useQuery({
    queryKey: ["marks", table],
    queryFn: () => ask(api.GET("/tables/{table}/marks", { params: { path: { table } } })),
  });
}

interface Props {
  table: Table;
  /** The marks at the entry that is shown. */
  marks: Mark[];
  /** The entry is the last one, so the table stands as after it. */
  last: boolean;
}

/** The marks at an entry: set one where the table stands now, return to one. */
export function Marks({ table, marks, last }: Props) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const change = useJournalChange(table.id);
  const again = () => client.invalidateQueries({ queryKey: ["marks", table.id] });
  const set = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/tables/{table}/marks", {
          params: { path: { table: table.id } },
          body: { name, revision: table.revision },
        }),
      ),
    onSuccess: () => {
      setName("");
      return again();
    },
  });
  const remove = useMutation({
    mutationFn: (mark: string) =>
      ask(api.DELETE("/tables/{table}/marks/{mark}", { params: { path: { table: table.id, mark } } })),
    onSuccess: again,
  });
  const problem = set.error ?? remove.error ?? change.error;
  if (!last && marks.length === 0) return null;
  return (
    <div className="mb-3">
      {problem ? <ProblemNotice error={problem} /> : null}
      {marks.map((m) => (
        <p key={m.name} className="flex items-center gap-3 border-b border-rule-2 py-1">
          <span className="min-w-0 flex-1 truncate" title={m.name}>
            Marked <b className="font-semibold">{m.name}</b>
          </span>
          {m.stands ? (
            <span className="text-green">stands so now</span>
          ) : (
            <Button
              kind="small"
              disabled={change.isPending}
              aria-label={`Return to ${m.name}`}
              onClick={() => change.mutate({ change: { mark: m.name }, revision: table.revision })}
            >
              Return to it
            </Button>
          )}
          <Button kind="quiet" aria-label={`Remove the mark ${m.name}`} onClick={() => remove.mutate(m.name)}>
            remove
          </Button>
        </p>
      ))}
      {last && (
        <form
          className="mt-1 flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            set.mutate();
          }}
        >
          <span className="min-w-0 flex-1">
            <Labelled label="Mark how it stands, to return to">
              <Input
                aria-label="Name of the mark"
                placeholder="before merging buyers"
                className="w-full"
                maxLength={200}
                value={name}
                onChange={(e) => setName(e.target.value)}
              />
            </Labelled>
          </span>
          {name.trim() !== "" && (
            <Button type="submit" disabled={set.isPending}>
              Set the mark
            </Button>
          )}
        </form>
      )}
    </div>
  );
}
