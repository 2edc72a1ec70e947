import { parse } from "cookie";

/** One cookie of a `Cookie` header. */
export function parseCookie(header: string | undefined, name: string): string | undefined {
  return header === undefined ? undefined : parse(header)[name] || undefined;
}
