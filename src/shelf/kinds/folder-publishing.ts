import { link, mkdir, open, rm, stat } from "node:fs/promises";
import { join } from "node:path";
import { reasonOf, writeAside, writeNew } from "../../files/index.ts";
import { ShelfFault } from "../faults.ts";
import { claimedIn } from "../list-text.ts";
import type { ListName, NewFile, NewList, PublishingPlace } from "../place.ts";
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
  if (files.length > 0) await mkdir(join(directory, "files"), { recursive: true });
  for (const file of files) await putFile(directory, file);
  if (!(await claimed(join(directory, shelved[name], `${number}.json`), text))) return false;
  await pointAt(directory, name, text);
  await pointOn(directory, name);
  return true;
}

async function putFile(directory: string, file: NewFile): Promise<void> {
  const path = join(directory, "files", file.sha256);
  const there = await stat(path).catch(() => undefined);
  if (there?.isFile() && there.size === file.bytes) return;
  await writeAside(path, await file.read(), shared);
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
