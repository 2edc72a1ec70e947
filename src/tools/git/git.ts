import { execFile, spawn } from "node:child_process";
import { existsSync } from "node:fs";
import { dirname, resolve } from "node:path";
import { ToolError } from "../tool-error.ts";

/** A file of a commit. */
export interface TreeEntry {
  /** Relative to the folder asked for. */
  readonly path: string;
  readonly kind: "file" | "link";
  readonly content: Buffer;
}

/** What git is given besides its words. */
export interface GitInput {
  readonly input?: string;
  readonly env?: NodeJS.ProcessEnv;
}

/** The repository that a folder lies in, asked through the real `git`. */
export class Git {
  /** A directory inside the repository. */
  readonly #inside: string;
  /** The folder, as the repository calls it; "" for its top, else with a slash at the end. */
  readonly prefix: string;

  private constructor(inside: string, prefix: string) {
    this.#inside = inside;
    this.prefix = prefix;
  }

  /** The repository around a folder, which need not exist any more. @throws {ToolError} where there is none */
  static async around(folder: string): Promise<Git> {
    let inside = resolve(folder);
    while (!existsSync(inside) && dirname(inside) !== inside) inside = dirname(inside);
    const rest = resolve(folder).slice(inside.length).replaceAll("\\", "/").replace(/^\//, "");
    const prefix = (await git(inside, ["rev-parse", "--show-prefix"])).replace(/\n$/, "");
    return new Git(inside, `${prefix}${rest}${rest === "" ? "" : "/"}`);
  }

  run(...words: string[]): Promise<string> {
    return git(this.#inside, words);
  }

  /** Runs git with something to read, or under another environment. */
  async feed(words: readonly string[], { input = "", env = {} }: GitInput): Promise<string> {
    return (await feed(this.#inside, words, input, env)).toString();
  }

  /** The full name of a commit; undefined if the text names none. */
  async commit(revision: string): Promise<string | undefined> {
    if (revision.startsWith("-")) return undefined;
    try {
      return (await this.run("rev-parse", "--verify", "--quiet", `${revision}^{commit}`)).trim();
    } catch {
      return undefined;
    }
  }

  /** All files that a commit holds under the folder. */
  async files(commit: string): Promise<TreeEntry[]> {
    const folder = this.prefix.replace(/\/$/, "") || ".";
    const listing = await this.run("ls-tree", "-r", "-z", "--full-tree", commit, "--", folder);
    const entries = listing
      .split("\0")
      .filter((line) => line !== "")
      .map((line) => {
        // A name may hold tabs; the first one ends what stands before it.
        const tab = line.indexOf("\t");
        const [mode, , object] = line.slice(0, tab).split(" ") as [string, string, string];
        return { mode, object, path: line.slice(tab + 1).slice(this.prefix.length) };
      })
      .filter(({ mode }) => mode.startsWith("100") || mode === "120000");
    const contents = await this.#contents(entries.map(({ object }) => object));
    return entries.map(({ mode, path }, i) => ({
      path,
      kind: mode === "120000" ? "link" : "file",
      content: contents[i]!,
    }));
  }

  async #contents(objects: readonly string[]): Promise<Buffer[]> {
    const out = await feed(this.#inside, ["cat-file", "--batch"], `${objects.join("\n")}\n`);
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
}

function git(cwd: string, words: readonly string[]): Promise<string> {
  return new Promise((done, fail) => {
    execFile("git", words, { cwd, env: plainEnv(), maxBuffer: 1 << 30 }, (error, out, err) => {
      if (!error) done(out);
      else fail(failure(error, err, cwd));
    });
  });
}

function feed(cwd: string, words: readonly string[], input: string, env: NodeJS.ProcessEnv = {}): Promise<Buffer> {
  return new Promise((done, fail) => {
    const child = spawn("git", words, { cwd, env: { ...plainEnv(), ...env }, stdio: ["pipe", "pipe", "pipe"] });
    const chunks: Buffer[] = [];
    let err = "";
    child.stdout.on("data", (chunk: Buffer) => chunks.push(chunk));
    child.stderr.on("data", (chunk: Buffer) => {
      err += chunk;
    });
    child.on("error", (error) => fail(failure(error, "", cwd)));
    child.on("close", (code) => {
      if (code === 0) done(Buffer.concat(chunks));
      else fail(failure(new Error(`git ended with ${code}`), err, cwd));
    });
    child.stdin.on("error", () => {});
    child.stdin.end(input);
  });
}

/** What git says is read here, so it says it in one language. */
function plainEnv(): NodeJS.ProcessEnv {
  return { ...process.env, LC_ALL: "C" };
}

function failure(error: Error & { code?: unknown }, err: string, cwd: string): ToolError {
  if (error.code === "ENOENT") return new ToolError("The program git is needed for this and was not found.");
  if (/not a git repository/i.test(err)) return new ToolError(`“${cwd}” lies in no git repository.`, "run git init");
  return new ToolError(`git failed: ${(err || error.message).trim().split("\n").slice(0, 3).join(" ")}`);
}
