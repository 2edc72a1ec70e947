import { execFileSync } from "node:child_process";
import { cp, mkdtemp } from "node:fs/promises";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { demoFolder, folderWith } from "./folders.ts";

export interface Repository {
  /** The definition folder, a copy of the demo's. */
  readonly folder: string;
  git(...words: string[]): string;
  commit(message: string): void;
}

/** A git repository with the demo's definitions in it, gone when the test is over. */
export async function demoRepository(): Promise<Repository> {
  const folder = await folderWith({});
  const cwd = dirname(folder);
  pattern ??= makePattern();
  await cp(await pattern, cwd, { recursive: true });
  const git = (...words: string[]) => run(cwd, ...words);
  const commit = (message: string) => {
    git("add", "--all");
    git("commit", "--quiet", "--message", message);
  };
  return { folder, git, commit };
}

/** What every repository is a copy of, gone when the run is over: making one takes git half a second. */
let pattern: Promise<string> | undefined;

async function makePattern(): Promise<string> {
  const home = await mkdtemp(join(tmpdir(), "iudex-repository-"));
  await cp(demoFolder, join(home, "flags"), { recursive: true });
  run(home, "init", "--quiet", "--initial-branch=main");
  run(home, "config", "user.name", "Duty Officer");
  run(home, "config", "user.email", "duty@ternhaven.example");
  run(home, "config", "maintenance.auto", "false");
  run(home, "add", "--all");
  run(home, "commit", "--quiet", "--message", "The first flags");
  return home;
}

function run(cwd: string, ...words: string[]): string {
  return execFileSync("git", words, { cwd, encoding: "utf8" });
}
