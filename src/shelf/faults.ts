/** What is wrong with an edition itself: trying again will not help, another edition may. The message ends a sentence. */
export class EditionFault extends Error {
  override readonly name = "EditionFault";
}

/** What a shelf does not do at the moment: it does not answer, or a file is not there yet. */
export class ShelfFault extends Error {
  override readonly name: string = "ShelfFault";
  /** How long the shelf wants to be left alone, in milliseconds. */
  readonly wait: number | undefined;

  constructor(message: string, { wait, cause }: { readonly wait?: number | undefined; readonly cause?: unknown } = {}) {
    super(message, { cause });
    this.wait = wait;
  }
}

/** A shelf that has not answered in time. */
export class SilentFault extends ShelfFault {}

/** A shelf that answers, and has not all that its newest edition lists: the rest may be on its way. */
export class IncompleteFault extends ShelfFault {}

/** Why something failed, in words: those of the cause, where there is one that says more. */
export function reasonOf(error: unknown): string {
  if (!(error instanceof Error)) return String(error);
  const { cause } = error;
  const isOurs = error instanceof ShelfFault || error instanceof EditionFault;
  return wordsOf(!isOurs && cause instanceof Error ? cause : error);
}

/** Errors of connections often have a code and no words; a list of them has those of its members. */
function wordsOf(error: Error): string {
  const { code, errors } = error as { code?: string; errors?: unknown };
  if (error.message !== "") return error.message;
  const first: unknown = Array.isArray(errors) ? errors[0] : undefined;
  return first instanceof Error ? first.message : (code ?? error.name);
}
