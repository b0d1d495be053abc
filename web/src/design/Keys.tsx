import { useEffect, useRef, type ReactNode } from "react";

export function Kbd({ children }: { children: ReactNode }) {
  return (
    <kbd className="rounded-[3px] border border-current px-1 font-sans text-[11px] font-medium opacity-80">
      {children}
    </kbd>
  );
}

/** The keys of a page, shown at its foot. Each is a list of keys and what they do. */
export function Keys({ keys }: { keys: [string[], string][] }) {
  return (
    <p className="flex flex-wrap gap-x-3 gap-y-1 px-[18px] pt-2 pb-3 text-[12px] text-ink-2">
      {keys.map(([names, does]) => (
        <span key={does} className="whitespace-nowrap">
          {names.map((k) => (
            <span key={k} className="mr-1">
              <Kbd>{k}</Kbd>
            </span>
          ))}
          {does}
        </span>
      ))}
    </p>
  );
}

/** Listens for keys while the person is not typing and no dialog is open. */
export function useKeys(keys: Record<string, () => void>) {
  const current = useRef(keys);
  useEffect(() => {
    current.current = keys;
  });
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      const at = e.target as HTMLElement;
      if (e.ctrlKey || e.metaKey || e.altKey || document.querySelector("[role=dialog]")) return;
      if (at.closest("input, textarea, select, [role=listbox], [role=menu]")) return;
      if ((e.key === "Enter" || e.key === " ") && at.closest("button, a, label")) return;
      const act = current.current[e.key.length === 1 ? e.key.toLowerCase() : e.key];
      if (act) {
        e.preventDefault();
        act();
      }
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
