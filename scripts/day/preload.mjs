// Loaded first by every process of a test run that is not held today.
import { shiftClock } from "./shift-clock.mjs";

shiftClock(Number(process.env.IUDEX_CLOCK_SHIFT));
