import { rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Git, makeOwnFolder, reasonOf, ToolError } from "../files/index.ts";
import type { FileChange } from "./edit-session.ts";

/** The hooks of a repository may run its tests: so long may they take, in milliseconds. */
const longestHooks = 3_600_000;

/** How a change is recorded in the repository. */
export interface CommitRequest {
  readonly message: string;
  /** Who made the change, where it is not whoever runs this. */
  readonly author?: string | undefined;
}

/**
 * A commit takes in whole files, so one that holds changes of somebody else is not begun.
 *
 * @throws {ToolError} that says so
 */
export async function refuseUncommitted(folder: string, files: readonly Pick<FileChange, "file">[]): Promise<void> {
  const git = await Git.around(folder);
  for (const { file } of files) {
    const status = await git.run("status", "--porcelain", "--", pathIn(git, file));
    if (status.trim() === "") continue;
    throw new ToolError(
      `${file} has changes that are not committed, and a commit would take them in.`,
      "commit them first, or write without a commit",
    );
  }
}

/**
 * Commits these files and no others; what else is staged or changed stays as it is.
 *
 * @throws {ToolError} that says so where the files were written and git would not have them
 */
export async function commitChange(
  folder: string,
  files: readonly Pick<FileChange, "file">[],
  { message, author }: CommitRequest,
): Promise<string> {
  try {
    const git = await Git.around(folder);
    const paths = files.map(({ file }) => pathIn(git, file));
    const by = author === undefined ? [] : ["--author", authorLine(author)];
    await git.run("add", "--", ...paths);
    const words = ["commit", "--quiet", "--message", message, ...by, "--only", "--", ...paths];
    await git.feed(words, { longest: longestHooks });
    return (await git.run("rev-parse", "HEAD")).trim();
  } catch (error) {
    const names = files.map(({ file }) => file).join(", ");
    const verb = files.length === 1 ? "is" : "are";
    throw new ToolError(`${names} ${verb} written, but not committed: ${reasonOf(error)}`, "commit it by hand");
  }
}

/**
 * Commits these texts on a new branch beside the one that is checked out: neither the files of the folder nor what is
 * staged changes.
 *
 * @throws {ToolError} where there is such a branch, or git will not have it
 */
export async function commitOnBranch(
  folder: string,
  files: readonly FileChange[],
  { branch, message, author }: CommitRequest & { readonly branch: string },
): Promise<string> {
  const git = await Git.around(folder);
  const home = await makeOwnFolder(tmpdir(), "branch");
  const env = { GIT_INDEX_FILE: join(home, "index"), ...authorEnv(author) };
  try {
    const parent = (await git.run("rev-parse", "HEAD")).trim();
    await git.feed(["read-tree", parent], { env });
    for (const { file, text } of files) {
      const object = (await git.feed(["hash-object", "-w", "--stdin"], { input: text })).trim();
      await git.feed(["update-index", "--add", "--cacheinfo", `100644,${object},${git.prefix}${file}`], { env });
    }
    const tree = (await git.feed(["write-tree"], { env })).trim();
    const commit = (await git.feed(["commit-tree", tree, "-p", parent, "-F", "-"], { input: message, env })).trim();
    // The zeros say that there must be no such branch yet.
    await git.run("update-ref", `refs/heads/${branch}`, commit, "0".repeat(commit.length));
    return commit;
  } finally {
    await rm(home, { recursive: true, force: true });
  }
}

function authorEnv(author: string | undefined): NodeJS.ProcessEnv {
  if (author === undefined) return {};
  const [, name = "", address = ""] = /^(.*?) *<(.*)>$/.exec(authorLine(author)) ?? [];
  return { GIT_AUTHOR_NAME: name, GIT_AUTHOR_EMAIL: address };
}

function pathIn(git: Git, file: string): string {
  return `:(top,literal)${git.prefix}${file}`;
}

/** `Name <address>`, as git wants it; a name alone has no address. */
function authorLine(author: string): string {
  const plain = author.replace(/[\n\r\0]/g, " ").trim();
  return /^[^<>]*<[^<>]*>$/.test(plain) ? plain : `${plain.replace(/[<>]/g, "")} <>`;
}

/** What git takes away at both ends of a name; a name of nothing else is refused by it. */
const crud = /^[\0-\x20.,:;<>"\\']+|[\0-\x20.,:;<>"\\']+$/g;

/** Whether git takes somebody as an author, as `Name` or `Name <address>`. */
export function mayBeAuthor(author: string): boolean {
  const name = authorLine(author).replace(/<[^<>]*>$/, "");
  return name.replace(crud, "") !== "";
}
