#!/usr/bin/env node
import { once } from "node:events";
import { readFile } from "node:fs/promises";
import { createInterface } from "node:readline/promises";
import pc from "picocolors";
import { run } from "./program.ts";

const { version } = JSON.parse(await readFile(new URL("../../package.json", import.meta.url), "utf8")) as {
  version: string;
};

// A reader that has seen enough (`iudex list | head`) closes the pipe; that is no error.
process.stdout.on("error", (error: NodeJS.ErrnoException) => {
  if (error.code === "EPIPE") process.exit(0);
  throw error;
});

const hasPerson = process.stdin.isTTY === true && process.stderr.isTTY === true;

async function confirm(question: string): Promise<boolean> {
  const terminal = createInterface({ input: process.stdin, output: process.stderr });
  try {
    return /^y(?:es)?$/i.test((await terminal.question(`${question} [y/N] `)).trim());
  } finally {
    terminal.close();
  }
}

/** Waits for the person, and keeps the process up meanwhile: watchers do not. */
async function interrupted(): Promise<void> {
  const awake = setInterval(() => {}, 2 ** 30);
  await Promise.race([once(process, "SIGINT"), once(process, "SIGTERM")]);
  clearInterval(awake);
}

process.exitCode = await run(
  process.argv.slice(2),
  {
    out: (text) => void process.stdout.write(text),
    err: (text) => void process.stderr.write(text),
    colour: pc.isColorSupported && process.stdout.isTTY === true,
    liveErr: process.stderr.isTTY === true,
    confirm: hasPerson ? confirm : undefined,
    interrupted,
  },
  version,
);
