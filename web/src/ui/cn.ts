import { extendTailwindMerge } from "tailwind-merge";

/** The sizes and weights of theme.css that are our own: told of, else they would be taken for colours and dropped. */
const OWN = {
  text: ["mark", "unit", "fine", "note", "step", "body", "lead", "figure", "metre"],
  "font-weight": ["firm", "strong"],
};

const merge = extendTailwindMerge({ extend: { theme: OWN } });

/** Classes, the later of two that contradict each other standing. */
export const cn = (...classes: (string | false | null | undefined)[]) => merge(classes);
