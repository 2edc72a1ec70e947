import { world } from "./clock.ts";

export const hostname = () => world.process.machine;
export const tmpdir = () => "/tmp";

export const homedir = () => "/home";
