import fc from "fast-check";
import { expect, test } from "vitest";
import { shownPercents } from "../../src/values/index.ts";
import { runs } from "../support/runs.ts";

test("parts are rounded by the largest remainder", () => {
  expect(shownPercents([504, 495, 1], 1)).toEqual(["50.4%", "49.5%", "0.1%"]);
  expect(shownPercents([1, 1, 1], 1)).toEqual(["33.4%", "33.3%", "33.3%"]);
  expect(shownPercents([1, 1, 1], 2)).toEqual(["33.34%", "33.33%", "33.33%"]);
  expect(shownPercents([5_044, 4_956], 1)).toEqual(["50.4%", "49.6%"]);
  expect(shownPercents([0, 7], 2)).toEqual(["0.00%", "100.00%"]);
  expect(shownPercents([0, 0], 1)).toEqual(["0.0%", "0.0%"]);
  expect(shownPercents([], 1)).toEqual([]);
});

test("they add up to a hundred, none is off by as much as one unit, and none gets more than a larger one", () => {
  fc.assert(
    fc.property(
      fc.array(fc.nat(1_000_000), { minLength: 1, maxLength: 12 }),
      fc.integer({ min: 0, max: 3 }),
      (counts, digits) => {
        const whole = counts.reduce((sum, count) => sum + count, 0);
        fc.pre(whole > 0);
        const unit = 10 ** -digits;
        const shown = shownPercents(counts, digits).map((text) => Number(text.slice(0, -1)));
        expect(shown.reduce((sum, part) => sum + part, 0)).toBeCloseTo(100, 6);
        for (const [i, part] of shown.entries()) {
          expect(Math.abs(part - (counts[i]! / whole) * 100)).toBeLessThan(unit + 1e-9);
          for (const [j, other] of shown.entries())
            if (counts[i]! > counts[j]!) expect(part).toBeGreaterThanOrEqual(other);
        }
      },
    ),
    { numRuns: runs(2_000) },
  );
});
