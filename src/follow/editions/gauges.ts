import type { Flags } from "../../flags/index.ts";

/** What of a meter of OpenTelemetry is used. */
export interface GaugeMeter {
  /** Makes a gauge that is asked for its value. */
  createObservableGauge(
    name: string,
    options: { readonly description: string; readonly unit: string },
  ): ObservableGauge;
}

/** A gauge that asks for its value when the meter is read. */
export interface ObservableGauge {
  /** Begins to be asked. */
  addCallback(callback: (result: GaugeResult) => void): void;
  /** Is asked no more. */
  removeCallback(callback: (result: GaugeResult) => void): void;
}

/** Takes the value of a gauge. */
export interface GaugeResult {
  /** Says the value now. */
  observe(value: number, attributes?: Record<string, string>): void;
}

/**
 * Tells where a follower stands, by the program's own meter: `iudex.edition` (the number in force),
 * `iudex.edition.age` (seconds since the shelf confirmed that it is the newest) and `iudex.edition.refused` (the number
 * of the newest edition while it is refused, or the least that it can have where it cannot be read; else 0), each with
 * the attribute `iudex.set`.
 *
 * @returns a function that ends it
 *
 * @example const end = shelfGauges(flags, metrics.getMeter("iudex"));
 */
export function shelfGauges(flags: Pick<Flags<never>, "origin">, meter: GaugeMeter): () => void {
  const gauges = [
    gauge("iudex.edition", "The edition in force", "{edition}", ({ edition }) => edition),
    gauge("iudex.edition.age", "Since the shelf confirmed the edition", "s", ({ confirmed }) =>
      Math.max(0, (Date.now() - confirmed.getTime()) / 1_000),
    ),
    gauge("iudex.edition.refused", "The newest edition while it is refused", "{edition}", ({ refused, edition }) =>
      refused ? (refused.edition ?? edition + 1) : 0,
    ),
  ];
  const ends = gauges.map((begin) => begin(meter, flags));
  return () => {
    for (const end of ends) end();
  };
}

type ShelfOrigin = Extract<Flags["origin"], { kind: "shelf" }>;

function gauge(name: string, description: string, unit: string, value: (origin: ShelfOrigin) => number) {
  return (meter: GaugeMeter, flags: Pick<Flags<never>, "origin">) => {
    const made = meter.createObservableGauge(name, { description, unit });
    const callback = (result: GaugeResult) => {
      const { origin } = flags;
      if (origin.kind === "shelf") result.observe(value(origin), { "iudex.set": origin.set });
    };
    made.addCallback(callback);
    return () => made.removeCallback(callback);
  };
}
