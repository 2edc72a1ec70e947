/** The path of a program; undefined where there is none. */
export function findProgram(name: string): string | undefined;
/** The engines that are not here. */
export function missingEngines(): string[];
/** Installs what is missing if this is a Debian on which we may; gives what is missing still. */
export function ensureEngines(): string[];
