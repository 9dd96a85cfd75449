/** Recordings that were dropped on a page which does not show them, until the one that does is there. */
let files: readonly File[] = [];

export function leaveDropped(dropped: readonly File[]) {
  files = dropped;
}

export function takeDropped(): readonly File[] {
  const taken = files;
  files = [];
  return taken;
}
