import { cva, type VariantProps } from "class-variance-authority";
import type { ComponentProps } from "react";
import { cn } from "./cn";

const button = cva("inline-flex items-center gap-2 rounded-md border font-semibold leading-tight disabled:opacity-60", {
  variants: {
    look: {
      plain: "border-line bg-sheet text-ink hover:border-edge",
      main: "border-verdigris bg-verdigris text-on-verdigris hover:brightness-110",
      quiet: "border-transparent bg-transparent text-ink underline underline-offset-3 hover:bg-hair",
      stop: "border-stop bg-sheet text-stop hover:bg-stop-wash",
    },
    size: { usual: "px-3.5 py-2", low: "px-3.5 py-1.5", compact: "px-2.5 py-1 text-sm" },
  },
  defaultVariants: { look: "plain", size: "usual" },
});

type Variants = VariantProps<typeof button>;
type Look = NonNullable<Variants["look"]>;

/** The classes of a button, for links that look like one. */
export const buttonClass = (look: Look = "plain", size?: Variants["size"], className?: string) => cn(button({ look, size }), className);

export function Button({ look, size, className, ...rest }: ComponentProps<"button"> & Variants) {
  return <button type="button" className={cn(button({ look, size }), className)} {...rest} />;
}
