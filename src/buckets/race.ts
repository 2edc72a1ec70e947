import { Bucket } from "./bucket.ts";

/** A variant and its parts of a split, 0 or more. */
export interface Entrant {
  readonly variant: string;
  readonly parts: number;
}

/** What one entrant needed; the shortest time wins. */
export interface Finish extends Entrant {
  /** In units of its own: infinite for an entrant without parts. */
  readonly time: number;
}

const range = 2 ** 32;

/**
 * Divides ids between variants, each in proportion to its parts. Every variant draws a time of its own for an id,
 * exponentially distributed with its parts as the rate, and the shortest wins. So whoever changes one variant's parts
 * moves people only to or from that variant, and nobody between two whose ratio stays, whatever the order.
 *
 * The draw is the one of weighted rendezvous hashing (D. G. Thaler and C. V. Ravishankar, “Using name-based mappings to
 * increase hit rates”, 1998, with logarithmic weights): −ln of a uniform number, divided by the weight.
 *
 * @example new Race("seat-map", [{ variant: "classic", parts: 2 }, { variant: "deck", parts: 1 }]).winner("A-17")
 */
export class Race {
  /** Those with parts, by name: of equal times the first by code point wins. */
  private readonly runners: readonly { readonly entrant: Entrant; readonly bucket: Bucket }[];

  constructor(salt: string, entrants: readonly Entrant[]) {
    this.runners = entrants
      .filter(({ parts }) => parts > 0)
      .toSorted((a, b) => (a.variant < b.variant ? -1 : 1))
      .map((entrant) => ({ entrant, bucket: new Bucket("split", `${salt}:${entrant.variant}`) }));
  }

  /** The variant that an id gets. */
  winner(id: string): string {
    const { runners } = this;
    let best = runners[0]!;
    let shortest = timeOf(best, id);
    for (let i = 1; i < runners.length; i++) {
      const time = timeOf(runners[i]!, id);
      if (time >= shortest) continue;
      best = runners[i]!;
      shortest = time;
    }
    return best.entrant.variant;
  }

  /** Every entrant's time for an id, the winner first. */
  times(id: string): readonly Finish[] {
    return this.runners
      .map((runner) => ({ ...runner.entrant, time: timeOf(runner, id) }))
      .sort((a, b) => a.time - b.time);
  }
}

function timeOf({ entrant, bucket }: { readonly entrant: Entrant; readonly bucket: Bucket }, id: string): number {
  return -Math.log((bucket.hash(id) + 0.5) / range) / entrant.parts;
}
