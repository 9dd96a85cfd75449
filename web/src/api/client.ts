import createClient, { type Middleware } from "openapi-fetch";
import { newId } from "@/ui/ids";
import type { components, paths } from "./generated/schema";
import { inquire, kindOf, type Fate } from "./inquiry";
import * as pending from "./pending";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];

/** A refusal of the server: a plain sentence, a code, and what is wrong field by field. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    says: string,
    readonly problems: Problem[],
  ) {
    super(says);
  }
}

/** What the program says of why it refused, or that it said nothing that can be read. */
async function refusalOf(response: Response): Promise<Refusal> {
  const body = (await response.json().catch(() => null)) as Partial<Schemas["ProblemBody"]> | null;
  const says = body?.detail ?? `The program answered ${String(response.status)}.`;
  return new Refusal(response.status, body?.code ?? "unknown", says, body?.problems ?? []);
}

/** What an error says: a refusal of the program is one of ours. */
export const wordsOf = (error: unknown) => (error instanceof Error ? error.message : "The program gave no answer that can be read.");

/** Undo belongs to a tab: the tab says which one it is. */
export function tabId(): string {
  const known = sessionStorage.getItem("pukka-tab");
  if (known) return known;
  const made = newId();
  sessionStorage.setItem("pukka-tab", made);
  return made;
}

/** How long a form waits to hear what became of its write before it says that nobody knows. */
const ASKED_FOR_MS = 12_000;

const keyOf = (request: Request) => request.headers.get("Idempotency-Key") ?? "";

const silent = (says: string) => new Refusal(0, "no-answer", says, []);

const middleware: Middleware = {
  onRequest({ request, schemaPath }) {
    request.headers.set("X-Pukka-Tab", tabId());
    if (request.method === "GET") return request;
    if (!request.headers.has("Idempotency-Key")) request.headers.set("Idempotency-Key", newId());
    if (kindOf(schemaPath) === "keyed" && !request.headers.has(ASKS_ITSELF)) pending.add(keyOf(request));
    return request;
  },
  async onResponse({ request, response }) {
    pending.remove(keyOf(request));
    if (!response.ok) throw await refusalOf(response);
  },
  async onError({ request, schemaPath, error }) {
    // Who left the page, or typed on, asks for nothing more.
    if (error instanceof DOMException && error.name === "AbortError") return error;
    const kind = request.method === "GET" || request.headers.has(ASKS_ITSELF) ? "question" : kindOf(schemaPath);
    if (kind === "question") return silent("The bench program does not answer.");
    const fate: Fate = kind === "keyed" ? await inquire(keyOf(request), ASKED_FOR_MS) : { kind: "unknown" };
    if (fate.kind === "unknown") {
      return silent("The bench program does not answer. Whether this was done is not known: look again when it is back.");
    }
    pending.remove(keyOf(request));
    if (fate.kind === "done") return Response.json(fate.answer);
    return silent("The connection broke before it was saved: nothing was saved. Try it again.");
  },
};

/** On a write whose sender finds out by itself what became of it. */
export const ASKS_ITSELF = "X-Pukka-Asks-Itself";

export const api = createClient<paths>({ baseUrl: "" });
api.use(middleware);

/** Asks about a line that is being typed: sent within the keystroke, where the client would first wait for its own parts. */
export async function askAboutLine(sessionId: string, body: Schemas["TypedLine"]): Promise<Schemas["Preview"]> {
  const headers = { "Content-Type": "application/json", "X-Pukka-Tab": tabId() };
  const asked = fetch(`/api/sessions/${encodeURIComponent(sessionId)}/previews`, { method: "POST", headers, body: JSON.stringify(body) });
  const response = await asked.catch(() => Promise.reject(silent("The bench program does not answer.")));
  if (!response.ok) throw await refusalOf(response);
  return (await response.json()) as Schemas["Preview"];
}

/** The data of an answer. A refusal is thrown before it gets here. */
export async function data<T>(asked: Promise<{ data?: T }>): Promise<T> {
  return (await asked).data as T;
}

/** The header of a write that changes a record of this revision. */
export const atRevision = (revision: number) => ({ "If-Match": `"${String(revision)}"` });
