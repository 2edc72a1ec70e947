#!/usr/bin/env node
import { readFile } from "node:fs/promises";
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

process.exitCode = await run(
  process.argv.slice(2),
  {
    out: (text) => void process.stdout.write(text),
    err: (text) => void process.stderr.write(text),
    colour: pc.isColorSupported && process.stdout.isTTY === true,
  },
  version,
);
