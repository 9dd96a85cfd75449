import type { ComponentProps } from "react";

type Look = "plain" | "main" | "quiet" | "stop";

const LOOKS: Record<Look, string> = {
  plain: "border-line bg-sheet text-ink hover:border-edge",
  main: "border-verdigris bg-verdigris text-on-verdigris hover:brightness-110",
  quiet: "border-transparent bg-transparent text-ink underline underline-offset-3 hover:bg-hair",
  stop: "border-stop bg-sheet text-stop hover:bg-stop-wash",
};

/** The classes of a button, for links that look like one. */
export const buttonClass = (look: Look = "plain") =>
  `inline-flex items-center gap-2 rounded-md border px-3.5 py-2 font-semibold leading-tight disabled:opacity-60 ${LOOKS[look]}`;

export function Button({ look = "plain", className = "", ...rest }: ComponentProps<"button"> & { look?: Look }) {
  return <button type="button" className={`${buttonClass(look)} ${className}`} {...rest} />;
}
