import { inSlices, type Loaded, type LocatedProblem, settleRevision } from "../files/index.ts";
import {
  accepted,
  type Feeding,
  type HealthProblem,
  type Origin,
  rejected,
  requireEnvironment,
  type State,
  summariseProblems,
  withSuspensions,
} from "../flags/index.ts";
import { compareInSteps, compareSets } from "../insight/index.ts";
import { type Definitions, shortRevision } from "../model/index.ts";
import { printable } from "../values/index.ts";

type Suspensions = Definitions["suspensions"];

/** What was read, on its way into force. */
export interface Incoming {
  readonly loaded: Loaded;
  /** Where it was read, for messages. */
  readonly called: string;
  readonly environment: string | undefined;
  /** The suspensions that it brings; undefined where it is not certain what they are. Asked anew at each step. */
  suspensions(): Suspensions | undefined;
  origin(): Origin;
  /** Aborted when the flags are closed. */
  readonly closing: AbortSignal;
}

/**
 * Puts what was read into force, or says why it is refused: the old set then goes on, but for its suspensions. Nothing
 * keeps the event loop waiting.
 *
 * @returns "closed" where nothing was done, since the flags were closed meanwhile
 */
export async function putIntoForce(feeding: Feeding, incoming: Incoming): Promise<"taken" | "refused" | "closed"> {
  const { loaded } = incoming;
  const { memory } = loaded.content.tools;
  const { closing } = incoming;
  const definitions = await usable(feeding, incoming);
  const step = (state: State) => nextOf(state, definitions, incoming);
  const tell = () => (definitions ? reportFaults(feeding, loaded.problems) : reject(feeding, loaded.problems));
  if (!(await advanceBy(step, feeding, { memory, closing, tell }))) return "closed";
  if (definitions) tellHealth(feeding, loaded);
  return definitions ? "taken" : "refused";
}

/** How a step is worked out. */
interface Advancing {
  readonly memory: Loaded["content"]["tools"]["memory"];
  /** Aborted when the flags are closed. */
  readonly closing: AbortSignal;
  /** Called before the step is in force. */
  tell?(): void;
}

/**
 * Takes a step. What changes by it is worked out first, with pauses; whatever happens meanwhile is left for it as well.
 *
 * @returns false where nothing was done, since the flags were closed meanwhile
 */
export async function advanceBy(
  step: (state: State) => State,
  feeding: Feeding,
  { memory, closing, tell }: Advancing,
): Promise<boolean> {
  const before = feeding.store.state;
  const next = step(before);
  await settleRevision(next.inForce, memory, closing);
  const changes = await inSlices(compareInSteps(before.inForce, next.inForce), closing);
  if (closing.aborted) return false;
  tell?.();
  // Somebody may have gone back in the meantime; then it is another set that is left.
  const state = feeding.store.state;
  const now = state === before ? next : step(state);
  feeding.advance(now, state === before ? changes : compareSets(state.inForce, now.inForce));
  return true;
}

/** While `suspended.yaml` cannot be read, what was suspended last goes on: that is not sound. */
function tellHealth(feeding: Feeding, { suspensions, problems }: Loaded): void {
  if (suspensions) feeding.sound();
  else feeding.unsound(healthProblems(problems, "What is suspended cannot be read."));
}

/** The set with the suspensions of now, its revision worked out; undefined where it cannot be used here. */
async function usable(feeding: Feeding, incoming: Incoming): Promise<Definitions | undefined> {
  const { definitions, content } = incoming.loaded;
  if (!definitions || !fits(feeding, definitions, incoming)) return undefined;
  const set = withSuspensions(definitions, incoming.suspensions() ?? feeding.store.state.files.suspensions);
  await settleRevision(set, content.tools.memory, incoming.closing);
  return set;
}

/** A change that takes this program's environment away is refused like any other broken one. */
function fits(feeding: Feeding, definitions: Definitions, { environment, called }: Incoming): boolean {
  try {
    requireEnvironment(definitions, environment, called);
    return true;
  } catch (error) {
    feeding.report(error instanceof Error ? error.message : String(error));
    return false;
  }
}

function nextOf(state: State, definitions: Definitions | undefined, incoming: Incoming): State {
  const suspensions = incoming.suspensions();
  if (!definitions) return rejected(state, suspensions);
  return accepted(state, withSuspensions(definitions, suspensions ?? state.files.suspensions), incoming.origin());
}

/** Errors that leave a set usable: faults of the suspension file, mostly. */
function reportFaults(feeding: Feeding, problems: readonly LocatedProblem[]): void {
  const faults = errorsIn(problems);
  if (faults.length === 0) return;
  feeding.report(`Taken with faults: ${summariseProblems(faults)}`, faults);
}

/** Errors one by one; what there is to say where there are none. */
export function healthProblems(problems: readonly LocatedProblem[], otherwise: string): HealthProblem[] {
  const errors = errorsIn(problems).map((located) => ({ message: located.message, located }));
  return errors.length > 0 ? errors : [{ message: otherwise }];
}

function reject(feeding: Feeding, problems: readonly LocatedProblem[]): void {
  const { revision } = feeding.store.state.inForce;
  const summary = printable(`definitions ${shortRevision(revision)} stay in force: ${summariseProblems(problems)}`);
  feeding.emit("rejected", { revision, at: new Date(), problems, summary });
  feeding.unsound(healthProblems(problems, summary));
}

export function errorsIn(problems: readonly LocatedProblem[]): readonly LocatedProblem[] {
  return problems.filter(({ severity }) => severity === "error");
}
