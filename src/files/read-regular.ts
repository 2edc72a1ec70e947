import { type BigIntStats, constants } from "node:fs";
import { open } from "node:fs/promises";

const throughLinks = constants.O_RDONLY | (constants.O_NONBLOCK ?? 0);
const itself = throughLinks | (constants.O_NOFOLLOW ?? 0);

/**
 * Reads a regular file whole. Nothing is waited for: what is a pipe or a device, a link (unless those are followed), or
 * larger than it may be, is refused before it is read.
 *
 * @param isIt looks at what was opened, and at what it is when all has been read; false refuses it
 * @throws where it cannot be opened or read, or is refused
 */
export async function readRegular(
  path: string,
  most: number,
  isIt: (found: BigIntStats) => boolean = () => true,
  { links = false }: { readonly links?: boolean } = {},
): Promise<Buffer> {
  const file = await open(path, links ? throughLinks : itself);
  try {
    const found = await file.stat({ bigint: true });
    if (found.isFile() && found.size > most) throw new NotRegularFault(true);
    if (!found.isFile() || !isIt(found)) throw new NotRegularFault();
    const bytes = Buffer.allocUnsafeSlow(Number(found.size));
    let length = 0;
    while (length < bytes.length) {
      const { bytesRead } = await file.read(bytes, length, bytes.length - length, length);
      if (bytesRead === 0) throw new NotRegularFault();
      length += bytesRead;
    }
    if (!isIt(await file.stat({ bigint: true }))) throw new NotRegularFault();
    return bytes;
  } finally {
    await file.close();
  }
}

export class NotRegularFault extends Error {
  readonly isTooLarge: boolean;

  constructor(isTooLarge = false) {
    super("it is not a regular file, or is larger than it may be");
    this.isTooLarge = isTooLarge;
  }
}
