import type { Schemas } from "../api/client";

export type Reading = Schemas["Reading"];
export type Kind = Schemas["ReadingKind"];

/** The kinds of reading, the most usual first, by name and as several. */
export const kinds: Record<Kind, { name: string; many: string }> = {
  text: { name: "Text", many: "text" },
  code: { name: "Code", many: "codes" },
  number: { name: "Number", many: "numbers" },
  date: { name: "Date", many: "dates" },
  "yes/no": { name: "Yes/no", many: "yes or no" },
  list: { name: "List", many: "lists" },
  "e-mail": { name: "E-mail", many: "e-mail addresses" },
  "web address": { name: "Web address", many: "web addresses" },
  telephone: { name: "Telephone", many: "telephone numbers" },
  coordinates: { name: "Coordinates", many: "coordinates" },
  IBAN: { name: "IBAN", many: "IBANs" },
  LEI: { name: "LEI", many: "LEIs" },
  ISNI: { name: "ISNI, ORCID", many: "ISNIs" },
  ISBN: { name: "ISBN", many: "ISBNs" },
  ISSN: { name: "ISSN", many: "ISSNs" },
  EAN: { name: "EAN", many: "EANs" },
  "Luhn number": { name: "Luhn number", many: "Luhn numbers" },
  "IMO number": { name: "IMO number", many: "IMO numbers" },
};

/** The usual reading of a kind. */
export const plain = (kind: Kind): Reading => (kind === "number" ? { kind, decimal: ".", group: "," } : { kind });

/** Readings that stand for the same have the same text. */
export const same = (a: Reading, b: Reading) => text(a) === text(b);

const text = (r: Reading) =>
  JSON.stringify(
    Object.entries(r)
      .filter(([, v]) => v !== "" && v !== false && v !== 0 && v !== undefined)
      .toSorted(([a], [b]) => (a < b ? -1 : 1)),
  );
