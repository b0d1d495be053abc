import type { ReactNode } from "react";
import { Problem } from "../api/client";
import { n } from "./words";

const tones = {
  ochre: "border-ochre bg-ochre-bg text-ochre",
  red: "border-red bg-red-bg text-red",
  green: "border-green bg-green-bg text-green",
};

/** A line that must be seen: what happened, and what to do. */
export function Notice({ tone, children }: { tone: keyof typeof tones; children: ReactNode }) {
  return (
    <div
      role={tone === "red" ? "alert" : "status"}
      className={`mb-3 rounded-[3px] border-l-2 px-3 py-2 ${tones[tone]}`}
    >
      <div className="text-ink">{children}</div>
    </div>
  );
}

/** A problem in words: what, where, what to do. */
export function ProblemNotice({ error, children }: { error: unknown; children?: ReactNode }) {
  const p =
    error instanceof Problem
      ? error.document
      : { title: "Something went wrong", detail: String(error), status: 0, remedy: undefined };
  const where = "file" in p && [p.file, p.row && `row ${n(p.row)}`, p.column && `column ${p.column}`].filter(Boolean);
  return (
    <Notice tone="red">
      <p>
        <b className="font-semibold">{p.title}.</b> {where && where.length > 0 && `${where.join(", ")}: `}
        {sentence(p.detail)}
      </p>
      {p.remedy && <p>{sentence(p.remedy)}</p>}
      {"since" in p && p.since && p.since.length > 0 && (
        <ul className="mt-1">
          {p.since.map((e) => (
            <li key={e.number}>
              Entry {e.number}, {e.state === "reversed" ? "reversed" : "posted"}: {e.words}
            </li>
          ))}
        </ul>
      )}
      {children && <div className="mt-2 flex gap-2">{children}</div>}
    </Notice>
  );
}

function sentence(text: string): string {
  const whole = text.charAt(0).toUpperCase() + text.slice(1);
  return /[.!?…]$/.test(whole) ? whole : `${whole}.`;
}

/** What an empty page says: what to do next. */
export function Empty({ children }: { children: ReactNode }) {
  return <div className="m-auto max-w-[44ch] py-10 text-center text-ink-2">{children}</div>;
}

export function Loading({ what = "Counting…" }: { what?: string }) {
  return (
    <p role="status" className="py-6 text-ink-3">
      {what}
    </p>
  );
}
