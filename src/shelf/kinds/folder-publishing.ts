import { link, mkdir, open, readdir, rm, stat, utimes } from "node:fs/promises";
import { join } from "node:path";
import { diskTime, reasonOf, writeAside, writeNew } from "../../files/index.ts";
import { ShelfFault } from "../faults.ts";
import { claimedIn } from "../list-text.ts";
import {
  type FilePlace,
  type ListName,
  type NewFile,
  type NewList,
  type PublishingPlace,
  putWith,
  unusedFor,
} from "../place.ts";
import { listAt, shelved } from "./folder-lists.ts";

/**
 * Publishing never rests on a lock, which a publisher can sleep through. A number is claimed by making its file
 * exclusively; who has claimed it points at it, and goes on to what others have claimed after it. Who finds a number that
 * is claimed and not pointed at finishes it first.
 */
export function publishingIn(directory: string): PublishingPlace {
  return {
    prepare: async () => void (await mkdir(directory, { recursive: true })),
    // Only the last part of a path: the rest of it may be a mount that is away.
    begin: () => mkdir(directory).catch(() => {}),
    put: async (list, files, base) => {
      try {
        return await put(directory, list, files, base);
      } catch (error) {
        if (error instanceof ShelfFault) throw error;
        throw new ShelfFault(`“${directory}” cannot be written: ${reasonOf(error)}.`, { cause: error });
      }
    },
    forget: (named) => forget(join(directory, "files"), named),
  };
}

async function put(
  directory: string,
  { name, number, text }: NewList,
  files: readonly NewFile[],
  base: number | undefined,
): Promise<boolean> {
  await mkdir(join(directory, shelved[name]), { recursive: true });
  await pointOn(directory, name);
  if ((await pointedAt(directory, name)) !== base) return false;
  const claim = async () => {
    if (!(await claimed(join(directory, shelved[name], `${number}.json`), text))) return false;
    await pointAt(directory, name, text);
    await pointOn(directory, name);
    return true;
  };
  if (files.length === 0) return claim();
  const home = join(directory, "files");
  await mkdir(home, { recursive: true });
  const now = new Date(await diskTime(home));
  const place: FilePlace = {
    missing: (all) => missingIn(home, all, now),
    putFile: async (file) => writeAside(join(home, file.sha256), await file.read(), shared),
  };
  return putWith(place, files, claim);
}

/** @param now by the clock of the disk */
async function missingIn(home: string, files: readonly NewFile[], now: Date): Promise<readonly NewFile[]> {
  const missing: NewFile[] = [];
  for (const file of files) {
    const path = join(home, file.sha256);
    const found = await stat(path).catch(() => undefined);
    const isThere = found?.isFile() === true && found.size === file.bytes;
    // What cannot be touched, since it is somebody else's, is written anew.
    const isTouched = isThere && (isFresh(found, now) || (await touched(path, now)));
    if (!isTouched) missing.push(file);
  }
  return missing;
}

/** Nobody removes it for most of a day. */
function isFresh({ mtimeMs }: { readonly mtimeMs: number }, now: Date): boolean {
  return mtimeMs > now.getTime() - unusedFor / 8;
}

async function touched(path: string, now: Date): Promise<boolean> {
  return utimes(path, now, now).then(
    () => true,
    () => false,
  );
}

async function forget(home: string, named: ReadonlySet<string>): Promise<number> {
  const now = await diskTime(home);
  let removed = 0;
  for (const name of await readdir(home)) {
    if (!/^[0-9a-f]{64}$/.test(name) || named.has(name)) continue;
    const path = join(home, name);
    const found = await stat(path).catch(() => undefined);
    if (!found || found.mtimeMs > now - unusedFor) continue;
    await rm(path, { force: true });
    removed++;
  }
  return removed;
}

/** What a web server or another user reads too, as far as the umask lets them. */
const shared = 0o666;

/** What file systems say that know no hard links; there the file is made exclusively under its own name. */
const withoutLinks = new Set(["EPERM", "ENOTSUP", "EOPNOTSUPP", "ENOSYS"]);

/** False where the number is taken. The file is there whole or not at all. */
async function claimed(path: string, text: string): Promise<boolean> {
  const aside = join(path, "..", `.${crypto.randomUUID()}.tmp`);
  const file = await open(aside, "wx", shared);
  try {
    await file.writeFile(text);
    await file.sync();
    await link(aside, path);
    return true;
  } catch (error) {
    const { code = "" } = error as NodeJS.ErrnoException;
    if (code === "EEXIST") return false;
    if (!withoutLinks.has(code)) throw error;
    return await writeNew(path, text, shared).then(
      () => true,
      () => false,
    );
  } finally {
    await file.close();
    await rm(aside, { force: true });
  }
}

async function pointAt(directory: string, name: ListName, text: string): Promise<void> {
  await writeAside(join(directory, `${name}.json`), Buffer.from(text), shared);
}

/** Points at what is claimed behind the list that is pointed at, until there is nothing more. */
async function pointOn(directory: string, name: ListName): Promise<void> {
  for (;;) {
    const next = ((await pointedAt(directory, name)) ?? 0) + 1;
    const text = await listAt(join(directory, shelved[name], `${next}.json`));
    if (text === undefined || claimedIn(text).number !== next) return;
    await pointAt(directory, name, text);
  }
}

async function pointedAt(directory: string, name: ListName): Promise<number | undefined> {
  const text = await listAt(join(directory, `${name}.json`));
  return text === undefined ? undefined : claimedIn(text).number;
}
