// The engine's side of the linkage bench: pairs of three blocking rules and a weighted sum with Jaro-Winkler in SQL, written out above a
// cut. Usage: node people.mjs FILE OUT THREADS
import { DuckDBInstance } from "@duckdb/node-api";
import { readFileSync } from "node:fs";

const [file, out, threads] = process.argv.slice(2);
const instance = await DuckDBInstance.create(":memory:", { threads });
const engine = await instance.connect();
const begun = process.hrtime.bigint();
await engine.run(`create table l as select id::integer id, given_name g, surname s, dob d, street st, suburb su, postcode pc, phone ph
  from read_csv('${file}', header = true, all_varchar = true)`);
const blocks = ["a.s = b.s and left(a.g, 1) = left(b.g, 1)", "a.d = b.d and left(a.s, 3) = left(b.s, 3)", "a.pc = b.pc and left(a.g, 1) = left(b.g, 1)"];
await engine.run(`create table pr as select distinct x, y from (${blocks.map((b) => `select a.id x, b.id y from l a join l b on ${b} and a.id < b.id`).join(" union all ")})`);
const blank = (f) => `a.${f} is null or b.${f} is null or a.${f} = '' or b.${f} = ''`;
const alike = (f, same, much, some, none) =>
  `case when ${blank(f)} then 0 when a.${f} = b.${f} then ${same} when jaro_winkler_similarity(a.${f}, b.${f}) >= 0.92 then ${much} when jaro_winkler_similarity(a.${f}, b.${f}) >= 0.8 then ${some} else ${none} end`;
const equal = (f, same, none) => `case when ${blank(f)} then 0 when a.${f} = b.${f} then ${same} else ${none} end`;
const weight = [alike("g", 7, 5, 2, -4), alike("s", 9, 6, 2, -5), alike("st", 9, 7, 1, -3), alike("su", 7, 5, 1, -2), equal("d", 10, -2), equal("pc", 7, -2), equal("ph", 12, -2)].join(" + ");
await engine.run(`copy (select x, y from (select x, y, ${weight} w from pr join l a on a.id = pr.x join l b on b.id = pr.y) where w > 12) to '${out}' (header)`);
const result = { seconds: { link: Number(process.hrtime.bigint() - begun) / 1e9 }, answers: {} };
result.answers.kept = Number((await engine.runAndReadAll("select count(*) from pr")).getRows()[0][0]);
result.peak = Math.round(Number(/VmHWM:\s+(\d+)/.exec(readFileSync("/proc/self/status", "utf8"))[1]) / 1024);
console.log(JSON.stringify(result));
