import { useEffect, type ReactNode } from "react";

/** The spread of two pages: left what stands now, right what posting would do, between them the red double margin line.
 * On a narrow window the pages stack. */
export function Spread({ left, right, widths = "1fr 1fr" }: { left: ReactNode; right?: ReactNode; widths?: string }) {
  return (
    <main
      className="relative grid min-h-0 rounded-[4px] bg-paper shadow-[0_1px_0_var(--rule),0_2px_8px_#0001] max-[900px]:block! max-[900px]:overflow-auto"
      style={{ gridTemplateColumns: right ? widths : "1fr" }}
    >
      {left}
      {right}
    </main>
  );
}

interface PageProps {
  title: ReactNode;
  sub?: ReactNode;
  children: ReactNode;
  /** What closes the page: keys on the left, the balance strip on the right. */
  foot?: ReactNode;
  side: "left" | "right";
  /** The name of the browser's tab. */
  tab?: string;
}

export function Page({ title, sub, children, foot, side, tab }: PageProps) {
  useEffect(() => {
    if (tab) document.title = `${tab} – Grand Ledger`;
  }, [tab]);
  const margin = side === "right" ? "margin-line relative max-[900px]:border-t max-[900px]:border-red" : "";
  const Heading = side === "left" ? "h1" : "h2";
  return (
    <section className={`flex min-h-0 min-w-0 flex-col ${margin}`} aria-label={side === "left" ? "Evidence" : "Entry"}>
      <header className="px-[18px] pt-4 pb-2.5">
        <Heading className="truncate text-[19px] leading-tight">{title}</Heading>
        {sub !== undefined && <p className="mt-0.5 text-ink-2">{sub}</p>}
      </header>
      <div className="-mt-1 flex min-h-0 flex-1 flex-col overflow-auto px-[18px] pt-1 pb-3">{children}</div>
      {foot}
    </section>
  );
}

/** A heading within a page. */
export function Heading({ children }: { children: ReactNode }) {
  return <h3 className="mt-4 mb-1.5 text-[14px]">{children}</h3>;
}
