import { createWriteStream, mkdirSync, type WriteStream } from "node:fs";
import { join } from "node:path";
import { finished } from "node:stream/promises";
import { type Flags, verdictLog } from "iudex";
import type { BookingCatalogue } from "./catalogue.js";

/** Who got what, and what came of it: two files, from which `iudex weigh` tells what a flag has done. */
export class Records {
  /** Their paths, as the desk of the crew reads them. */
  readonly files: { readonly verdicts: string; readonly outcomes: string };
  readonly #verdicts: WriteStream;
  readonly #outcomes: WriteStream;

  constructor(folder: string) {
    mkdirSync(folder, { recursive: true });
    this.files = { verdicts: join(folder, "verdicts.ndjson"), outcomes: join(folder, "outcomes.ndjson") };
    this.#verdicts = createWriteStream(this.files.verdicts, { flags: "a" });
    this.#outcomes = createWriteStream(this.files.outcomes, { flags: "a" });
  }

  /** Notes each verdict once: the first one counts. */
  follow(flags: Flags<BookingCatalogue>): void {
    flags.on("verdict", verdictLog(this.#verdicts), { distinct: true });
  }

  /** Notes what a traveller did, under the id that the flags go by; of strangers nothing is noted. */
  note(account: string | null, at: number, came: Readonly<Record<string, number | undefined>>): void {
    if (account === null) return;
    for (const [measure, value] of Object.entries(came))
      this.#outcomes.write(`${JSON.stringify({ subject: account, at: new Date(at).toISOString(), measure, value })}\n`);
  }

  async close(): Promise<void> {
    this.#verdicts.end();
    this.#outcomes.end();
    await Promise.all([finished(this.#verdicts), finished(this.#outcomes)]);
  }
}
