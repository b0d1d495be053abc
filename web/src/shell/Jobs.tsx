import { useMutation } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { api, ask, type Job } from "../api/client";
import { useJobs } from "../api/queries";
import { Button } from "../design/Button";
import { bytes, count, n } from "../design/words";

const under = (job: Job) => job.state === "waiting" || job.state === "working";

/** What is under way, in the bar; the list of jobs opens below it. */
export function Jobs({ book }: { book: number }) {
  const { data = [] } = useJobs(book);
  const busy = data.filter(under);
  const failed = data.filter((j) => j.state === "failed").length;
  const first = busy[0];
  return (
    <Popover.Root>
      <Popover.Trigger className="max-w-[260px] min-w-0 truncate text-[#d7dce0] hover:text-bar-ink" aria-live="polite">
        {first
          ? `${first.title}, ${progress(first)}${busy.length > 1 ? ` and ${n(busy.length - 1)} more` : ""}`
          : failed > 0
            ? `${count(failed, "job")} failed`
            : "All work done"}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={8}
          className="z-40 w-[360px] rounded-[4px] border border-ink bg-paper p-3"
        >
          <h2 className="mb-1 text-[14px]">Work under way</h2>
          {data.length === 0 && (
            <p className="text-ink-2">Nothing in the last hour. What takes longer than a moment shows here.</p>
          )}
          <ul>
            {data.map((job) => (
              <li key={job.id} className="border-t border-rule-2 py-2 first:border-t-0">
                <JobLine book={book} job={job} />
              </li>
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

export function progress(job: Job): string {
  if (job.state === "waiting") return "waiting";
  if (job.unit === "storing") return "storing";
  if (job.unit === "settling") return "settling";
  if (job.total === 0) return "working";
  return `${Math.floor((100 * job.done) / job.total)}%`;
}

/** One job: how far it is, what came of it. */
export function JobLine({ book, job }: { book: number; job: Job }) {
  useSeconds(under(job));
  const cancel = useMutation({
    mutationFn: () => ask(api.POST("/jobs/{job}/cancel", { params: { path: { job: job.id } } })),
  });
  return (
    <>
      <div className="flex items-baseline justify-between gap-2">
        <span className="truncate font-medium">{job.title}</span>
        {under(job) && (
          <Button kind="small" disabled={cancel.isPending || cancel.isSuccess} onClick={() => cancel.mutate()}>
            {cancel.isSuccess ? "Stopping…" : "Cancel"}
          </Button>
        )}
        {job.state === "done" && job.table && (
          <Link className="text-pencil underline underline-offset-2" to={`/books/${book}/tables/${job.table}`}>
            Open it
          </Link>
        )}
      </div>
      {under(job) && (
        <progress
          className="w-full accent-(--green)"
          value={job.done}
          max={job.total || undefined}
          aria-label={job.title}
        />
      )}
      <p className={job.state === "failed" ? "text-red" : "text-ink-2"}>{told(job)}</p>
    </>
  );
}

/** Renders again every second, so that what has passed is told also while nothing else moves. */
function useSeconds(on: boolean) {
  const [, tick] = useState(0);
  useEffect(() => {
    if (!on) return;
    const timer = setInterval(() => tick((t) => t + 1), 1000);
    return () => clearInterval(timer);
  }, [on]);
}

function told(job: Job): string {
  switch (job.state) {
    case "waiting":
      return "Waiting to begin";
    case "cancelled":
      return "Cancelled; nothing was changed";
    case "failed":
      return job.problem
        ? [job.problem.detail, job.problem.remedy].filter(Boolean).join(". ")
        : "It failed; the log has the reason";
    case "done":
      return `Done, ${count(job.rows ?? 0, "row")}`;
  }
  const passed = count(Math.max(0, Math.round((Date.now() - Date.parse(job.startedAt)) / 1000)), "second");
  if (job.unit === "settling" || job.unit === "storing") {
    const what =
      job.unit === "settling" ? `settling the values of column ${n(job.done)} of ${n(job.total)}` : "storing them";
    return `${count(job.rows ?? 0, "row")} read, ${what}; ${passed} so far`;
  }
  const done = job.unit === "bytes" ? `${bytes(job.done)} of ${bytes(job.total)}` : `${n(job.done)} of ${n(job.total)}`;
  const left = job.secondsLeft ? `, about ${count(job.secondsLeft, "second")} left` : "";
  return `${done}, ${count(job.rows ?? 0, "row")}${left}`;
}
