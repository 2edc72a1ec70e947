// The bucket hash against a bare loop over the characters of the id.

import { repeat } from "./decision.mjs";
import { inside } from "./insides.mjs";
import { compare } from "./measure.mjs";

const { Bucket } = await inside("buckets");

function bareLoop(id) {
  let sum = 0;
  for (let i = 0; i < id.length; i++) sum = (sum + id.charCodeAt(i)) | 0;
  return sum;
}

export async function run() {
  const bucket = new Bucket("zone-fares");
  const results = [];
  for (const [length, atMost] of [
    [8, 2.2],
    [36, 1.2],
  ]) {
    const ids = Array.from({ length: 1_000 }, (_, i) => String(i * 7919).padStart(length, "0123456789abcdef-"));
    const loop = (f) => () => {
      let sum = 0;
      for (let i = 0; i < ids.length; i++) sum += f(ids[i]);
      return sum;
    };
    const times = compare(
      {
        bare: repeat(100, loop(bareLoop)),
        hash: repeat(
          100,
          loop((id) => bucket.position(id)),
        ),
      },
      { baseline: "bare", operations: 100_000 },
    );
    results.push({
      name: `the bucket hash of ${length} characters against a bare loop over them`,
      ratio: times.hash.ratio,
      atMost,
    });
  }
  return results;
}
