import { mkdtemp, readdir, rm, stat } from "node:fs/promises";
import { hostname } from "node:os";
import { join } from "node:path";

/**
 * Makes a folder for this process alone, whose name says whose it is: nobody else takes it away while the process lives.
 * What processes that are no more have left there is removed first, since one that is killed clears nothing.
 *
 * @param above where it is made; containers may share it, so that a process is known by machine and number
 * @param purpose what it holds, for its name
 * @throws where no folder can be made
 */
export async function makeOwnFolder(above: string, purpose: string): Promise<string> {
  const prefix = `iudex-${purpose}-${hostname().replace(/[^a-zA-Z0-9.]/g, "_")}-`;
  const made = await mkdtemp(join(above, `${prefix}${process.pid}-`));
  own.add(made);
  // By the clock of the disk, which may be another machine's.
  const started = (await stat(made)).mtimeMs - process.uptime() * 1_000;
  await removeLeftBehind(above, prefix, started);
  return made;
}

/** Made by this process. */
const own = new Set<string>();

async function removeLeftBehind(above: string, prefix: string, started: number): Promise<void> {
  for (const name of await readdir(above).catch(() => [])) {
    const [, id] = name.startsWith(prefix) ? (/^(\d+)-/.exec(name.slice(prefix.length)) ?? []) : [];
    if (id === undefined) continue;
    const path = join(above, name);
    if (!(await isInUse(path, Number(id), started))) await rm(path, { recursive: true, force: true }).catch(() => {});
  }
}

/** How coarse the clock of a file system may be, in milliseconds. */
const apart = 5_000;

/** By a process that lives. Where it bears this one's number, an earlier one may have: in containers most bear 1. */
async function isInUse(path: string, id: number, started: number): Promise<boolean> {
  if (id !== process.pid) return isAlive(id);
  if (own.has(path)) return true;
  const found = await stat(path).catch(() => undefined);
  return found !== undefined && found.mtimeMs > started - apart;
}

function isAlive(id: number): boolean {
  try {
    return process.kill(id, 0);
  } catch (error) {
    // It is there, and somebody else's.
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}
