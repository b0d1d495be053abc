import { useMemo, useState } from "react";
import type { Group, Rung, Schemas } from "../api/client";

export type Order = "rows" | "doubt" | "rung";

const strictest: Rung[] = ["crosswalk", "spelling", "order", "forms", "slips", "sound", "likeness"];

/** What a steward decides on groups before posting: which are taken, the standard value of each, and spellings that go elsewhere.
 * Groups that nothing speaks against are taken from the start, doubtful ones wait to be looked at. */
export function useGroupDecisions(all: Group[], order: Order, onlyNew: boolean) {
  const [taken, setTaken] = useState<Map<string, boolean>>(new Map());
  const [standards, setStandards] = useState<Map<string, string>>(new Map());
  const [moved, setMoved] = useState<Map<string, string>>(new Map());
  const groups = useMemo(() => {
    const shown = onlyNew ? all.filter((g) => g.members.some((m) => isNew(g, m))) : all;
    if (order === "rows") return shown;
    return shown.toSorted((a, b) =>
      order === "doubt"
        ? Number(b.doubt !== "") - Number(a.doubt !== "")
        : strictest.indexOf(b.weakest) - strictest.indexOf(a.weakest),
    );
  }, [all, order, onlyNew]);

  const isTaken = (g: Group) => taken.get(g.standard) ?? g.doubt === "";
  const standardOf = (g: Group) => standards.get(g.standard) ?? g.standard;
  const goesTo = (g: Group, value: string) => moved.get(value) ?? standardOf(g);
  const takenGroups = groups.filter((g) => isTaken(g) && standardOf(g).trim() !== "");
  const changes = takenGroups.flatMap((g) =>
    g.members
      .filter((m) => goesTo(g, m.value) !== m.value && goesTo(g, m.value).trim() !== "")
      .map((m) => ({
        from: m.value,
        to: goesTo(g, m.value),
        why: moved.has(m.value) ? "moved by hand" : m.why || "another standard value chosen",
      })),
  );
  return {
    groups,
    takenGroups,
    changes,
    isTaken,
    standardOf,
    goesTo,
    take: (g: Group, on: boolean) => setTaken(new Map(taken).set(g.standard, on)),
    setStandard: (g: Group, value: string) => setStandards(new Map(standards).set(g.standard, value)),
    /** A spelling goes to another standard value than its group; the group's own takes that back. */
    move: (g: Group, value: string, to: string) => {
      const next = new Map(moved);
      if (to === standardOf(g)) next.delete(value);
      else next.set(value, to);
      setMoved(next);
    },
    forget: () => {
      setTaken(new Map());
      setStandards(new Map());
      setMoved(new Map());
    },
  };
}

export type GroupDecisions = ReturnType<typeof useGroupDecisions>;

/** Whether a spelling is none that the crosswalk knows. */
const isNew = (g: Group, m: Schemas["Member"]) => m.value !== g.standard && m.rung !== "crosswalk";
