import type { ComponentType } from "react";
import { MergeForm } from "../duplicates/MergeForm";
import { MarkForm, RenumberForm } from "../duplicates/RepeatForms";
import { CombineForm, FillForm, NumberForm } from "./FillForms";
import { FormulaForm } from "./FormulaForm";
import { AddForm, CheckForm, GatherForm, PutBackForm, ReviewForm, RowsForm } from "./RowForms";
import { ColumnsForm, SplitForm, type FormProps } from "./ShapeForms";
import { CellForm, DuplicatesForm, ReadForm, TidyForm, ValuesForm } from "./ValueForms";

/** The kinds of entry that have a form of their own, with what they are called. */
export const forms = {
  columns: { name: "Rename, order, drop", Form: ColumnsForm },
  split: { name: "Split", Form: SplitForm },
  combine: { name: "Combine", Form: CombineForm },
  fill: { name: "Fill blanks", Form: FillForm },
  number: { name: "Number rows", Form: NumberForm },
  formula: { name: "Formula", Form: FormulaForm },
  gather: { name: "Gather", Form: GatherForm },
  add: { name: "Add rows", Form: AddForm },
  review: { name: "Review list", Form: ReviewForm },
  check: { name: "Check", Form: CheckForm },
  mark: { name: "Mark repeats", Form: MarkForm },
  merge: { name: "Combine rows", Form: MergeForm },
  putback: { name: "Put rows back", Form: PutBackForm },
  renumber: { name: "New ids", Form: RenumberForm },
  tidy: { name: "Tidy values", Form: TidyForm },
  values: { name: "Change values", Form: ValuesForm },
  duplicates: { name: "Set repeats aside", Form: DuplicatesForm },
  rows: { name: "Set rows aside", Form: RowsForm },
  reading: { name: "Change a reading", Form: ReadForm },
  cell: { name: "Change a cell", Form: CellForm },
} satisfies Record<string, { name: string; Form: ComponentType<never> }>;

export type FormKind = keyof typeof forms;

export const hasForm = (kind: string): kind is FormKind => kind in forms;

/** The form of a kind of entry, empty or with the parameters of an entry that is changed. */
export function EntryForm({ kind, ...props }: FormProps & { kind: FormKind; revision?: number }) {
  const Form = forms[kind].Form as ComponentType<FormProps & { revision?: number }>;
  return <Form {...props} />;
}
