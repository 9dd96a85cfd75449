import { afterEach, expect, it, vi } from "vitest";
import { setSpeech, speak, spoken } from "./speech";

afterEach(() => vi.unstubAllGlobals());

it("says units as words", () => {
  expect(spoken("2\u202f\u03a9, certified logged: 1\u202f068\u202fW at 13.96\u202fV, 97\u202f%.")).toBe(
    "2 ohms, certified logged: 1068 watts at 13.96 volts, 97 per cent.",
  );
  expect(spoken("\u22126 dB at 40 Hz")).toBe("minus 6 decibels at 40 hertz");
});

it("is silent until it is switched on", () => {
  const said: string[] = [];
  vi.stubGlobal(
    "SpeechSynthesisUtterance",
    class {
      constructor(readonly text: string) {}
    },
  );
  vi.stubGlobal("speechSynthesis", { cancel: vi.fn(), speak: (words: { text: string }) => said.push(words.text) });
  setSpeech(false);
  speak("Stop");
  setSpeech(true);
  speak("Rested.");
  expect(said).toEqual(["Rested."]);
});
