// Reads a Parquet or an Arrow file with an independent engine and prints its columns with
// their types and its rows as JSON. Usage: node rows.mjs FILE
// With a second argument, an SQL query, the engine writes its result to FILE instead.
import { readFileSync } from "node:fs";

const [file, query] = process.argv.slice(2);
const quoted = `'${file.replaceAll("'", "''")}'`;

async function engine() {
  const { DuckDBInstance } = await import("@duckdb/node-api");
  return (await DuckDBInstance.create(":memory:")).connect();
}

if (query) {
  await (await engine()).run(`copy (${query}) to ${quoted} (format parquet)`);
} else if (file.endsWith(".parquet")) {
  const reader = await (await engine()).runAndReadAll(`select * from ${quoted}`);
  const types = reader.columnTypes().map(String);
  console.log(JSON.stringify({ names: reader.columnNames(), types, rows: reader.getRowsJson() }));
} else {
  const { tableFromIPC } = await import("apache-arrow");
  const table = tableFromIPC(readFileSync(file));
  const names = table.schema.fields.map((f) => f.name);
  const types = table.schema.fields.map((f) => String(f.type));
  const text = (v) => (v === null ? null : v instanceof Date ? v.toISOString() : String(v));
  const rows = [...table].map((row) => names.map((n) => text(row[n])));
  console.log(JSON.stringify({ names, types, rows }));
}
