import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type S = components["schemas"];
export const api = createClient<paths>({ baseUrl: "" });

/** Failure is a problem the server told us about, or no answer at all (status 0). */
export class Failure extends Error {
  constructor(
    readonly status: number,
    title: string,
    readonly body?: unknown,
  ) {
    super(title);
  }
}

const unauthorised = new Set<() => void>();

/** onUnauthorised calls f whenever the server says that nobody is signed in. */
export function onUnauthorised(f: () => void) {
  unauthorised.add(f);
}

/** how often somebody has signed in again; what was asked before that and is refused late says nothing of now */
let signIns = 0;

/** signedInAgain makes the answers to what was asked until now say nothing about who is signed in. */
export function signedInAgain() {
  signIns++;
}

/**
 * ask unwraps an answer: its data, or a Failure with the sentence for the person. With quiet, a refused sign-in is only that.
 */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>, quiet = false): Promise<T> {
  let r: { data?: T; error?: unknown; response: Response };
  const asked = signIns;
  try {
    r = await call;
  } catch {
    throw new Failure(0, "The server does not answer.");
  }
  if (r.response.ok) return r.data as T;
  const e = r.error as { title?: string } | undefined;
  if (r.response.status === 401 && !quiet && asked === signIns) for (const f of unauthorised) f();
  throw new Failure(r.response.status, e?.title ?? `The server answered ${r.response.status}.`, r.error);
}

/** me is the name of this window in a draft. */
export const me = crypto.randomUUID();
