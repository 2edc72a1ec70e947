import { execFileSync } from "node:child_process";
import { cp } from "node:fs/promises";
import { dirname } from "node:path";
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
  await cp(demoFolder, folder, { recursive: true });
  const cwd = dirname(folder);
  const git = (...words: string[]) => execFileSync("git", words, { cwd, encoding: "utf8" });
  git("init", "--quiet", "--initial-branch=main");
  git("config", "user.name", "Duty Officer");
  git("config", "user.email", "duty@ternhaven.example");
  const commit = (message: string) => {
    git("add", "--all");
    git("commit", "--quiet", "--message", message);
  };
  commit("The first flags");
  return { folder, git, commit };
}
