import { createHash } from "node:crypto";
import { mkdir, readdir, rm } from "node:fs/promises";
import { join } from "node:path";
import { readSuspensions, type Suspensions, saysSuspensions, writtenStop } from "../../model/index.ts";
import { Problems } from "../../problems/index.ts";
import { limits } from "../../values/index.ts";
import { removeAbandoned } from "../abandoned.ts";
import { suspendedFile } from "../file-name.ts";
import { documentOf } from "../parse/parsed-file.ts";
import { readSource } from "../parse/text-reader.ts";
import { reasonOf } from "../reason.ts";
import { type Blob, Blobs } from "./blobs.ts";
import { readSealed, remarkOnDirectory, writeSealed } from "./sealed.ts";

// A folder for good copies:
//
//   key                          signs the records; open to its owner only
//   files/<sha256>               bytes, each once
//   sets/<source>/good.json      which files make the last good sets of a source, newest first
//   sets/<source>/stops.json     what was suspended last, by the files of a folder
//   sets/<source>/stops/<number>.<digest>.json   lists of stops of a shelf, each as it was signed

/** Where the sets come from that are kept: two sources never share a record. */
export interface KeepSource {
  readonly kind: "folder" | "shelf";
  readonly called: string;
}

/** A file of a set that is kept. */
export interface KeptFile extends Blob {
  readonly name: string;
}

/** A set that is kept. */
export interface KeptSet {
  readonly savedAt: string;
  readonly files: readonly KeptFile[];
  /** What was read of the files, where reading takes long. */
  readonly parsed?: Blob;
  /** What the list of an edition says. */
  readonly edition?: string;
}

/** The sets of a source that are kept, newest first. */
export interface KeptRecord {
  readonly sets: readonly KeptSet[];
  /** Of a shelf: the highest number that was ever seen and verified. */
  readonly seen?: number;
  /** Of a shelf: the `kid` of the key that signed it. */
  readonly kid?: string | undefined;
  /** Of a shelf: when it confirmed the newest of them last, epoch milliseconds. */
  readonly confirmed?: number;
}

/** What was suspended at a moment. */
export interface KeptSuspensions {
  readonly suspensions: Suspensions;
  readonly savedAt: string;
}

/** Sets that are kept; the oldest go. */
const maxKept = 3;

/** Where the lists of stops stand. */
const stopsFolder = "stops";

/** The form of the records; one of another form is not used. */
const form = 1;

/** Keeps the last good sets of one source: a start succeeds with them while the source is broken or away. */
export class Keep {
  readonly directory: string;
  readonly blobs: Blobs;
  readonly #source: KeepSource;
  readonly #home: string;
  /** The faults of the copies that exist, each once. */
  readonly faults: string[] = [];

  constructor(directory: string, source: KeepSource) {
    this.directory = directory;
    this.#source = source;
    this.blobs = new Blobs(join(directory, "files"));
    const name = createHash("sha256")
      .update(JSON.stringify([source.kind, source.called]))
      .digest("hex");
    this.#home = join(directory, "sets", name.slice(0, 16));
  }

  /** What is kept; undefined where there is nothing that can be used. */
  async record(): Promise<KeptRecord | undefined> {
    return (await this.#read("good.json")) as KeptRecord | undefined;
  }

  /** Puts a set in front of those that are kept. @throws where it cannot be kept */
  async keep(set: KeptSet, more: Omit<KeptRecord, "sets"> = {}): Promise<void> {
    const before = await this.record();
    const isSame = (other: KeptSet) => nameOf(other) === nameOf(set);
    const sets = [set, ...(before?.sets ?? []).filter((other) => !isSame(other))].slice(0, maxKept);
    await this.#write("good.json", { sets, ...more });
    await this.#forget();
  }

  /** What was suspended last; undefined where that is not known. */
  async suspended(): Promise<KeptSuspensions | undefined> {
    const kept = (await this.#read("stops.json")) as { savedAt: string; suspended: string } | undefined;
    if (!kept) return undefined;
    const document = documentOf(suspendedFile, await readSource(suspendedFile, kept.suspended));
    if (!saysSuspensions(document)) return undefined;
    return { suspensions: readSuspensions(document, new Problems()), savedAt: kept.savedAt };
  }

  /** An emergency stop is made, and ended, while the other files are broken too, and no copy of those is kept then. */
  async keepSuspended(suspensions: Suspensions): Promise<void> {
    await this.#write("stops.json", { savedAt: new Date().toISOString(), suspended: suspendedText(suspensions) });
  }

  /** The lists of stops of a shelf that were seen, the highest number first. */
  async stopsLists(): Promise<readonly string[]> {
    const found: { readonly number: number; readonly list: string }[] = [];
    for (const name of await readdir(join(this.#home, stopsFolder)).catch(() => [])) {
      const record = (await this.#read(join(stopsFolder, name))) as { number: number; list: string } | undefined;
      if (record) found.push(record);
    }
    return found.toSorted((one, other) => other.number - one.number).map(({ list }) => list);
  }

  /** Keeps a list of stops, in a file of its own: of two processes none writes over what the other has seen. */
  async keepStopsList(number: number, list: string): Promise<void> {
    const digest = createHash("sha256").update(list).digest("hex").slice(0, 8);
    await mkdir(join(this.#home, stopsFolder), { recursive: true, mode: 0o700 });
    await this.#write(join(stopsFolder, `${number}.${digest}.json`), { number, list });
    const names = await readdir(join(this.#home, stopsFolder));
    const older = names.filter((name) => Number.parseInt(name, 10) <= number - maxKept);
    for (const name of older) await rm(join(this.#home, stopsFolder, name), { force: true });
  }

  async #read(name: string): Promise<object | undefined> {
    try {
      const remark = await remarkOnDirectory(this.directory);
      if (remark !== undefined) this.#fault(remark);
      const record = (await readSealed(this.directory, join(this.#home, name))) as Record<string, unknown> | undefined;
      const isOurs = record?.["form"] === form && record["source"] === this.#source.called;
      return isOurs ? record : undefined;
    } catch (error) {
      return this.#fault(`What is kept in “${join(this.#home, name)}” cannot be used: ${reasonOf(error)}.`);
    }
  }

  #fault(message: string): undefined {
    if (!this.faults.includes(message)) this.faults.push(message);
    return undefined;
  }

  async #write(name: string, record: object): Promise<void> {
    await mkdir(this.#home, { recursive: true, mode: 0o700 });
    await writeSealed(this.directory, join(this.#home, name), { form, source: this.#source.called, ...record });
  }

  /** Removes files that no record of any source names. Where one cannot be read, nothing is removed. */
  async #forget(): Promise<void> {
    for (const directory of [this.directory, this.#home]) await removeAbandoned(directory);
    const wanted = new Set<string>();
    const home = join(this.directory, "sets");
    try {
      for (const source of await readdir(home)) {
        const record = (await readSealed(this.directory, join(home, source, "good.json"))) as KeptRecord | undefined;
        for (const { files, parsed } of record?.sets ?? [])
          for (const { sha256 } of [...files, ...(parsed ? [parsed] : [])]) wanted.add(sha256);
      }
    } catch {
      return;
    }
    await this.blobs.forget(wanted);
  }
}

function nameOf({ files, edition }: KeptSet): string {
  return edition ?? JSON.stringify(files);
}

/** A text of `suspended.yaml` that says the same. */
export function suspendedText(suspensions: Suspensions): string {
  return JSON.stringify({ iudex: limits.formatVersion, suspended: suspendedData(suspensions) });
}

/** Suspensions as `suspended.yaml` holds them, by flag. */
export function suspendedData(suspensions: Suspensions): Readonly<Record<string, object>> {
  return Object.fromEntries(
    [...suspensions].map(([flag, { stops }]) => {
      const written = stops.map(writtenStop);
      return [flag, written.length === 1 ? written[0]! : written];
    }),
  );
}
