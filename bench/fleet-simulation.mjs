// A hundred thousand followers of a web shelf, on paper: what reaches the origin, with caches in front of it and without, what
// a day costs on the wire, and what comes when the origin is back after an outage that refuses or one that hangs.
// node bench/fleet-simulation.mjs [followers] [seconds between looks]
const followers = Number(process.argv[2] ?? 100_000);
const every = Number(process.argv[3] ?? 10);

/** A look asks for two lists. */
const lists = 2;

/**
 * Bytes of one request and its answer, TLS 1.3 included, counted between fetch and a server: one that finds nothing new on a
 * kept connection, what a new connection costs beside it (with one small certificate), the list of the demo, its largest file.
 */
const unchanged = 500;
const connection = 1_830;
const list = 1_700;
const file = 1_900;
const changesADay = 20;

/** An answer that does not come is given up after so many seconds. */
const lookTime = 10;

/** How long a follower waits, as `pace.ts` has it. */
function wait(asked, isSpread) {
  const usual = every * (0.9 + 0.1 * Math.random());
  return asked === undefined ? usual : Math.max(usual, asked * (isSpread ? 1 + 0.1 * Math.random() : 1));
}

/**
 * Looks of all followers, second by second.
 *
 * @param of.maxAge of the caches, in seconds; 0 for none
 * @param of.isSpread whether what a cache asks for is spread
 * @param of.away from when to when nobody answers, and whether connections hang or are refused
 */
function looks(seconds, { edges = 50, maxAge = 0, isSpread = true, away } = {}) {
  const atEdges = new Float64Array(seconds + 1);
  const atOrigin = new Float64Array(seconds + 1);
  const cachedAt = new Float64Array(edges).fill(Number.NEGATIVE_INFINITY);
  const due = Array.from({ length: seconds + 1 }, () => []);
  const put = (at, edge) => at <= seconds && due[Math.floor(at)].push({ at, edge });
  for (let i = 0; i < followers; i++) put(Math.random() * every, i % edges);
  for (let second = 0; second <= seconds; second++) {
    // Nobody looks twice within a second.
    for (const { at, edge } of due[second].sort((a, b) => a.at - b.at)) {
      atEdges[second]++;
      const isAway = away && at >= away.from && at < away.to;
      const age = at - cachedAt[edge];
      if (maxAge > 0 && age < maxAge) {
        put(at + wait(maxAge - Math.floor(age), isSpread), edge);
        continue;
      }
      atOrigin[second]++;
      if (isAway) {
        put(at + (away.hangs ? lookTime : 0) + wait(undefined, isSpread), edge);
        continue;
      }
      if (maxAge > 0) cachedAt[edge] = at;
      put(at + wait(maxAge > 0 ? maxAge : undefined, isSpread), edge);
    }
  }
  return { atEdges, atOrigin };
}

const shown = (n, digits = 0) => n.toLocaleString("en", { maximumFractionDigits: digits });
const mean = (numbers) => numbers.reduce((a, b) => a + b, 0) / numbers.length;
const worst = (numbers) => numbers.reduce((a, b) => Math.max(a, b), 0);

const steady = looks(300).atOrigin.slice(30, 300);
const perSecond = mean(steady);
console.log(`${shown(followers)} followers, a look at both lists every ${every} s`);
console.log(
  `at the origin, no cache: ${shown(perSecond * lists)} requests a second, ${shown(worst(steady) * lists)} in the worst second`,
);

const day = 86_400;
const changes = followers * changesADay * (list + file);
for (const [called, more] of [
  ["kept connections (the server says Keep-Alive: timeout=75)", 0],
  ["a new connection for each request (it says nothing: fetch keeps one for 4 s)", connection],
]) {
  const bytes = perSecond * day * lists * (unchanged + more);
  console.log(
    `bytes a day, ${called}: ${(bytes / 1e12).toFixed(2)} TB for looks, ${(changes / 1e9).toFixed(1)} GB for ${changesADay} changes`,
  );
}

for (const maxAge of [1, 5, 30]) {
  for (const isSpread of maxAge > every ? [false, true] : [true]) {
    const { atEdges, atOrigin } = looks(300, { maxAge, isSpread });
    const [edges, origin] = [atEdges.slice(60, 300), atOrigin.slice(60, 300)];
    console.log(
      `50 caches with max-age=${maxAge}${isSpread ? "" : ", looks not spread behind Age"}: ${shown(mean(origin) * lists, 1)} requests a second at the origin; ` +
        `at the caches ${shown(mean(edges) * lists)}, ${shown(worst(edges) * lists)} in the worst second`,
    );
  }
}

for (const hangs of [false, true]) {
  const away = { from: 60, to: 660, hangs };
  const { atOrigin } = looks(760, { away });
  const back = atOrigin.slice(660, 720);
  const open = hangs
    ? ` ${shown(followers * lists * (lookTime / (lookTime + every * 0.95)))} connections hang at a time;`
    : "";
  console.log(
    `after ten minutes in which it ${hangs ? "hangs" : "refuses"}:${open} ${shown(worst(back) * lists)} requests in the worst second of the first minute, ` +
      `all of them back within ${every + (hangs ? lookTime : 0)} s`,
  );
}
