/**
 * The desk: a page for people who do not edit definition files, mounted in a service.
 *
 * @module iudex/desk
 */
export {
  type Desk,
  type DeskOptions,
  type DeskRecord,
  deskHandler,
  type Permission,
  type Visitor,
} from "./desk/index.ts";
