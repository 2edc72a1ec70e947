// What reading costs by itself: every row parsed, and nothing done with it.
import { createReadStream } from "node:fs";
import { finished } from "node:stream/promises";
import { parse } from "csv-parse";

/** `JSON.parse` of each line. @returns how many there are */
export async function parsedOnly(path) {
  let carry = "";
  let count = 0;
  for await (const chunk of createReadStream(path, { encoding: "utf8", highWaterMark: 1 << 18 })) {
    const text = carry + chunk;
    let start = 0;
    for (let end = text.indexOf("\n"); end >= 0; end = text.indexOf("\n", start)) {
      if (JSON.parse(text.slice(start, end)) !== null) count++;
      start = end + 1;
    }
    carry = text.slice(start);
  }
  return count;
}

/** The package that reads CSV, with every record taken and nothing done with it. */
export async function csvOnly(path) {
  const records = createReadStream(path, { highWaterMark: 1 << 18 }).pipe(parse({ relax_column_count: true }));
  let count = -1;
  records.on("data", () => count++);
  await finished(records);
  return count;
}
