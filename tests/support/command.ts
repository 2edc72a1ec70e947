import { execFile } from "node:child_process";
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

/** Runs the built binary, as a shell would. */
export function iudex(...words: string[]): Promise<Ran> {
  return iudexIn({}, ...words);
}

export function iudexIn({ cwd = projectRoot, env = {} }: RunOptions, ...words: string[]): Promise<Ran> {
  return new Promise((resolve) => {
    const options = { cwd, env: { ...process.env, NO_COLOR: "1", ...env }, maxBuffer: 1 << 26 };
    execFile(process.execPath, [binary, ...words], options, (error, out, err) => {
      resolve({ code: error ? Number(error.code) : 0, out, err });
    });
  });
}
