import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { tablePath } from "./useBook";

/** Follows a job to its end and then opens the table it made, or a page of it. */
export function useJobToTable(book: number, id: number | undefined, page = "") {
  const navigate = useNavigate();
  const { data: job } = useQuery({
    queryKey: ["job", id],
    enabled: id !== undefined,
    // Events tell how far it is; this is for one that was missed.
    refetchInterval: (q) => (q.state.data && ["waiting", "working"].includes(q.state.data.state) ? 1000 : false),
    queryFn: () => ask(api.GET("/jobs/{job}", { params: { path: { job: id! } } })),
  });
  const made = job?.state === "done" ? job.table : undefined;
  useEffect(() => {
    if (made) void navigate(tablePath(book, made, page), { replace: true });
  }, [book, made, navigate, page]);
  return { job, busy: job !== undefined && job.state !== "failed" && job.state !== "cancelled" };
}
