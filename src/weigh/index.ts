// What came of a flag: who got what and what followed, group beside group, and no more than can be said.

export type { MeasureKind } from "./estimate.ts";
export type { FlagVersion } from "./experiment.ts";
export type { Interval } from "./interval.ts";
export type { DayFigure, Difference, Figure, GroupFigure, Guard, WeighedMeasure } from "./judge-measure.ts";
export { weighingPicture } from "./picture.ts";
export { type PeopleNeeded, type PlanRequest, peopleNeeded } from "./plan.ts";
export { type SqlDialect, sumsQuery } from "./query.ts";
export type { Columns } from "./rows.ts";
export { versionsOf } from "./versions.ts";
export { type Scales, type Weighing, type WeighRequest, weigh } from "./weigh.ts";
export { type Direction, digitsFor, fixed, type Margin, round, type Saying, shown } from "./words.ts";
