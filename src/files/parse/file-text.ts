import { promisify } from "node:util";

/** What is shorter than this, in UTF-16 units, is not worth packing. */
const shortest = 2_000;

/**
 * The text of a file. A service looks at it only when something must be pointed at or written down, so it is put away
 * deflated (RFC 1951): JSON and YAML then take a tenth.
 */
export class FileText {
  #whole: () => string;
  #isAway: boolean;

  constructor(text: string) {
    this.#whole = () => text;
    this.#isAway = text.length < shortest;
  }

  get whole(): string {
    return this.#whole();
  }

  /** Packs the text, elsewhere than on this thread. What is loaded for it is needed by nobody who follows nothing. */
  async putAway(): Promise<void> {
    if (this.#isAway) return;
    this.#isAway = true;
    const { constants, deflateRaw, inflateRawSync } = await import("node:zlib");
    const deflated = await promisify(deflateRaw)(this.whole, { level: constants.Z_BEST_SPEED });
    // What was handed out is a part of a larger piece of memory.
    const packed = Uint8Array.from(deflated);
    this.#whole = () => inflateRawSync(packed).toString();
  }
}
