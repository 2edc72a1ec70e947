import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { loadFolder, type SqlDialect, sumsQuery, type Weighing, type WeighRequest } from "iudex/tools";
import pg from "pg";
import { describe, expect, onTestFinished, test } from "vitest";
import { has, startPostgres } from "../support/engines.ts";
import { scratch } from "../support/scratch.ts";
import { sleep } from "../support/waiting.ts";
import { season, seasonFlags, weighSeason } from "../support/weighing.ts";

const columns = {
  postgres: `subject text, at timestamptz, flag text, environment text, asked text, cause text, variant text, value jsonb,
    rule int, "ruleName" text, drawn jsonb, outside jsonb, revision text`,
  ansi: `subject text, at timestamptz, flag text, environment text, cause text, variant text, rule int, rule_name text, outside text`,
};

async function lines(file: string): Promise<Record<string, unknown>[]> {
  const text = await readFile(join(await season(), file), "utf8");
  return text
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line));
}

async function warehouse(dialect: SqlDialect): Promise<pg.Pool> {
  const engine = await startPostgres();
  const pool = new pg.Pool({ connectionString: engine.url });
  onTestFinished(() => Promise.race([pool.end(), sleep(1_000)]).then(() => undefined));
  await pool.query(`create table verdicts (${columns[dialect]})`);
  await pool.query("create table outcomes (subject text, at timestamptz, measure text, value double precision)");
  const fill = async (table: string, rows: readonly object[]) => {
    for (let i = 0; i < rows.length; i += 20_000)
      await pool.query(`insert into ${table} select * from jsonb_populate_recordset(null::${table}, $1)`, [
        JSON.stringify(rows.slice(i, i + 20_000)),
      ]);
  };
  const verdicts = await lines("verdicts.ndjson");
  await fill(
    "verdicts",
    dialect === "ansi" ? verdicts.map((row) => ({ ...row, rule_name: row["ruleName"] })) : verdicts,
  );
  const outcomes = await lines("outcomes.ndjson");
  // A table into which a batch was loaded twice.
  await fill("outcomes", [...outcomes, ...outcomes.slice(0, 500)]);
  // A planner that knows nothing of its tables guesses that there is one row.
  await pool.query("analyze");
  return pool;
}

/** Without what only files know. */
function figures({ leftOut: _, diluted: __, ...rest }: Weighing): unknown {
  return JSON.parse(JSON.stringify(rest), (key, value) => (key === "saying" ? undefined : value));
}

function expectClose(found: unknown, wanted: unknown, path = ""): void {
  if (typeof wanted === "number" && typeof found === "number") {
    expect(Math.abs(found - wanted), path).toBeLessThanOrEqual(1e-9 * Math.max(1e-3, Math.abs(wanted)));
  } else if (typeof wanted === "object" && wanted !== null) {
    expect(Object.keys(found as object), path).toEqual(Object.keys(wanted));
    for (const [key, value] of Object.entries(wanted)) expectClose((found as never)[key], value, `${path}.${key}`);
  } else expect(found, path).toEqual(wanted);
}

const cases: readonly (readonly [string, SqlDialect, Omit<WeighRequest, "flag">])[] = [
  ["early-boarding", "postgres", { measures: ["booked", "minutes", "crowns/booked"], within: 2 * 86_400_000 }],
  ["weekend-fares", "postgres", { measures: ["booked"], until: Date.parse("2026-10-10T00:00:00Z") }],
  ["freight-quotes", "postgres", { caps: { crowns: 5000 } }],
  [
    "short-form",
    "ansi",
    { measures: ["booked", "crowns"], within: 36 * 3_600_000, until: Date.parse("2026-10-11T09:00:00Z") },
  ],
];

describe.skipIf(!has("postgres"))("the query for a warehouse", () => {
  test("gives the sums that are counted from the files", async () => {
    const { definitions } = await loadFolder(seasonFlags);
    const folder = await scratch();
    const pools = { postgres: await warehouse("postgres"), ansi: await warehouse("ansi") };
    for (const [flag, dialect, request] of cases) {
      const query = sumsQuery(definitions!, { flag, environment: "production", ...request }, dialect);
      const { rows } = await pools[dialect].query(query);
      const sums = join(folder, `${flag}.ndjson`);
      await writeFile(
        sums,
        rows.map((row) => JSON.stringify({ ...row, day: row.day.toLocaleDateString("sv-SE") })).join("\n"),
      );
      expectClose(
        figures(await weighSeason(flag, { ...request, sums })),
        figures(await weighSeason(flag, request)),
        flag,
      );
    }
  });
});
