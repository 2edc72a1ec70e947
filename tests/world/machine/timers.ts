import { world } from "./clock.ts";

export const setImmediate = () => world.sleep(0);

export const setTimeout = (milliseconds: number) => world.sleep(milliseconds);
