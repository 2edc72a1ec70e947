/** The path of Chromium; undefined where there is none. */
export function findChromium(): string | undefined;
/** Installs Debian's Chromium where this machine lets us; gives its path, if there is one. */
export function ensureChromium(): string | undefined;
