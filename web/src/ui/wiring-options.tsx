import { mixedWiringsFor, wiringKey, wiringsFor, wiringWords } from "./wirings";

/** The wirings an amplifier of so many channels can have, as the options of a choice; `mixed` ones too where loads can be typed a group. */
export function WiringOptions({ channels, mixed = false }: { channels: number; mixed?: boolean }) {
  return [...wiringsFor(channels), ...(mixed ? mixedWiringsFor(channels) : [])].map((wiring) => (
    <option key={wiringKey(wiring)} value={wiringKey(wiring)}>
      {wiringWords(wiring)}
    </option>
  ));
}
