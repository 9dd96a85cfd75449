import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./generated/schema";

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

/** Undo belongs to a tab: the tab says which one it is. */
function tabId(): string {
  const known = sessionStorage.getItem("pukka-tab");
  if (known) return known;
  const made = crypto.randomUUID();
  sessionStorage.setItem("pukka-tab", made);
  return made;
}

const middleware: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") {
      request.headers.set("X-Pukka-Tab", tabId());
      if (!request.headers.has("Idempotency-Key")) request.headers.set("Idempotency-Key", crypto.randomUUID());
    }
    return request;
  },
  onError() {
    return new Refusal(0, "no-answer", "The bench program does not answer. Nothing was saved; is it still running?", []);
  },
};

export const api = createClient<paths>({ baseUrl: "" });
api.use(middleware);

/** The data of an answer, or its refusal thrown. */
export async function data<T>(asked: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await asked;
  if (response.ok) return data as T;
  const body = error as Partial<Schemas["ProblemBody"]> | undefined;
  const says = body?.title ?? `The program answered ${String(response.status)}.`;
  throw new Refusal(response.status, body?.code ?? "unknown", says, body?.problems ?? []);
}

/** Headers of a write that changes a record of this revision. */
export const atRevision = (revision: number) => ({ headers: { "If-Match": `"${String(revision)}"` } });
