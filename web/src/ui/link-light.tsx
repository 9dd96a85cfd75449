/** Whether the program is heard. Said in words when it is not: what is shown may be old then. */
export function LinkLight({ linked }: { linked: boolean | null }) {
  if (linked === null) return null;
  return (
    <span role="status" data-link={linked ? "on" : "off"} className="flex items-center gap-1.5 whitespace-nowrap">
      <i aria-hidden className={`size-2 rounded-full ${linked ? "bg-[#4fc3ac]" : "animate-pulse bg-[#ff8a80]"}`} />
      {linked ? <span className="sr-only">Connected</span> : <b className="font-semibold text-white">No connection</b>}
    </span>
  );
}
