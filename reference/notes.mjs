// The engine's side of the landing notes: the same work on the same file, one JSON line of
// seconds, answers and the peak of memory in MiB. The rows of the first of each key are
// taken by their smallest row id after loading: a filter over DISTINCT ON would be moved
// below it and answer another question.
// Usage: node notes.mjs json|csv FILE OUT THREADS HARBOUR WORD
import { DuckDBInstance } from "@duckdb/node-api";
import { readFileSync } from "node:fs";

const [part, file, out, threads, harbour, word] = process.argv.slice(2);
const instance = await DuckDBInstance.create(":memory:", { threads });
const engine = await instance.connect();
const result = { seconds: {}, answers: {} };

async function time(name, ...queries) {
  const begun = process.hrtime.bigint();
  let rows;
  for (const sql of queries) rows = (await engine.runAndReadAll(sql)).getRows();
  result.seconds[name] = Number(process.hrtime.bigint() - begun) / 1e9;
  return rows;
}

const text = ["note_no", "skipper", "vessel", "buyer", "ground", "harbour", "landed_on", "lot"];
const lists = ["gears", "species"];
if (part === "json") {
  const columns = [...text.map((c) => `${c}: 'VARCHAR'`), "season: 'INTEGER'", ...lists.map((c) => `${c}: 'VARCHAR[]'`)].join(", ");
  await time("json read", `create table t as select * from read_json('${file}', format = 'newline_delimited', columns = {${columns}})`);
  const any = [...text.map((c) => `contains(${c}, '${word}')`), `contains(season::varchar, '${word}')`, ...lists.map((c) => `contains(array_to_string(${c}, ' '), '${word}')`)];
  await time(
    "json filter",
    `copy (select skipper, vessel, note_no, harbour, lot from t where rowid in (select min(rowid) from t group by skipper, vessel)
      and (harbour = '${harbour}' or ${any.join(" or ")})) to '${out}' (header)`,
  );
  result.answers.kept = readFileSync(out, "utf8").split("\n").length - 2;
} else {
  await time("csv read", `create table t as select * from read_csv('${file}', header = true, all_varchar = true)`);
  const columns = (await engine.runAndReadAll(`select column_name from information_schema.columns where table_name = 't' order by ordinal_position`)).getRows();
  const counts = columns.map(([c]) => `create table "c_${c}" as select "${c}", count(*) n from t group by all order by n desc`);
  await time("csv counts", ...counts);
  await time("csv tidy", `create table tidied as select lower(trim(note_no)) note_no from t`);
  await time("csv repeats", `create table kept as select t.* from t join (select min(rowid) r from t group by skipper, vessel) k on t.rowid = k.r`);
  await time("csv combine", `create table combined as select buyer, string_agg(distinct ground, '; ') ground from t group by buyer`);
  await time("csv sort", `create table sorted as select rowid r from t order by buyer, landed_on`);
  result.answers.kept = Number((await engine.runAndReadAll(`select count(*) from kept`)).getRows()[0][0]);
  result.answers.joined = Number((await engine.runAndReadAll(`select sum(strlen(ground)) from combined`)).getRows()[0][0]);
  await engine.run(`copy (select buyer, string_agg(distinct ground, '; ' order by ground) ground from t group by buyer) to '${out}' (header)`);
  result.answers.distinct = [];
  for (const [c] of columns) result.answers.distinct.push(Number((await engine.runAndReadAll(`select count(*) from "c_${c}"`)).getRows()[0][0]));
}
result.peak = Math.round(process.resourceUsage().maxRSS / 1024);
console.log(JSON.stringify(result));
process.exit(0);
