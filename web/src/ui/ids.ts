/** A random id. `crypto.randomUUID` is only there on loopback and over HTTPS; the bytes are there everywhere. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}
