import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Job } from "../api/client";

/** Listens to what changes, in this window or another, and has it asked for again. */
export function useEvents() {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource("/api/events");
    const again = (...keys: unknown[][]) => keys.forEach((queryKey) => void client.invalidateQueries({ queryKey }));
    source.addEventListener("table", (e) => {
      const table = Number(e.data);
      again(["table", table], ["journal", table], ["contents"], ["crosswalk"]);
    });
    source.addEventListener("job", (e) => {
      const job = JSON.parse(e.data as string) as Job;
      client.setQueryData(["job", job.id], job);
      client.setQueriesData<Job[]>({ queryKey: ["jobs"] }, (jobs) =>
        jobs?.some((j) => j.id === job.id) ? jobs.map((j) => (j.id === job.id ? job : j)) : jobs && [job, ...jobs],
      );
    });
    // After a lost connection anything may have changed.
    source.addEventListener("all", () => again(["table"], ["journal"], ["contents"], ["jobs"], ["job"], ["crosswalk"]));
    return () => source.close();
  }, [client]);
}
