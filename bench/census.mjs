// The whole census of the demo's largest flag over a file of a million contexts, reading included, against reading the
// same file and calling JSON.parse on each line.
import { createWriteStream } from "node:fs";
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pipeline } from "node:stream/promises";
import { loadFolder, takeCensus } from "iudex/tools";
import { middle, sized } from "./measure.mjs";
import { csvOnly, parsedOnly } from "./parsed-only.mjs";

const lines = sized(1_000_000, 5_000);
const rowCount = sized(200_000, 2_000);

function* contexts() {
  const plans = ["foot", "vehicle", "freight"];
  let text = "";
  for (let i = 0; i < lines; i++) {
    text += `${JSON.stringify({
      account: { id: `A-${i}`, plan: plans[i % 3] },
      email: i % 50 === 0 ? `c${i}@ternhaven.example` : `p${i}@post.example`,
      trips: (i * 7) % 180,
      app: { version: `4.${i % 4}.${i % 9}` },
    })}\n`;
    if (text.length > 1 << 16) {
      yield text;
      text = "";
    }
  }
  yield text;
}

function* rows() {
  const plans = ["foot", "vehicle", "freight"];
  let text = "account.id,account.plan,email,trips,app.version\n";
  for (let i = 0; i < rowCount; i++) {
    const email = i % 50 === 0 ? `c${i}@ternhaven.example` : `p${i}@post.example`;
    text += `A-${i},${plans[i % 3]},${email},${(i * 7) % 180},4.${i % 4}.${i % 9}\n`;
    if (text.length > 1 << 16) {
      yield text;
      text = "";
    }
  }
  yield text;
}

async function censusOfCsv(home, definitions, asked) {
  const people = join(home, "people.csv");
  await pipeline(rows, createWriteStream(people));
  const ratios = [];
  for (let round = 0; round < sized(5); round++) {
    const start = performance.now();
    const parsed = await csvOnly(people);
    const between = performance.now();
    const { contexts: counted } = await takeCensus(definitions, { ...asked, people });
    const end = performance.now();
    if (parsed !== rowCount || counted !== rowCount) throw new Error("rows were lost");
    ratios.push((end - between) / (between - start));
  }
  return { name: `the census of ${rowCount} rows of CSV against reading them`, ratio: middle(ratios), atMost: 1.6 };
}

export async function run() {
  const home = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  const people = join(home, "people.ndjson");
  try {
    await pipeline(contexts, createWriteStream(people));
    const { definitions } = await loadFolder("examples/ternhaven/flags");
    const request = { flag: "zone-fares", people, environment: "production", at: Date.parse("2026-12-05T12:00Z") };
    const ratios = [];
    let rate = 0;
    for (let round = 0; round < sized(5); round++) {
      const start = performance.now();
      const parsed = await parsedOnly(people);
      const between = performance.now();
      const { contexts: counted } = await takeCensus(definitions, request);
      const end = performance.now();
      if (parsed !== lines || counted !== lines) throw new Error("lines were lost");
      ratios.push((end - between) / (between - start));
      rate = lines / ((end - between) / 1_000);
    }
    return [
      { name: "the census of a million NDJSON lines against JSON.parse of each", ratio: middle(ratios), atMost: 2.5 },
      await censusOfCsv(home, definitions, request),
      { name: "contexts a second, in thousands (this machine)", ratio: rate / 1_000 },
    ];
  } finally {
    await rm(home, { recursive: true });
  }
}
