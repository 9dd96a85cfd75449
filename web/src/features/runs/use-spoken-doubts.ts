import { useEffect } from "react";
import { speak } from "@/ui/speech";

/** A doubt that asks for a second Enter is said aloud, where words are wanted. */
export function useSpokenDoubts(doubts: string[]) {
  const words = doubts.join(" ");
  useEffect(() => {
    if (words !== "") speak(`Doubt. ${words}`);
  }, [words]);
}
