/** Readings as they are called at the bench. */
export const READINGS: Record<string, string> = {
  current_a: "amps",
  power_w: "watts",
  volts_rms: "output volts",
  rest_v: "rest volts",
  end_v: "supply volts",
  thd_ratio: "distortion",
  temperature_c: "temperature",
};
