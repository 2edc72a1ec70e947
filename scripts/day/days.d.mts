export const instants: readonly string[];
export const zones: readonly string[];
export const locales: readonly string[];
/** The environment for tests of another day, with its name: drawn if left out, nothing changed by `today`. */
export function dayOf(wanted?: string): { readonly name: string; readonly env: Readonly<Record<string, string>> };
