import { useState } from "react";

const kept = "reviewer";

/** Who reviews, as typed on this machine: what is decided bears the name, and two of different names never look at the same pair. */
export function useReviewer(): [string, (name: string) => void] {
  const [name, setName] = useState(() => localStorage.getItem(kept) ?? "");
  return [
    name,
    (to) => {
      localStorage.setItem(kept, to);
      setName(to);
    },
  ];
}
