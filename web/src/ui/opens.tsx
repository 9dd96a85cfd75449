import { lazy, Suspense, useRef, useState, type ReactNode } from "react";

const Popup = lazy(async () => ({ default: (await import("./popup")).Popup }));

/** A button that opens something beside itself. */
export function Opens({
  label,
  name,
  className,
  popupClass,
  held,
  shows,
  children,
}: {
  /** What is opened, in words. */
  label: string;
  /** What the button is called, where it shows no words. */
  name?: string;
  className?: string;
  popupClass?: string;
  /** Whether it is open, where a key opens it as well. */
  held?: [open: boolean, setOpen: (open: boolean) => void];
  shows: () => ReactNode;
  children: ReactNode;
}) {
  const own = useState(false);
  const [open, setOpen] = held ?? own;
  const button = useRef<HTMLButtonElement>(null);
  return (
    <>
      <button
        ref={button}
        type="button"
        aria-haspopup="dialog"
        aria-expanded={open}
        aria-label={name}
        className={className}
        onClick={() => setOpen(!open)}
      >
        {children}
      </button>
      {open && (
        <Suspense>
          <Popup by={button} label={label} className={popupClass ?? ""} onClose={() => setOpen(false)}>
            {shows()}
          </Popup>
        </Suspense>
      )}
    </>
  );
}
