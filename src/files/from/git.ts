import { spawn } from "node:child_process";
import { existsSync, lstatSync } from "node:fs";
import { dirname, join, relative, resolve, sep } from "node:path";
import { ToolError } from "../tool-error.ts";

/** What git is given besides its words. */
export interface GitInput {
  readonly input?: string | Uint8Array;
  readonly env?: NodeJS.ProcessEnv;
  /** Ends the call at once. */
  readonly signal?: AbortSignal | undefined;
  /** The longest that it may take, in milliseconds; a minute by default. */
  readonly longest?: number;
}

/** The longest that a call may take that says nothing else, in milliseconds. */
const longestCall = 60_000;

/** The most that a call may say, in bytes. */
const maxSaid = 2 ** 29;

/** Nothing that a repository's configuration names is run for reading, and nothing is fetched. */
const harmless = ["core.fsmonitor=false", "core.pager=cat", "log.showSignature=false", "protocol.allow=never"];

/** A commit, as it is written in the repository. */
export interface CommitObject {
  readonly commit: string;
  readonly parents: readonly string[];
  /** When it was written, ISO 8601 with offset. */
  readonly date: string;
  readonly author: string;
  readonly note: string;
}

/**
 * The repository that a folder lies in, asked through the real `git`. It is found by its `.git` alone, which no commit can
 * bring along, and named at every call: a folder that looks like a repository of its own is not one.
 */
export class Git {
  readonly #repository: string;
  readonly #top: string;
  /** The folder, as the repository calls it; "" for its top, otherwise with a slash at the end. */
  readonly prefix: string;

  private constructor(repository: string, top: string, prefix: string) {
    this.#repository = repository;
    this.#top = top;
    this.prefix = prefix;
  }

  /** The repository around a folder, which need not exist any more. @throws {ToolError} where there is none */
  static async around(folder: string): Promise<Git> {
    const own = await realPathOf(resolve(folder));
    for (let top = own; ; top = dirname(top)) {
      const repository = join(top, ".git");
      if (isRepository(repository)) {
        const rest = relative(top, own).replaceAll(sep, "/");
        const git = new Git(repository, top, rest === "" ? "" : `${rest}/`);
        await git.run("rev-parse", "--git-dir");
        return git;
      }
      if (dirname(top) === top) throw new ToolError(`“${own}” lies in no git repository.`, "run git init");
    }
  }

  async run(...words: string[]): Promise<string> {
    return (await this.#call(words, {})).toString();
  }

  /** Runs git with something to read, under another environment, or until a signal ends it. */
  async feed(words: readonly string[], input: GitInput): Promise<string> {
    return (await this.#call(words, input)).toString();
  }

  /** The full name of a commit; undefined if the text names none. */
  async commit(revision: string, signal?: AbortSignal): Promise<string | undefined> {
    if (!isRevision(revision)) return undefined;
    try {
      const words = ["rev-parse", "--verify", "--quiet", "--end-of-options", `${revision}^{commit}`];
      return (await this.feed(words, { signal })).trim();
    } catch {
      signal?.throwIfAborted();
      return undefined;
    }
  }

  /** The repository and the folder in it, for telling it from others. */
  get called(): string {
    return `${this.#repository}:${this.prefix}`;
  }

  /** The names of commits up to one of them that changed the folder, newest first. */
  async commitsOf(head: string, skip: number, most: number, signal?: AbortSignal): Promise<string[]> {
    const where = this.prefix.replace(/\/$/, "");
    // The top of a repository is all of it; a pathspec for it would match nothing.
    const within = where === "" ? [] : [`:(top,literal)${where}`];
    const words = ["rev-list", `--skip=${skip}`, `--max-count=${most}`, head, "--", ...within];
    const listed = await this.feed(words, { signal });
    return listed.split("\n").filter((line) => line !== "");
  }

  async commitObjects(commits: readonly string[], signal?: AbortSignal): Promise<CommitObject[]> {
    const objects = await this.contents(commits, signal);
    return commits.map((commit, i) => readCommit(commit, objects[i]!));
  }

  /** What objects hold, by their names. @throws {ToolError} where one is missing */
  async contents(objects: readonly string[], signal?: AbortSignal): Promise<Buffer[]> {
    if (objects.length === 0) return [];
    const out = await this.#call(["cat-file", "--batch"], { input: `${objects.join("\n")}\n`, signal });
    const contents: Buffer[] = [];
    let offset = 0;
    for (const object of objects) {
      const end = out.indexOf(10, offset);
      const size = Number(out.subarray(offset, end).toString().split(" ")[2]);
      if (!Number.isInteger(size)) throw new ToolError(`The repository lacks the object ${object}.`);
      contents.push(out.subarray(end + 1, end + 1 + size));
      offset = end + 1 + size + 1;
    }
    return contents;
  }

  #call(words: readonly string[], { input = "", env = {}, signal, longest = longestCall }: GitInput): Promise<Buffer> {
    const named = [`--git-dir=${this.#repository}`, `--work-tree=${this.#top}`];
    const settings = harmless.flatMap((setting) => ["-c", setting]);
    return new Promise((done, fail) => {
      signal?.throwIfAborted();
      const child = spawn("git", [...named, ...settings, ...words], {
        cwd: this.#top,
        env: { ...plainEnv(), ...env },
        stdio: ["pipe", "pipe", "pipe"],
        signal,
        timeout: longest,
        killSignal: "SIGKILL",
      });
      const chunks: Buffer[] = [];
      let [size, err] = [0, ""];
      child.stdout.on("data", (chunk: Buffer) => {
        chunks.push(chunk);
        size += chunk.length;
        if (size > maxSaid) child.kill("SIGKILL");
      });
      child.stderr.on("data", (chunk: Buffer) => {
        if (err.length < 10_000) err += chunk;
      });
      child.on("error", (error) => fail(signal?.aborted ? signal.reason : failure(error, "")));
      child.on("close", (code) => {
        if (code === 0) done(Buffer.concat(chunks));
        else
          fail(
            failure(new Error(code === null ? "git took too long, or said too much" : `git ended with ${code}`), err),
          );
      });
      child.stdin.on("error", () => {});
      child.stdin.end(input);
    });
  }
}

/**
 * A revision that can be asked for: a name (a branch, a tag, a commit, `HEAD`), with `~2` and `^1` behind it. Searches and
 * dates are not taken: they may go through all of a repository.
 */
export function isRevision(text: string): boolean {
  return /^(?!-)[\p{L}\p{N}_][\p{L}\p{N}_./+-]{0,250}(?:[~^]\d{0,6}){0,20}$/u.test(text) && !text.includes("..");
}

/** What a commit says, by the form in which git keeps it: nobody can write a line into its head. */
function readCommit(commit: string, object: Buffer): CommitObject {
  const text = object.toString("utf8");
  const end = text.indexOf("\n\n");
  const head = text.slice(0, end < 0 ? text.length : end).split("\n");
  const [, author = "", seconds = "0", zone = "+0000"] =
    /^author (.*?) ?<[^>]*> (-?\d+) ([+-]\d{4})$/.exec(head.find((line) => line.startsWith("author ")) ?? "") ?? [];
  return {
    commit,
    parents: head.filter((line) => line.startsWith("parent ")).map((line) => line.slice("parent ".length)),
    date: dateOf(Number(seconds), zone),
    author,
    note: end < 0 ? "" : text.slice(end + 2).trim(),
  };
}

/** `2026-12-02T12:00:00+01:00` */
function dateOf(seconds: number, zone: string): string {
  const minutes = (Number(zone.slice(1, 3)) * 60 + Number(zone.slice(3))) * (zone.startsWith("-") ? -1 : 1);
  const local = new Date((seconds + minutes * 60) * 1_000);
  return Number.isNaN(local.getTime())
    ? new Date(0).toISOString()
    : `${local.toISOString().slice(0, 19)}${zone.slice(0, 3)}:${zone.slice(3)}`;
}

/** The real path; of what does not exist any more, that of what is left of it, and the rest. */
async function realPathOf(path: string): Promise<string> {
  const { realpath } = await import("node:fs/promises");
  let there = path;
  while (!existsSync(there) && dirname(there) !== there) there = dirname(there);
  return join(await realpath(there), relative(there, path));
}

/** A directory, or the file that leads to one in a linked work tree; never a link. */
function isRepository(path: string): boolean {
  const found = lstatSync(path, { throwIfNoEntry: false });
  return found !== undefined && (found.isFile() || (found.isDirectory() && existsSync(join(path, "HEAD"))));
}

/** What git says is read here, so it says it in one language; another repository that somebody has named is left alone. */
function plainEnv(): NodeJS.ProcessEnv {
  const { GIT_DIR, GIT_WORK_TREE, GIT_INDEX_FILE, GIT_COMMON_DIR, GIT_PREFIX, GIT_NAMESPACE, ...env } = process.env;
  return {
    ...env,
    LC_ALL: "C",
    GIT_OPTIONAL_LOCKS: "0",
    GIT_TERMINAL_PROMPT: "0",
    GIT_NO_LAZY_FETCH: "1",
    GIT_NO_REPLACE_OBJECTS: "1",
  };
}

function failure(error: Error & { code?: unknown }, err: string): ToolError {
  if (error.code === "ENOENT") return new ToolError("The program git is needed for this and was not found.");
  return new ToolError(`git failed: ${(err || error.message).trim().split("\n").slice(0, 3).join(" ")}`);
}
