// How long a browser takes to show a change that is in force. Left out where there is no Chromium.
import { createReadStream } from "node:fs";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { followFlags } from "iudex";
import { nodeGate } from "iudex/http";
import { chromium } from "playwright-core";
import { findChromium } from "../scripts/chromium.mjs";
import { middle, sized } from "./measure.mjs";

const rounds = sized(15);
const dist = join(import.meta.dirname, "../dist");
const page = `<!doctype html><title>Ternhaven Ferries</title><p id="minutes"></p><script type="module">
import { followPage } from "/page.js";
const flags = followPage({ changes: "/changes" });
flags.subscribe(() => {
  document.querySelector("#minutes").textContent = flags.value("hold-minutes");
  requestAnimationFrame(() => requestAnimationFrame(() => shown(Number(flags.value("hold-minutes")))));
});
</script>`;

export async function run() {
  const executablePath = findChromium();
  if (!executablePath) return [];
  const folder = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  const save = (minutes) =>
    writeFile(join(folder, "a.yaml"), `iudex: 1\nflags:\n  hold-minutes: { safe: ${minutes} }\n`);
  await save(0);
  const flags = await followFlags(folder, { watch: { quiet: 20 } });
  const changes = nodeGate(flags, { context: () => ({}) }).changes({ only: ["hold-minutes"] });
  const server = createServer((request, response) => {
    if (request.url === "/changes") return changes(request, response);
    response.setHeader("content-type", request.url.endsWith(".js") ? "text/javascript" : "text/html");
    if (request.url.endsWith(".js")) createReadStream(join(dist, request.url)).pipe(response);
    else response.end(page);
  });
  await new Promise((resolve) => server.listen(0, "127.0.0.1", resolve));

  const browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
  const tab = await browser.newPage();
  let seen = () => {};
  await tab.exposeFunction("shown", (minutes) => seen(minutes));
  const shows = (wanted) =>
    new Promise((resolve) => {
      seen = (minutes) => minutes === wanted && resolve(performance.now());
    });
  const first = shows(0);
  await tab.goto(`http://127.0.0.1:${server.address().port}/`);
  await first;
  const times = [];
  for (let round = 1; round <= rounds; round++) {
    const inForce = new Promise((resolve) => {
      const off = flags.on("change", () => resolve(off() ?? performance.now()));
    });
    const shown = shows(round);
    await save(round);
    times.push((await shown) - (await inForce));
  }
  await browser.close();
  server.close();
  await flags.close();
  await rm(folder, { recursive: true });
  return [
    {
      name: "milliseconds until Chromium shows a change that is in force, two frames included",
      ratio: middle(times),
      atMost: 300,
    },
  ];
}
