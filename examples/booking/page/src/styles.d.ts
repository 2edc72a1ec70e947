/** Styles are bundled by the build. */
declare module "*.css";
