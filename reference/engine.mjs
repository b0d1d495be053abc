// The engine's side of the bench: the same jobs on the same file, one JSON line of
// seconds, answers and the peak of memory in MiB. Usage: node engine.mjs FILE OUT THREADS
import { DuckDBInstance } from "@duckdb/node-api";
import { readFileSync } from "node:fs";

const [file, out, threads] = process.argv.slice(2);
const instance = await DuckDBInstance.create(":memory:", { threads });
const engine = await instance.connect();
const result = { seconds: {}, answers: {} };

async function time(name, sql) {
  const begun = process.hrtime.bigint();
  const reader = await engine.runAndReadAll(sql);
  result.seconds[name] = Number(process.hrtime.bigint() - begun) / 1e9;
  return reader.getRows();
}

await time("read", `create table t as select * from read_csv('${file}', header = true, all_varchar = true)`);
const columns = (await engine.runAndReadAll(`select column_name from information_schema.columns where table_name = 't' order by ordinal_position`))
  .getRows()
  .map((r) => r[0]);
const begun = process.hrtime.bigint();
const distinct = [];
for (const c of columns) {
  await engine.run(`create or replace table tally as select "${c}" as value, count(*) as rows from t group by all order by rows desc, value`);
  distinct.push(Number((await engine.runAndReadAll("select count(*) from tally")).getRows()[0][0]));
}
result.seconds.tally = Number(process.hrtime.bigint() - begun) / 1e9;
result.answers.distinct = distinct;
await time("repeats", `create table kept as select * from t where rowid in (select min(rowid) from t group by skipper, vessel)`);
result.answers.kept = Number((await engine.runAndReadAll("select count(*) from kept")).getRows()[0][0]);
await time("write", `copy (select * from kept order by rowid) to '${out}' (header)`);
result.peak = Math.round(Number(/VmHWM:\s+(\d+)/.exec(readFileSync("/proc/self/status", "utf8"))[1]) / 1024);
console.log(JSON.stringify(result));
