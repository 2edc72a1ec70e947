/**
 * A client for pages: flags as their service judges them, at the first paint and whenever they change.
 *
 * @module iudex/page
 */
export {
  type FollowPageOptions,
  followPage,
  type PageFlags,
  type PageProblem,
  type PageSnapshot,
  type Told,
} from "./page/index.ts";
