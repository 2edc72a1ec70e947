import type { Context } from "hono";
import { NothingToChange } from "../edit/index.ts";
import { ToolError } from "../files/index.ts";
import type { Access, Refusal } from "./access.ts";
import { DeskFault } from "./desk-fault.ts";
import type { DeskFolder } from "./desk-folder.ts";
import type { Permission, ProblemAnswer, Visitor } from "./protocol.ts";
import type { DeskScales } from "./weighing.ts";

/** What a request is handed on with. */
export interface DeskEnv {
  readonly Bindings: {
    readonly visitor: Visitor;
    /** Who asks, as the program says now. */
    askAgain(): Promise<Visitor | undefined>;
  };
  readonly Variables: { readonly visitor: Visitor };
}

/** What answers requests has of its desk. */
export interface DeskParts {
  readonly desk: DeskFolder;
  readonly access: Access;
  readonly scales: DeskScales;
  /** The environment asked for at first. */
  readonly environment: string | undefined;
  readonly readOnly: boolean;
  /** Epoch milliseconds. */
  readonly clock: () => number;
  failed(error: unknown): void;
}

/** What a visitor may do at this desk. */
export function mayOf({ may }: Visitor, { readOnly }: DeskParts): readonly Permission[] {
  return readOnly ? may.filter((each) => each === "look") : may;
}

/** @throws {DeskFault} for a visitor who may not do this */
export function requireMay(c: Context<DeskEnv>, parts: DeskParts, permission: Permission): void {
  if (mayOf(c.get("visitor"), parts).includes(permission)) return;
  const words = { look: "look", suspend: "stop flags", change: "change definitions" }[permission];
  throw new DeskFault(403, parts.readOnly ? "This desk is for looking only." : `You may not ${words} here.`);
}

/** Answers with why nothing is done, as RFC 9457 has it. */
export function refused(problem: ProblemAnswer | Refusal): Response {
  const headers = { ...guards, "content-type": "application/problem+json", "cache-control": "no-store" };
  return new Response(JSON.stringify(problem), { status: problem.status, headers });
}

/** The one answer to strangers, who must not learn that there is a desk, and to addresses that do not exist. */
export function nothingHere(): Response {
  return refused({ status: 404, title: "There is nothing here." });
}

const policy = [
  "default-src 'none'",
  "font-src 'self'",
  "script-src 'self'",
  "style-src 'self'",
  "connect-src 'self'",
  "img-src 'self'",
  "base-uri 'none'",
  "form-action 'none'",
  "frame-ancestors 'none'",
].join("; ");

/** Every answer says so, whatever it holds. */
export const guards: Readonly<Record<string, string>> = {
  "content-security-policy": policy,
  "x-content-type-options": "nosniff",
  "x-frame-options": "DENY",
  "referrer-policy": "no-referrer",
  "cross-origin-opener-policy": "same-origin",
  "cross-origin-resource-policy": "same-origin",
};

/** What is said of a fault that somebody at the page can do something about. */
export function problemOf(error: unknown): ProblemAnswer | undefined {
  if (error instanceof DeskFault) return { status: error.status, title: error.message, detail: error.help };
  if (error instanceof ToolError) return { status: 409, title: error.message, detail: error.help };
  if (error instanceof NothingToChange) return { status: 409, title: error.message };
  return undefined;
}
