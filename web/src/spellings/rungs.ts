import type { Rung } from "../api/client";

/** The rungs of evidence in words. */
export const rungs: Record<Rung, string> = {
  crosswalk: "Crosswalk",
  spelling: "Case and spacing",
  order: "Word order",
  forms: "Short forms",
  slips: "Typing slips",
  sound: "Sound",
  likeness: "Likeness",
};
