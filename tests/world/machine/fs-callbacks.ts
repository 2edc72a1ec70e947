// What the module without promises has.
import { constants as real } from "node:fs";
import { world } from "./clock.ts";
import type { DiskWatcher } from "./disk.ts";
import * as files from "./fs.ts";

export const constants = real;

type Then = (error: Error | null, found?: unknown) => void;

function byCallback<A extends unknown[]>(work: (...words: A) => Promise<unknown>) {
  return (...words: [...A, Then]): void => {
    const then = words.pop() as Then;
    work(...(words as unknown as A)).then(
      (found) => then(null, found),
      (error: Error) => then(error),
    );
  };
}

export const lstat = byCallback((path: string, asked?: Parameters<typeof files.lstat>[1]) => files.lstat(path, asked));
export const mkdir = byCallback((path: string) => files.mkdir(path));
export const realpath = byCallback((path: string) => files.realpath(path));
export const rmdir = byCallback((path: string) => files.rmdir(path));
export const stat = byCallback((path: string) => files.stat(path));
export const utimes = byCallback(files.utimes);
export const rmdirSync = (path: string) => void files.rmdir(path);

export const existsSync = (path: string): boolean => {
  try {
    return files.at(path).node !== undefined;
  } catch {
    return false;
  }
};

export const readFileSync = (path: string, as?: string) => {
  const { bytes } = files.mustBeThere(path);
  return as === undefined ? bytes : bytes.toString("utf8");
};

export const lstatSync = (path: string) => files.statsOf(files.mustBeThere(path, false));

export async function* createReadStream(path: string): AsyncGenerator<Buffer> {
  yield (await files.readFile(path)) as Buffer;
}

export function watch(path: string, _options: unknown, heard: (kind: string, name: string) => void) {
  const folder = files.mustBeThere(path);
  const { process } = world;
  const watcher: DiskWatcher & { on(): void; close(): void } = {
    folder,
    told: (name) => {
      world.later(world.random() * folder.disk.faults.late, () => heard("change", name), process);
    },
    on: () => {},
    close: () => {
      folder.disk.watchers.delete(watcher);
      process.open.delete(watcher);
    },
  };
  folder.disk.watchers.add(watcher);
  process.open.add(watcher);
  return watcher;
}
