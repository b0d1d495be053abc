import { useSyncExternalStore } from "react";
import type { Schemas } from "../api/client";

export type Condition = Schemas["Condition"];

/* The condition that narrows the views of a table lasts as long as the window, reloads included. */
const listeners = new Set<() => void>();
const key = (table: number) => `where ${table}`;

function subscribe(listener: () => void) {
  listeners.add(listener);
  return () => {
    listeners.delete(listener);
  };
}

export function setWhere(table: number, condition: Condition | null) {
  if (condition) sessionStorage.setItem(key(table), JSON.stringify(condition));
  else sessionStorage.removeItem(key(table));
  for (const listener of listeners) listener();
}

export interface Where {
  /** As the server takes it; undefined where the table is not narrowed. */
  text: string | undefined;
  condition: Condition | null;
}

/** The condition that narrows the views of a table. */
export function useWhere(table: number): Where {
  const text = useSyncExternalStore(subscribe, () => sessionStorage.getItem(key(table)) ?? undefined);
  return { text, condition: text ? (JSON.parse(text) as Condition) : null };
}
