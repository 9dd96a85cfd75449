import { wiringKey, wiringsFor, wiringWords } from "./wirings";

/** The wirings an amplifier of so many channels can have, as the options of a choice. */
export function WiringOptions({ channels }: { channels: number }) {
  return wiringsFor(channels).map((wiring) => (
    <option key={wiringKey(wiring)} value={wiringKey(wiring)}>
      {wiringWords(wiring)}
    </option>
  ));
}
