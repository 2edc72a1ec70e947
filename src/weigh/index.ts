// What came of a flag: who got what and what followed, group beside group, and no more than can be said.

export type { MeasureKind } from "./estimate.ts";
export type { FlagVersion } from "./experiment.ts";
export { factsOf, headOf } from "./facts.ts";
export type { Interval } from "./interval.ts";
export type { Difference, Figure, Guard, WeighedMeasure } from "./judge-measure.ts";
export type { LeftOut } from "./left-out.ts";
export { type PictureOptions, weighingPicture } from "./picture.ts";
export { peopleNeeded, type SampleSizeRequest } from "./plan.ts";
export { type SqlDialect, sumsQuery } from "./query.ts";
export type { Columns } from "./rows.ts";
export { versionsOf } from "./versions.ts";
export { type Weighing, type WeighRequest, weigh } from "./weigh.ts";
export { type Direction, digitsFor, fixed, type Margin, round, type Saying, shown } from "./words.ts";
