// What is fuzzed: each target takes bytes and gives a signature of what came of them. It throws only for what must not be.
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { followFlags } from "iudex";
import { FlagSet, readDefinitions } from "iudex/core";
import { fetchGate } from "iudex/http";
import { loadFolder } from "iudex/tools";

const folder = mkdtempSync(join(tmpdir(), "iudex-fuzz-"));
process.on("exit", () => rmSync(folder, { recursive: true, force: true }));

const key = { kty: "oct", kid: "k", alg: "HS256", k: Buffer.alloc(32, 1).toString("base64url") };
const base = `iudex: 1
environments: { production: {} }
attributes: { account.id: text, email: text, trips: number, tags: list, since: time, version: version }
flags:
  on: { safe: true }
  seats: { variants: { a: 1, b: 2 }, safe: a, rules: [{ when: "trips > 3", split: [1 a, 1 b], by: account.id }] }
`;
const gated = mkdtempSync(join(folder, "gated-"));
writeFileSync(join(gated, "a.yaml"), base);
const flags = await followFlags(gated, { environment: "production", keysForPasses: [key], watch: false });

async function loadedWith(name, bytes, more = {}) {
  const own = mkdtempSync(join(folder, "set-"));
  for (const [file, text] of Object.entries(more)) writeFileSync(join(own, file), text);
  writeFileSync(join(own, name), bytes);
  const { definitions, problems } = await loadFolder(own);
  rmSync(own, { recursive: true });
  if (!definitions && problems.length === 0) throw new Error("refused without a word");
  for (const { line, column, message } of problems)
    if (!(line >= 1 && column >= 1) || message === "")
      throw new Error(`a problem without a place or a word: ${message}`);
  if (definitions) judgeAll(definitions);
  return [...new Set(problems.map(({ code }) => code))].sort().join(" ") || "good";
}

const contexts = [
  {},
  null,
  { account: { id: "A-1" }, email: "oda@post.example", trips: 4, tags: ["a"], since: new Date(0) },
];

function judgeAll(definitions) {
  const environments = [undefined, ...definitions.environments.keys()];
  for (const environment of environments.slice(0, 3)) {
    const set = new FlagSet(definitions, environment);
    for (const name of [...definitions.flags.keys()].slice(0, 20))
      for (const context of contexts) set.verdict(name, context, { at: 1.8e12 });
  }
}

const handlers = [
  fetchGate(flags, { context }).values({ only: ["on", "seats"] }),
  fetchGate(flags, { context }).closedUnless("on", () => new Response("open")),
  fetchGate(flags, { context }).changes({ only: ["seats"] }),
];

function context(request) {
  return { account: { id: request.headers.get("person") }, trips: Number(request.headers.get("trips")) };
}

/** Lines of a request's head as far as anything can be made of them: what a server's parser would let through. */
function requestOf(text) {
  const headers = new Headers();
  for (const line of text.split("\n").slice(0, 50)) {
    const [name, ...rest] = line.split(":");
    try {
      headers.append(name.trim(), rest.join(":").trim());
    } catch {
      // No header: no server hands that on.
    }
  }
  return new Request("http://ferry.example/", { headers, signal: AbortSignal.timeout(50) });
}

export const targets = {
  yaml: (bytes) => loadedWith("a.yaml", bytes),
  json: (bytes) => loadedWith("a.json", bytes),
  suspended: (bytes) => loadedWith("suspended.yaml", bytes, { "a.yaml": base }),
  csv: (bytes) => loadedWith("ids.csv", bytes, { "a.yaml": "iudex: 1\ncohorts: { c: { of: id, file: ids.csv } }\n" }),
  txt: (bytes) => loadedWith("ids.txt", bytes, { "a.yaml": "iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\n" }),
  condition(bytes) {
    const data = { iudex: 1, flags: { a: { safe: false, rules: [{ when: bytes.toString("utf8"), give: true }] } } };
    const { definitions, problems } = readDefinitions([{ file: "a.json", data }]);
    if (definitions) judgeAll(definitions);
    return problems.map(({ code, message }) => `${code} ${message.replace(/“[^”]*”|\d+/g, "…")}`).join(" ") || "good";
  },
  async pass(bytes) {
    const pass = await flags.verifyPass(bytes.toString("latin1"));
    return pass ? `taken ${Object.keys(pass.flags).length}` : "refused";
  },
  async request(bytes) {
    const statuses = [];
    for (const handler of handlers) {
      const response = await handler(requestOf(bytes.toString("latin1")));
      statuses.push(`${response.status} ${response.headers.get("cache-control")}`);
      await response.body?.cancel();
    }
    return statuses.join(", ");
  },
};
