// The file system of the process that asks, as far as the library uses it.
import { constants as real } from "node:fs";
import { type Process, world } from "./clock.ts";
import { Disk, fault, type Node, type Reached, reach } from "./disk.ts";

const machines = new Map<string, Disk>();

/** The disk of a machine. */
export function diskOf(machine: string): Disk {
  const known = machines.get(machine);
  if (known) return known;
  const disk = new Disk();
  disk.root.entries.set("tmp", disk.make("folder"));
  machines.set(machine, disk);
  return disk;
}

export function forgetDisks(): void {
  machines.clear();
}

/** Something that several machines see, under a name at their roots. */
export function mount(machine: string, name: string, disk: Disk): void {
  diskOf(machine).root.entries.set(name, disk.root);
}

export function at(path: string, toTheEnd = true): Reached {
  return reach(diskOf(world.process.machine).root, String(path), toTheEnd);
}

export function mustBeThere(path: string, toTheEnd = true): Node {
  const { node } = at(path, toTheEnd);
  if (!node) throw fault("ENOENT", path);
  return node;
}

function mustTake(node: Node, path: string, bytes = 1): void {
  const { refuses, full } = node.disk.faults;
  if (refuses !== "nothing") throw fault("EROFS", path);
  if (full && bytes > 0) throw fault("ENOSPC", path);
}

/** What is done on a disk takes as long as that disk takes; now and then somebody else's turn comes in between. */
function op<T>(path: string, work: () => T): Promise<T> {
  let slow = 0;
  try {
    slow = at(path, false).folder.disk.faults.slow;
  } catch {}
  if (slow === 0 && !world.chance(0.1)) return soon(work);
  return world.after(world.random() * slow, work);
}

async function soon<T>(work: () => T): Promise<T> {
  return work();
}

interface Asked {
  readonly bigint?: boolean;
}

const uid = process.getuid?.() ?? 0;

/** What a file was when it was looked at; in bigints if asked for. */
class Stats {
  readonly #kind: Node["kind"];
  readonly #isBig: boolean;
  readonly #found: { readonly size: number; readonly ino: bigint; readonly mode: number };
  readonly mtimeMs: number;
  readonly #changed: number;

  constructor(node: Node, isBig: boolean) {
    this.#kind = node.kind;
    this.#isBig = isBig;
    this.#found = { size: node.bytes.length, ino: node.ino, mode: node.mode };
    this.mtimeMs = node.modified;
    this.#changed = node.changed;
  }

  #number(value: number | bigint): number {
    return (this.#isBig ? BigInt(value) : Number(value)) as number;
  }

  isFile(): boolean {
    return this.#kind === "file";
  }

  isDirectory(): boolean {
    return this.#kind === "folder";
  }

  isSymbolicLink(): boolean {
    return this.#kind === "link";
  }

  get size(): number {
    return this.#number(this.#found.size);
  }

  get ino(): number {
    return this.#number(this.#found.ino);
  }

  get dev(): number {
    return this.#number(1);
  }

  get mode(): number {
    return this.#number(this.#found.mode);
  }

  get uid(): number {
    return this.#number(uid);
  }

  get mtime(): Date {
    return new Date(this.mtimeMs);
  }

  get mtimeNs(): bigint {
    return BigInt(Math.floor(this.mtimeMs)) * 1_000_000n;
  }

  get ctimeNs(): bigint {
    return BigInt(Math.floor(this.#changed)) * 1_000_000n;
  }
}

export function statsOf(node: Node, { bigint = false }: Asked = {}): Stats {
  return new Stats(node, bigint);
}

let lastNumber = 100;

class Handle {
  readonly fd = lastNumber++;
  readonly #node: Node;
  readonly #path: string;
  readonly #process: Process = world.process;
  #position: number;

  constructor(node: Node, path: string, appends = false) {
    this.#node = node;
    this.#path = path;
    this.#position = appends ? node.bytes.length : 0;
    this.#process.open.add(this);
  }

  stat = (asked?: Asked) => op(this.#path, () => statsOf(this.#node, asked));

  read = (into: Uint8Array, offset: number, length: number, position: number) =>
    op(this.#path, () => {
      const piece = this.#node.bytes.subarray(position, position + length);
      into.set(piece, offset);
      return { bytesRead: piece.length };
    });

  readFile = async () => op(this.#path, () => Buffer.from(this.#node.bytes));

  write = (piece: Uint8Array) => op(this.#path, () => this.#put(Buffer.from(piece)));

  writeFile = (data: string | Uint8Array) => op(this.#path, () => this.#put(Buffer.from(data as string)));

  #put(piece: Buffer): { readonly bytesWritten: number } {
    mustTake(this.#node, this.#path, piece.length);
    const { bytes } = this.#node;
    const end = this.#position + piece.length;
    this.#node.disk.write(this.#node, Buffer.concat([bytes.subarray(0, this.#position), piece, bytes.subarray(end)]));
    this.#position = end;
    return { bytesWritten: piece.length };
  }

  sync = () => op(this.#path, () => this.#node.disk.sync(this.#node));

  async chmod(mode: number): Promise<void> {
    this.#node.mode = mode;
  }

  async *createReadStream(): AsyncGenerator<Buffer> {
    const bytes = await this.readFile();
    for (let from = 0; from < bytes.length; from += 65_536) yield bytes.subarray(from, from + 65_536);
  }

  async close(): Promise<void> {
    this.#process.open.delete(this);
  }
}

const { O_CREAT, O_EXCL, O_TRUNC, O_NOFOLLOW, O_DIRECTORY } = real;
const flagsOf: Readonly<Record<string, number>> = {
  r: 0,
  w: O_CREAT | O_TRUNC,
  wx: O_CREAT | O_EXCL,
  a: O_CREAT,
};

export function open(path: string, flags: string | number = "r", mode = 0o666): Promise<Handle> {
  const asked = typeof flags === "number" ? flags : flagsOf[flags]!;
  return op(path, () => {
    const reached = at(path, !(asked & O_NOFOLLOW));
    let { node } = reached;
    if (node?.kind === "link") throw fault("ELOOP", path);
    if (node && asked & O_EXCL) throw fault("EEXIST", path);
    if (node?.kind === "folder" && asked & (O_CREAT | O_TRUNC)) throw fault("EISDIR", path);
    if (node && asked & O_DIRECTORY && node.kind !== "folder") throw fault("ENOTDIR", path);
    if (!node) {
      if (!(asked & O_CREAT)) throw fault("ENOENT", path);
      mustTake(reached.folder, path);
      node = reached.folder.disk.make("file", { mode });
      reached.folder.disk.enter(reached.folder, reached.name, node);
    }
    if (asked & O_TRUNC) node.disk.write(node, Buffer.alloc(0));
    return new Handle(node, path, flags === "a");
  });
}

export const stat = (path: string, asked?: Asked) => op(path, () => statsOf(mustBeThere(path), asked));
export const lstat = (path: string, asked?: Asked) => op(path, () => statsOf(mustBeThere(path, false), asked));
export const realpath = (path: string) => op(path, () => (at(path).node ? at(path).real : missing(path)));
export const readlink = (path: string) => op(path, () => mustBeThere(path, false).target);
export const readdir = (path: string) =>
  op(path, () => {
    const node = mustBeThere(path);
    if (node.kind !== "folder") throw fault("ENOTDIR", path);
    return [...node.entries.keys()].sort();
  });

function missing(path: string): never {
  throw fault("ENOENT", path);
}

export const readFile = (path: string, as?: string) =>
  op(path, () => {
    const node = mustBeThere(path);
    if (node.kind !== "file") throw fault("EISDIR", path);
    return as === undefined ? Buffer.from(node.bytes) : node.bytes.toString("utf8");
  });

export function mkdir(path: string, { recursive = false } = {}): Promise<void> {
  return op(path, () => {
    const parts = path.split("/").filter((part) => part !== "");
    for (let length = recursive ? 1 : parts.length; length <= parts.length; length++) {
      const here = `/${parts.slice(0, length).join("/")}`;
      const { folder, name, node } = at(here);
      if (node?.kind === "folder" && recursive) continue;
      if (node) throw fault("EEXIST", path);
      mustTake(folder, path);
      folder.disk.enter(folder, name, folder.disk.make("folder"));
    }
  });
}

export function rename(from: string, to: string): Promise<void> {
  return op(to, () => {
    const [old, next] = [at(from, false), at(to, false)];
    if (!old.node) throw fault("ENOENT", from);
    mustMakeRoom(old, next, from, to);
    if (old.node === next.node) return;
    mustTake(next.folder, to, 0);
    const { disk } = old.folder;
    disk.enter(next.folder, next.name, old.node);
    disk.enter(old.folder, old.name, undefined);
  });
}

/** A file takes the place of a file, an empty folder that of another; nothing goes into itself. */
function mustMakeRoom(old: Reached, next: Reached, from: string, to: string): void {
  const [isFolder, there] = [old.node!.kind === "folder", next.node];
  if (isFolder && `${next.real}/`.startsWith(`${old.real}/`) && old.node !== there) throw fault("EINVAL", from);
  if (!there || there === old.node) return;
  if (old.real.startsWith(`${next.real}/`)) throw fault("ENOTEMPTY", to);
  if (!isFolder && there.kind === "folder") throw fault("EISDIR", to);
  if (isFolder && there.kind !== "folder") throw fault("ENOTDIR", to);
  if (there.entries.size > 0) throw fault("ENOTEMPTY", to);
}

export function link(from: string, to: string): Promise<void> {
  return op(to, () => {
    const node = mustBeThere(from, false);
    const { folder, name, node: there } = at(to, false);
    if (there) throw fault("EEXIST", to);
    if (node.kind === "folder") throw fault("EPERM", from);
    mustTake(folder, to);
    folder.disk.enter(folder, name, node);
  });
}

export function rm(path: string, { force = false, recursive = false } = {}): Promise<void> {
  return op(path, () => {
    let found: Reached;
    try {
      found = at(path, false);
    } catch (error) {
      if (force && (error as NodeJS.ErrnoException).code === "ENOENT") return;
      throw error;
    }
    const { folder, name, node } = found;
    if (!node) {
      if (force) return;
      throw fault("ENOENT", path);
    }
    mustTake(folder, path, 0);
    if (node.kind === "folder" && !recursive) throw fault("ERR_FS_EISDIR", path);
    folder.disk.enter(folder, name, undefined);
  });
}

export async function copyFile(from: string, to: string): Promise<void> {
  const bytes = (await readFile(from)) as Buffer;
  const file = await open(to, "w");
  try {
    await file.writeFile(bytes);
  } finally {
    await file.close();
  }
}

export async function mkdtemp(prefix: string): Promise<string> {
  const path = `${prefix}${Math.floor(world.random() * 1e9).toString(36)}`;
  await mkdir(path);
  return path;
}

export async function writeFile(path: string, data: string | Uint8Array): Promise<void> {
  const file = await open(path, "w");
  try {
    await file.writeFile(data);
  } finally {
    await file.close();
  }
}

export const rmdir = (path: string) => rm(path, { recursive: true });

export const utimes = (path: string, _read: Date, changed: Date) =>
  op(path, () => {
    mustBeThere(path).modified = changed.getTime();
  });
