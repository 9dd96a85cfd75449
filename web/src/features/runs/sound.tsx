import { useState } from "react";
import { Check } from "@/ui/check";
import { isSpeechOn, setSpeech, speak } from "@/ui/speech";
import { BeforeRow } from "./before-row";

const CHIME = "pukka-rest-sound";

export const isChimeOn = () => localStorage.getItem(CHIME) === "on";

/** What is heard at this bench: both off until they are asked for. */
export function SoundRow() {
  const [chimes, setChimes] = useState(isChimeOn);
  const [speaks, setSpeaks] = useState(isSpeechOn);
  return (
    <BeforeRow name="Sound">
      <span className="flex flex-wrap gap-x-4 gap-y-1">
        <Check
          label="chime when rested"
          checked={chimes}
          onChange={(on) => {
            setChimes(on);
            localStorage.setItem(CHIME, on ? "on" : "off");
          }}
        />
        <Check
          label="spoken words"
          checked={speaks}
          onChange={(on) => {
            setSpeaks(on);
            setSpeech(on);
            speak("Spoken words are on.");
          }}
        />
      </span>
    </BeforeRow>
  );
}
