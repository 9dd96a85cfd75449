import { useState } from "react";

const NAME = "pukka-metre";

/** Whether the bench is set large enough to be read from three metres. It stays so until it is switched off. */
export function useMetre(): [on: boolean, toggle: () => void] {
  const [on, setOn] = useState(() => localStorage.getItem(NAME) === "on");
  const toggle = () => {
    localStorage.setItem(NAME, on ? "off" : "on");
    setOn(!on);
  };
  return [on, toggle];
}
