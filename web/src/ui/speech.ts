const NAME = "pukka-speech";

export const isSpeechOn = () => localStorage.getItem(NAME) === "on";

export const setSpeech = (on: boolean) => localStorage.setItem(NAME, on ? "on" : "off");

const UNITS: [RegExp, string][] = [
  [/(?<=\d)[\u202f\u00a0](?=\d{3}(?!\d))/g, ""],
  [/[\u202f\u00a0]/g, " "],
  [/\u2212/g, "minus "],
  [/(?<=\d) ?\u03a9/g, " ohms"],
  [/(?<=\d) ?W\b/g, " watts"],
  [/(?<=\d) ?V\b/g, " volts"],
  [/(?<=\d) ?A\b/g, " amps"],
  [/(?<=\d) ?dB\b/g, " decibels"],
  [/(?<=\d) ?Hz\b/g, " hertz"],
  [/(?<=\d) ?kHz\b/g, " kilohertz"],
  [/ ?%/g, " per cent"],
];

/** A sentence as a voice says it: units are words. */
export const spoken = (text: string) => UNITS.reduce((said, [unit, word]) => said.replace(unit, word), text);

/** Says a few words aloud, if spoken words are wanted and the browser has a voice. The newest goes first. */
export function speak(text: string) {
  if (!isSpeechOn() || !("speechSynthesis" in window)) return;
  speechSynthesis.cancel();
  const words = new SpeechSynthesisUtterance(spoken(text));
  words.lang = "en-GB";
  speechSynthesis.speak(words);
}
