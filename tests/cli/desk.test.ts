import { spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync } from "node:fs";
import { readFile, stat, writeFile } from "node:fs/promises";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import { expect, it, onTestFinished } from "vitest";
import { binary, iudex } from "../support/command.ts";
import { send } from "../support/desk.ts";
import { demoFolder, demoPeople, folderWith } from "../support/folders.ts";

/** The command, running; its address as it prints it. */
async function deskCommand(...words: string[]) {
  const state = await folderWith({});
  const env = { ...process.env, NO_COLOR: "1", XDG_STATE_HOME: state };
  const child = spawn(process.execPath, [binary, "desk", "--no-open", ...words], { env });
  onTestFinished(() => void child.kill("SIGKILL"));
  let out = "";
  child.stdout.on("data", (chunk: Buffer) => {
    out += chunk;
  });
  await expect.poll(() => out).toMatch(/http:\/\/127\.0\.0\.1:\d+\/\S+\//);
  return { child, address: /http:\S+/.exec(out)![0].replace(/".*$/, ""), said: () => out };
}

it("serves a folder on this machine under a secret address, and ends with an interrupt", async () => {
  const { child, address, said } = await deskCommand(
    "--flags",
    demoFolder,
    "--env",
    "staging",
    "--people",
    join(demoPeople, "passengers.csv"),
  );
  expect(said()).toMatch(/^The desk is open at http:\S+\/\nThe address is for you alone. Ctrl-C closes the desk.\n$/);
  expect((await send("GET", `${address}api/session`, {})).body).toMatchObject({
    may: ["look", "suspend", "change"],
    environment: "staging",
    people: ["passengers.csv"],
    folder: "flags",
  });
  const { origin, pathname } = new URL(address);
  expect(pathname.length).toBeGreaterThan(20);
  for (const path of ["/", "/api/session", "/AAAAAAAAAAAAAAAAAAAAAAAA/", "/AAAAAAAAAAAAAAAAAAAAAAAA/api/set"])
    expect([path, (await send("GET", `${origin}${path}`, {})).status]).toEqual([path, 404]);
  // A page that stays open must not keep it from ending.
  const stream = await fetch(`${address}api/events`);
  const ended = once(child, "close");
  child.kill("SIGINT");
  expect(await ended).toEqual([0, null]);
  await stream.body?.cancel().catch(() => {});
});

it.skipIf(process.platform !== "linux")(
  "hands the secret to the browser by a file of its owner, and by no argument",
  async () => {
    const programs = await folderWith({});
    const seen = join(programs, "seen");
    await writeFile(
      join(programs, "xdg-open"),
      `#!/bin/sh\necho "$@" > "${seen}.tmp" && mv "${seen}.tmp" "${seen}"\n`,
      { mode: 0o755 },
    );
    const env = { ...process.env, NO_COLOR: "1", PATH: `${programs}:${process.env["PATH"]}`, XDG_STATE_HOME: programs };
    const child = spawn(process.execPath, [binary, "desk", "--flags", demoFolder], { env });
    onTestFinished(() => void child.kill("SIGKILL"));
    let out = "";
    child.stdout.on("data", (chunk: Buffer) => {
      out += chunk;
    });
    await expect.poll(() => existsSync(seen)).toBe(true);
    const file = (await readFile(seen, "utf8")).trim();
    const address = /http:\S+/.exec(out)![0];
    const secret = new URL(address).pathname;
    expect(file).not.toContain(secret.replaceAll("/", ""));
    expect((await stat(file)).mode & 0o077).toBe(0);
    expect((await stat(join(file, ".."))).mode & 0o077).toBe(0);
    expect(await readFile(file, "utf8")).toContain(`content="0; url=${address}"`);
    // Somebody else's request takes it away from nobody; the owner's does.
    await fetch(new URL("/", address));
    expect(existsSync(file)).toBe(true);
    await fetch(address);
    await expect.poll(() => existsSync(file)).toBe(false);
  },
);

it("draws another secret at every start", async () => {
  const one = await deskCommand("--flags", demoFolder);
  const other = await deskCommand("--flags", demoFolder, "--json");
  const secret = new URL(one.address).pathname;
  expect((await send("GET", `${new URL(other.address).origin}${secret}`, {})).status).toBe(404);
  expect(JSON.parse(other.said())).toEqual({ address: other.address });
});

it("writes in the name of whoever runs it, and not at all with --read-only", async () => {
  const folder = await folderWith({ "flags.yaml": "iudex: 1\nflags:\n  f: { safe: false }\n" });
  const post = async (address: string) => {
    const { token } = (await send("GET", `${address}api/session`, {})).body;
    const headers = { "desk-token": token, origin: new URL(address).origin, "content-type": "application/json" };
    return send("POST", `${address}api/suspend`, headers, JSON.stringify({ flag: "f", note: "why not" }));
  };
  const reading = await deskCommand("--flags", folder, "--read-only");
  expect((await post(reading.address)).status).toBe(403);
  const { address } = await deskCommand("--flags", folder);
  expect((await post(address)).status).toBe(200);
  const { userInfo } = await import("node:os");
  expect(await readFile(join(folder, "suspended.yaml"), "utf8")).toContain(`who: ${userInfo().username}`);
});

it("says what is wrong with how it was called", async () => {
  const taken = createServer().listen(0, "127.0.0.1");
  await once(taken, "listening");
  onTestFinished(() => void taken.close());
  const { port } = taken.address() as AddressInfo;
  const cases = [
    [["--flags", "/nowhere/at/all"], "There is no folder “/nowhere/at/all”."],
    [["--flags", demoFolder, "--people", "nobody.csv"], "There is no file “nobody.csv”."],
    [["--flags", demoFolder, "--env", "nope"], "There is no environment “nope”."],
    [["--flags", demoFolder, "--port", "many"], "“many” is not a port."],
    [["--flags", demoFolder, "--port", String(port)], `Port ${port} cannot be used: EADDRINUSE.`],
  ] as const;
  for (const [words, message] of cases) {
    const { code, err } = await iudex("desk", "--no-open", ...words);
    expect([words, code, err.split("\n")[0]]).toEqual([words, 2, message]);
  }
});
