import { posix } from "node:path";
import { limits } from "../../values/index.ts";
import { isListFile } from "../file-name.ts";
import { type Entry, type Files, stampOf } from "../files.ts";
import type { Git } from "./git.ts";
import { type Found, type Tree, walk } from "./walk.ts";

/** What stands under a name in a directory of a commit. */
type Node = Map<string, Node> | Leaf;

interface Leaf {
  readonly object: string;
  readonly size: number;
  readonly isLink: boolean;
}

/** As many links are followed one after the other as on most systems. */
const maxLinks = 40;

/** The definition folder as a commit of its repository holds it, links inside it followed as on disk. */
export async function filesOfCommit(git: Git, commit: string, signal?: AbortSignal): Promise<Files> {
  const top: Node = new Map();
  const folder = git.prefix.replace(/\/$/, "");
  const words = [
    "ls-tree",
    "-r",
    "-z",
    "-l",
    "--full-tree",
    commit,
    "--",
    folder === "" ? "." : `:(top,literal)${folder}`,
  ];
  const listing = await git.feed(words, { signal });
  for (const line of listing.split("\0")) if (line !== "") place(top, line, git.prefix);
  const { entries, faults, isListed } = await walk(new CommitTree(top, new Objects(git, signal)), "");
  return { stamp: `${stampOf(entries)}\n${JSON.stringify(faults)}`, entries, faults, isListed };
}

/** A name may hold tabs; the first one ends what stands before it. */
function place(top: Node, line: string, prefix: string): void {
  const tab = line.indexOf("\t");
  const [mode = "", , object = "", size = ""] = line.slice(0, tab).split(/ +/);
  const isLink = mode === "120000";
  if (!isLink && !mode.startsWith("100")) return;
  const parts = line.slice(tab + 1 + prefix.length).split("/");
  let here = top as Map<string, Node>;
  for (const part of parts.slice(0, -1)) {
    if (!here.has(part)) here.set(part, new Map());
    here = here.get(part) as Map<string, Node>;
  }
  here.set(parts.at(-1)!, { object, size: Number(size), isLink });
}

class CommitTree implements Tree {
  readonly #top: Node;
  readonly #objects: Objects;

  constructor(top: Node, objects: Objects) {
    this.#top = top;
    this.#objects = objects;
  }

  async names(directory: string): Promise<string[]> {
    const node = this.#at(directory);
    return node instanceof Map ? [...node.keys()] : [];
  }

  async look(directory: string, name: string): Promise<Found> {
    const real = await this.#follow(directory === "" ? name : `${directory}/${name}`);
    if (real === undefined) return { kind: "outside", isDirectory: false };
    const node = this.#at(real);
    if (node === undefined) return { kind: "other", why: "its link leads to nothing" };
    if (node instanceof Map) return { kind: "directory", real };
    return { kind: "file", identity: real, entry: (file) => this.#objects.entry(file, node) };
  }

  #at(path: string): Node | undefined {
    if (path === "") return this.#top;
    let node: Node | undefined = this.#top;
    for (const part of path.split("/")) node = node instanceof Map ? node.get(part) : undefined;
    return node;
  }

  /** The path without links; undefined where one leads out of the folder. */
  async #follow(path: string): Promise<string | undefined> {
    let left = path.split("/");
    let real: string[] = [];
    for (let links = 0; left.length > 0; ) {
      const [part = "", ...rest] = left;
      if (part === "..") {
        if (real.pop() === undefined) return undefined;
        left = rest;
        continue;
      }
      const here = [...real, part];
      const node = this.#at(here.join("/"));
      left = rest;
      if (!node || node instanceof Map || !node.isLink) real = here;
      else {
        if (++links > maxLinks) throw new Error("its links go round in a circle");
        const target = (await this.#objects.bytes(node.object)).toString("utf8");
        if (posix.isAbsolute(target)) return undefined;
        left = [...target.split("/").filter((each) => each !== "" && each !== "."), ...rest];
      }
    }
    return real.join("/");
  }
}

/** The objects of a repository; what is asked for at the same time is asked of git at once. */
class Objects {
  readonly #git: Git;
  readonly #signal: AbortSignal | undefined;
  readonly #wanted = new Map<string, Promise<Buffer>>();
  #batch: { readonly objects: string[]; readonly contents: Promise<Buffer[]> } | undefined;

  constructor(git: Git, signal: AbortSignal | undefined) {
    this.#git = git;
    this.#signal = signal;
  }

  entry(file: string, { object, size }: Leaf): Entry {
    const most = isListFile(file) ? limits.listBytes : limits.fileBytes;
    return {
      file,
      mark: object,
      stamp: object,
      size,
      bytes: async () => {
        if (size > most) throw new Error("it is too large");
        return this.bytes(object);
      },
    };
  }

  bytes(object: string): Promise<Buffer> {
    let content = this.#wanted.get(object);
    if (!content) {
      this.#batch ??= this.#begin();
      const { objects, contents } = this.#batch;
      const index = objects.push(object) - 1;
      content = contents.then((all) => all[index]!);
      this.#wanted.set(object, content);
      // It is kept by who has asked, not here.
      void content.catch(() => {}).then(() => this.#wanted.delete(object));
    }
    return content;
  }

  #begin(): { readonly objects: string[]; readonly contents: Promise<Buffer[]> } {
    const objects: string[] = [];
    const contents = new Promise<void>((resolve) => setImmediate(resolve)).then(() => {
      this.#batch = undefined;
      return this.#git.contents(objects, this.#signal);
    });
    return { objects, contents };
  }
}
