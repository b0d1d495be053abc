import { useParams } from "react-router";

/** The numbers in the address. */
export function useBook() {
  const { book, table } = useParams();
  return { book: Number(book), table: Number(table) };
}

export const tablePath = (book: number, table: number, rest = "") => `/books/${book}/tables/${table}${rest}`;

/** The address of a view of one column. */
export const columnPath = (book: number, table: number, view: string, column: string) =>
  tablePath(book, table, `/${view}?column=${encodeURIComponent(column)}`);
