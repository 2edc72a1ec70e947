import { execFile } from "node:child_process";
import { join } from "node:path";
import { projectRoot } from "./folders.ts";

export interface Ran {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** Runs the built binary, as a shell would. */
export function iudex(...words: string[]): Promise<Ran> {
  return new Promise((resolve) => {
    const options = { cwd: projectRoot, env: { ...process.env, NO_COLOR: "1" }, maxBuffer: 1 << 26 };
    execFile(process.execPath, [join(projectRoot, "dist/cli/bin.js"), ...words], options, (error, out, err) => {
      resolve({ code: error ? Number(error.code) : 0, out, err });
    });
  });
}
