// The catalogue of problem codes, and the one shape of anything that is wrong.
export { type ProblemCode, type ProblemKind, problemCatalogue } from "./catalogue.ts";
export {
  at,
  atKey,
  type Fault,
  inText,
  maxProblems,
  type Path,
  type Place,
  type Problem,
  type ProblemDetails,
  Problems,
  pointer,
  problem,
  type RelatedPlace,
  type Span,
  type TextFault,
} from "./problem.ts";
