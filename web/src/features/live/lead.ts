import { newId } from "@/ui/ids";

const RENEWED_EVERY_MS = 1_000;
/** A lease that was not renewed for so long is over: the tab was closed, or sleeps. */
const OVER_AFTER_MS = 3_500;

/** Lets one tab of this browser lead, for as long as it is open; then another one. */
export function lead(name: string, begin: () => void) {
  // Locks are only there on loopback and over HTTPS.
  const locks = navigator.locks as LockManager | undefined;
  if (!locks) return leadByLease(name, begin);
  // The lock is held until the tab is closed: the promise never comes to an end.
  void locks.request(name, () => new Promise(() => begin()));
}

interface Lease {
  tab: string;
  at: number;
}

/** The same by a lease that every tab can see. */
function leadByLease(name: string, begin: () => void) {
  const tab = newId();
  let leads = false;
  const renew = () => {
    const lease = JSON.parse(localStorage.getItem(name) ?? "null") as Lease | null;
    const free = lease === null || lease.tab === tab || Date.now() - lease.at > OVER_AFTER_MS;
    if (!free) return;
    localStorage.setItem(name, JSON.stringify({ tab, at: Date.now() } satisfies Lease));
    if (!leads) begin();
    leads = true;
  };
  renew();
  setInterval(renew, RENEWED_EVERY_MS);
  addEventListener("pagehide", () => leads && localStorage.removeItem(name));
}
