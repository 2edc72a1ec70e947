import type { Context } from "hono";
import { NothingToChange } from "../edit/index.ts";
import { ToolError } from "../files/index.ts";
import type { Access, Refusal } from "./access.ts";
import { DeskFault } from "./desk-fault.ts";
import type { DeskFolder } from "./desk-folder.ts";
import type { Permission, ProblemAnswer, Visitor } from "./protocol.ts";

/** What a request is handed on with. */
export interface DeskEnv {
  readonly Bindings: { readonly visitor: Visitor | undefined };
  readonly Variables: { readonly visitor: Visitor };
}

/** What answers requests has of its desk. */
export interface DeskParts {
  readonly desk: DeskFolder;
  readonly access: Access;
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
export function refused(c: Context<DeskEnv>, problem: ProblemAnswer | Refusal): Response {
  return c.json(problem, problem.status as 400, { "content-type": "application/problem+json" });
}

/** What is said of a fault that somebody at the page can do something about. */
export function problemOf(error: unknown): ProblemAnswer | undefined {
  if (error instanceof DeskFault) return { status: error.status, title: error.message, detail: error.help };
  if (error instanceof ToolError) return { status: 409, title: error.message, detail: error.help };
  if (error instanceof NothingToChange) return { status: 409, title: error.message };
  return undefined;
}
