import { reasonOf } from "../../folder/index.ts";
import { Git } from "../git/git.ts";
import { ToolError } from "../tool-error.ts";
import type { FileChange } from "./workplace.ts";

/** How a change is recorded in the repository. */
export interface CommitRequest {
  readonly message: string;
  /** Who made the change, where it is not whoever runs this. */
  readonly author?: string | undefined;
}

type Files = readonly Pick<FileChange, "file">[];

/**
 * A commit takes in whole files, so one that holds changes of somebody else is not begun.
 *
 * @throws {ToolError} that says so
 */
export async function refuseUncommitted(folder: string, files: Files): Promise<void> {
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
export async function commitChange(folder: string, files: Files, { message, author }: CommitRequest): Promise<string> {
  try {
    const git = await Git.around(folder);
    const paths = files.map(({ file }) => pathIn(git, file));
    const by = author === undefined ? [] : ["--author", authorLine(author)];
    await git.run("add", "--", ...paths);
    await git.run("commit", "--quiet", "--message", message, ...by, "--only", "--", ...paths);
    return (await git.run("rev-parse", "HEAD")).trim();
  } catch (error) {
    const names = files.map(({ file }) => file).join(", ");
    const verb = files.length === 1 ? "is" : "are";
    throw new ToolError(`${names} ${verb} written, but not committed: ${reasonOf(error)}`, "commit it by hand");
  }
}

function pathIn(git: Git, file: string): string {
  return `:(top,literal)${git.prefix}${file}`;
}

/** `Name <address>`, as git wants it; a name alone has no address. */
function authorLine(author: string): string {
  const plain = author.replace(/[\n\r\0]/g, " ").trim();
  return /^[^<>]*<[^<>]*>$/.test(plain) ? plain : `${plain.replace(/[<>]/g, "")} <>`;
}
