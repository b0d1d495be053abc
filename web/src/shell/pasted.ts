/** What the clipboard brings, as files: files themselves, the table of a web page, or lines of text in columns. */
export function pasted(from: DataTransfer | null): File[] {
  if (!from) return [];
  if (from.files.length > 0) return [...from.files];
  const html = from.getData("text/html");
  if (/<table/i.test(html)) return [new File([html], "Pasted table.html", { type: "text/html" })];
  const text = from.getData("text/plain");
  if (text.trim() === "") return [];
  return [new File([text], text.includes("\t") ? "Pasted table.tsv" : "Pasted table.txt", { type: "text/plain" })];
}
