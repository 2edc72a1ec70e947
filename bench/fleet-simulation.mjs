// A hundred thousand followers of a web shelf, on paper: what reaches the origin, with a cache in front of it and
// without, what a day costs, and what comes at once when the origin is back after an outage.
// node bench/fleet-simulation.mjs [followers] [seconds between looks]
const followers = Number(process.argv[2] ?? 100_000);
const every = Number(process.argv[3] ?? 10);

/** Bytes, with headers, as measured on nginx: a look that finds nothing new, the list of the demo, its largest file. */
const unchanged = 180;
const list = 1_700;
const file = 1_900;
const changesADay = 20;

/** As followers wait, whether the origin answered or not: a random part of up to a tenth is taken off. */
const wait = () => every * (0.9 + 0.1 * Math.random());

/** @returns requests in each second, answered or not */
function looks(seconds) {
  const counts = new Float64Array(seconds);
  for (let i = 0; i < followers; i++) {
    for (let at = Math.random() * every; at < seconds; ) {
      counts[Math.floor(at)]++;
      at += wait();
    }
  }
  return counts;
}

const quantile = (numbers, part) => [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length * part)];
const shown = (n) => Math.round(n).toLocaleString("en");

const steady = looks(300).slice(30);
const mean = steady.reduce((a, b) => a + b, 0) / steady.length;
console.log(`${shown(followers)} followers, a look every ${every} s`);
console.log(
  `at the origin, no cache: ${shown(mean)} requests a second, ${shown(quantile(steady, 0.99))} in the busiest second of a hundred`,
);
const day = 86_400;
const quiet = mean * day * unchanged;
const changes = followers * changesADay * (list + file);
console.log(
  `bytes a day: ${(quiet / 1e12).toFixed(2)} TB for looks, ${(changes / 1e9).toFixed(1)} GB for ${changesADay} changes`,
);
for (const age of [1, 5, 30])
  console.log(
    `behind a cache with max-age=${age}: ${(1 / age).toFixed(2)} looks a second at the origin for each edge; a change arrives up to ${age + every + 1} s later`,
  );
// Looks go on at the same pace while the origin is away, so that they are spread when it is back: none is saved up.
const back = looks(660).slice(600);
console.log(
  `after an outage of ten minutes: ${shown(Math.max(...back))} requests in the worst second of the first minute, all of them back within ${every} s`,
);
