// A disk on which everything can go wrong that goes wrong on disks: what was not synced is lost with the power, renames are
// atomic, it fills up, refuses and is slow, its clock is coarse, and notices of changes come late, twice or not at all.
import { world } from "./clock.ts";

/** A file, a folder or a link on it. */
export interface Node {
  readonly disk: Disk;
  readonly ino: bigint;
  readonly kind: "file" | "folder" | "link";
  bytes: Buffer;
  /** What a file holds after the power was lost. */
  synced: Buffer | undefined;
  readonly entries: Map<string, Node>;
  readonly target: string;
  mode: number;
  /** By the clock of the disk, in milliseconds. */
  modified: number;
  changed: number;
}

/** What is wrong with a disk at the moment. */
export interface DiskFaults {
  /** Nothing more fits. */
  full: boolean;
  /** Nothing can be written, or nothing at all can be done. */
  refuses: "nothing" | "writing" | "everything";
  /** The longest that anything takes, in milliseconds. */
  slow: number;
  /** The part of notices that never come, and the part that comes twice. */
  lost: number;
  twice: number;
  /** The latest that a notice comes, in milliseconds. */
  late: number;
}

export const soundDisk: Readonly<DiskFaults> = { full: false, refuses: "nothing", slow: 0, lost: 0, twice: 0, late: 0 };

/** Told of a name in a folder. */
export interface DiskWatcher {
  readonly folder: Node;
  told(name: string): void;
}

/** So long the journal of names may lag behind the disk, in milliseconds. */
const journalTime = 5_000;

/** How many links are followed on one way. */
const maxLinks = 20;

let lastIno = 1n;

export class Disk {
  readonly faults: DiskFaults = { ...soundDisk };
  readonly root: Node;
  readonly watchers = new Set<DiskWatcher>();
  /** The steps of its clock, and how far that is ahead of the world's; milliseconds. */
  tick = 1;
  ahead = 0;
  /** How to undo the changes of names that are not on the platter yet, oldest first. */
  #journal: { readonly at: number; undo(): void }[] = [];

  constructor() {
    this.root = this.make("folder");
  }

  get time(): number {
    return Math.floor((world.now + this.ahead) / this.tick) * this.tick;
  }

  make(kind: Node["kind"], { mode = 0o755, target = "" } = {}): Node {
    const { time } = this;
    const entries = new Map<string, Node>();
    const bytes = Buffer.alloc(0);
    const times = { modified: time, changed: time };
    return { disk: this, ino: lastIno++, kind, bytes, synced: undefined, entries, target, mode, ...times };
  }

  /** Puts something under a name, or takes it away; it can be undone until it is on the platter. */
  enter(folder: Node, name: string, node: Node | undefined): void {
    const before = folder.entries.get(name);
    const put = (each: Node | undefined) => {
      if (each) folder.entries.set(name, each);
      else folder.entries.delete(name);
    };
    put(node);
    folder.modified = folder.changed = this.time;
    this.#journal.push({ at: world.now, undo: () => put(before) });
    this.#tell(folder, name);
  }

  write(node: Node, bytes: Buffer): void {
    node.bytes = bytes;
    node.modified = node.changed = this.time;
    for (const folder of this.#foldersOf(node)) this.#tell(folder.folder, folder.name);
  }

  /** What it holds is on the platter, and so are all names that were changed before. */
  sync(node: Node): void {
    node.synced = node.bytes;
    this.#journal = [];
  }

  /** The newest changes of names are lost, and what files held that were not synced. */
  losePower(): void {
    const open = this.#journal.filter(({ at }) => at > world.now - journalTime);
    for (let left = world.below(open.length + 1); left > 0; left--) open.pop()!.undo();
    this.#journal = [];
    const visit = (node: Node) => {
      if (node.disk !== this) return;
      for (const each of node.entries.values()) visit(each);
      if (node.kind !== "file" || node.synced === node.bytes) return;
      const kept = world.below(3);
      if (kept === 0) node.bytes = node.synced ?? Buffer.alloc(0);
      if (kept === 1) node.bytes = node.bytes.subarray(0, world.below(node.bytes.length + 1));
    };
    visit(this.root);
  }

  *#foldersOf(node: Node, folder = this.root): Generator<{ readonly folder: Node; readonly name: string }> {
    if (this.watchers.size === 0) return;
    for (const [name, each] of folder.entries) {
      if (each === node) yield { folder, name };
      if (each.kind === "folder" && each.disk === this) yield* this.#foldersOf(node, each);
    }
  }

  #tell(folder: Node, name: string): void {
    for (const watcher of this.watchers) {
      if (watcher.folder !== folder || world.chance(this.faults.lost)) continue;
      watcher.told(name);
      if (world.chance(this.faults.twice)) watcher.told(name);
    }
  }
}

const codes: Readonly<Record<string, string>> = {
  ENOENT: "no such file or directory",
  EEXIST: "file already exists",
  ENOTDIR: "not a directory",
  EISDIR: "illegal operation on a directory",
  ENOTEMPTY: "directory not empty",
  ELOOP: "too many symbolic links encountered",
  ENOSPC: "no space left on device",
  EROFS: "read-only file system",
  EIO: "i/o error",
  EINVAL: "invalid argument",
  EPERM: "operation not permitted",
  ERR_FS_EISDIR: "Path is a directory",
};

export function fault(code: string, path: string): NodeJS.ErrnoException {
  return Object.assign(new Error(`${code}: ${codes[code]}, '${path}'`), { code, path });
}

/** What a name on a way leads to. */
export interface Reached {
  readonly folder: Node;
  readonly name: string;
  readonly node: Node | undefined;
  readonly real: string;
}

/** Follows a way from the root; links at its end are followed if asked for. @throws ENOENT where a folder on it is missing */
export function reach(root: Node, path: string, toTheEnd: boolean, links = 0): Reached {
  if (links > maxLinks) throw fault("ELOOP", path);
  const parts = path.split("/").filter((part) => part !== "" && part !== ".");
  let folder = root;
  let real = "";
  if (parts.length === 0) return { folder: root, name: "", node: root, real: "/" };
  for (let at = 0; ; at++) {
    const name = parts[at]!;
    if (folder.kind !== "folder") throw fault("ENOTDIR", path);
    if (folder.disk.faults.refuses === "everything") throw fault("EIO", path);
    const node = folder.entries.get(name);
    const isLast = at === parts.length - 1;
    if (node?.kind === "link" && (toTheEnd || !isLast)) {
      const to = node.target.startsWith("/") ? node.target : `${real}/${node.target}`;
      return reach(root, [to, ...parts.slice(at + 1)].join("/"), toTheEnd, links + 1);
    }
    if (isLast) return { folder, name, node, real: `${real}/${name}` };
    if (!node) throw fault("ENOENT", path);
    folder = node;
    real += `/${name}`;
  }
}
