// Plain data, names, percents, versions, texts and answers: what every other room is made of.
export { type Answer, type AnswerWord, answerWord, FALSE, opposite, TRUE, UNDECIDED, yes } from "./answer.ts";
export {
  canonicalJson,
  canonicalJsonWith,
  copyData,
  type Data,
  deepFreeze,
  describeKind,
  findNotPlain,
  hasOwn,
  isObject,
  own,
  type Plain,
  type PlainFault,
  sameData,
  show,
  type ValueType,
  valueTypeOf,
} from "./data.ts";
export { intern } from "./intern.ts";
export { namesChanged, withMembers } from "./layered-map.ts";
export { limits } from "./limits.ts";
export { memo } from "./memo.ts";
export { didYouMean, isName, nameRule, nameSource, nearest, noSuch, sentenceList } from "./names.ts";
export { compilePattern, patternFault } from "./pattern.ts";
export { parsePercent, parseRange, type Range, shareSource, shownPercents, showPercent, showRange } from "./percent.ts";
export { printable, printableLines } from "./printable.ts";
export { dayExists, parseTime, readDate, readTime, type TimeLiteral } from "./time.ts";
export { compareVersions, compareWithVersion, parseVersion, type VersionLiteral } from "./version.ts";
