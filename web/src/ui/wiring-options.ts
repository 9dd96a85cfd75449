import type { Option } from "./choice";
import { mixedWiringsFor, wiringKey, wiringsFor, wiringWords } from "./wirings";

/** The wirings an amplifier of so many channels can have, as options of a choice; mixed ones too where loads can be typed a group. */
export const wiringOptions = (channels: number, mixed = false): Option[] =>
  [...wiringsFor(channels), ...(mixed ? mixedWiringsFor(channels) : [])].map((wiring) => [wiringKey(wiring), wiringWords(wiring)]);
