// What is fuzzed: each target takes bytes and gives a signature of what came of them. It throws only for what must not be.
import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { followFlags } from "iudex";
import { FlagSet, readDefinitions } from "iudex/core";
import { deskHandler } from "iudex/desk";
import { EditionFault, folderShelf, ShelfFault } from "iudex/fleet";
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
const flags = await followFlags(gated, { environment: "production", keysForPasses: { keys: [key] }, watch: false });

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

/** A desk over a repository, for one who may do everything there. */
const desked = join(folder, "repository");
mkdirSync(join(desked, "lists"), { recursive: true });
writeFileSync(join(desked, "a.yaml"), `${base}cohorts: { crew: { of: account.id, file: lists/crew.csv } }\n`);
writeFileSync(join(desked, "lists", "crew.csv"), "account.id\nA-1\n");
const git = (...words) =>
  execFileSync("git", ["-C", desked, "-c", "user.name=Crew", "-c", "user.email=crew@ternhaven.example", ...words]);
git("init", "-q");
git("add", ".");
git("commit", "-qm", "begin");
const failures = [];
const desk = deskHandler({
  folder: desked,
  drafts: join(folder, "drafts"),
  who: () => ({ name: "Ylva", may: ["look", "change"] }),
  hosts: ["desk.example"],
  failed: (error) => failures.push(error),
});
const session = await (await desk.fetch(new Request("http://desk.example/api/session"))).json();

/** What a desk answers: never that it failed. */
async function asked(path, body) {
  const headers = { "desk-token": session.token, "content-type": "application/json" };
  const request = body === undefined ? {} : { method: "POST", headers, body };
  const response = await desk.fetch(new Request(`http://desk.example/api/${path}`, request));
  const text = await response.text();
  if (response.status >= 500 || failures.length > 0) throw failures.pop() ?? new Error(text);
  const { title = "" } = response.status === 200 ? {} : JSON.parse(text);
  return `${response.status} ${title.replace(/“[^”]*”|\d+/g, "…")}`;
}

const routes = ["draft/add", "draft/drop", "draft/reach", "listed", "ids", "people", "census", "positions"];

/** What stands at the place of a list of a shelf. */
async function listed(name, bytes) {
  const directory = mkdtempSync(join(folder, "shelf-"));
  writeFileSync(join(directory, name), bytes);
  const shelf = folderShelf(directory);
  try {
    const found = await (name === "stops.json" ? shelf.stops() : shelf.newest());
    return found ? "taken" : "none";
  } catch (error) {
    if (!(error instanceof EditionFault || error instanceof ShelfFault)) throw error;
    return error.message.replace(/“[^”]*”|\d+/g, "…").slice(0, 100);
  } finally {
    rmSync(directory, { recursive: true });
  }
}

export const targets = {
  edition: (bytes) => listed("edition.json", bytes),
  stops: (bytes) => listed("stops.json", bytes),
  /** The first line says the route. */
  async desk(bytes) {
    const [first = "", ...rest] = bytes.toString("utf8").split("\n");
    const route = routes.includes(first) ? first : routes[first.length % routes.length];
    const answer = await asked(route, rest.join("\n"));
    await asked("draft/clear", "{}");
    return `${route} ${answer}`;
  },
  revision: (bytes) => asked(`set?by=${encodeURIComponent(`commit:${bytes.toString("utf8")}`)}`),
  paste: (bytes) => asked("ids", JSON.stringify({ by: "files", cohort: "crew", text: bytes.toString("utf8") })),
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
