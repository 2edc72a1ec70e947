// The flags of a page: what its service tells it, held, followed, and reported when seen.
export { followPage } from "./follow-page.ts";
export type { FollowPageOptions, PageFlags, PageProblem, PageSnapshot, Told } from "./page-flags.ts";
