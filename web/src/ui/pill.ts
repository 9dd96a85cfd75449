/** Look of a button of a bar that narrows a list: lit while it does. */
export const pill = (on: boolean) =>
  `flex min-h-9 items-center gap-1.5 rounded-md border px-3 py-1.5 font-medium hover:border-edge aria-expanded:border-copper ${on ? "border-copper bg-copper-wash" : "border-line bg-sheet"}`;
