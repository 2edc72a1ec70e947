import { type ChildProcess, execFile, fork } from "node:child_process";
import { once } from "node:events";
import { join } from "node:path";
import { projectRoot } from "./folders.ts";

export interface Ran {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

export interface RunOptions {
  readonly cwd?: string;
  readonly env?: Readonly<Record<string, string>>;
}

export const binary = join(projectRoot, "dist/cli/bin.js");

/** Runs the built binary, one run after the other in a process that stays: most of what a run costs is its start. */
export function iudex(...words: string[]): Promise<Ran> {
  return iudexIn(projectRoot, ...words);
}

/** As {@link iudex}, in another directory. */
export function iudexIn(cwd: string, ...words: string[]): Promise<Ran> {
  const ran = last.then(() => runIn(warmProcess(), { words, cwd }));
  last = ran.catch(() => {});
  return ran;
}

/** Runs the built binary in a process of its own, as a shell would. */
export function iudexAlone({ cwd = projectRoot, env = {} }: RunOptions, ...words: string[]): Promise<Ran> {
  return new Promise((resolve) => {
    const options = { cwd, env: { ...process.env, NO_COLOR: "1", ...env }, maxBuffer: 1 << 26 };
    execFile(process.execPath, [binary, ...words], options, (error, out, err) => {
      resolve({ code: error ? Number(error.code) : 0, out, err });
    });
  });
}

let last: Promise<unknown> = Promise.resolve();
let warm: ChildProcess | undefined;

function warmProcess(): ChildProcess {
  if (warm?.connected) return warm;
  warm = fork(join(projectRoot, "tests/support/warm-command.mjs"), [binary], {
    env: { ...process.env, NO_COLOR: "1" },
    stdio: ["ignore", "inherit", "inherit", "ipc"],
  });
  // It ends with the process that began it.
  warm.unref();
  return warm;
}

async function runIn(child: ChildProcess, asked: { words: string[]; cwd: string }): Promise<Ran> {
  const over = new AbortController();
  const answer = once(child, "message", { signal: over.signal }).then(([ran]) => ran as Ran);
  const end = once(child, "exit", { signal: over.signal }).then(([code]) => {
    throw new Error(`iudex ${asked.words.join(" ")} ended its process with ${code}.`);
  });
  child.send(asked);
  try {
    return await Promise.race([answer, end]);
  } finally {
    over.abort();
    await Promise.allSettled([answer, end]);
  }
}
