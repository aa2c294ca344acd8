import createClient from "openapi-fetch";
import type { components, paths } from "./generated";

export type Schemas = components["schemas"];

/** A refusal of the server: a sentence, and the places of a lab file that are wrong. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly places: Schemas["ErrorPlace"][] = [],
    /** All that the server said. */
    readonly told?: unknown,
  ) {
    super(message);
  }
}

const meta = (name: string) => document.querySelector<HTMLMetaElement>(`meta[name="${name}"]`)?.content ?? "";

export const styleNonce = meta("style-nonce");

export const client = createClient<paths>({ headers: { "X-CSRFToken": meta("csrf-token") } });

interface Answered<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Returns what the server answered, or throws its refusal. */
export async function answered<T>(call: Promise<Answered<T>>): Promise<T> {
  const { data, error, response } = await call.catch(() => {
    throw new Refused(0, "The server cannot be reached. Is it still running?");
  });
  if (data !== undefined && response.ok) return data;
  if (response.status === 401) {
    const here = window.location.pathname + window.location.search;
    window.location.assign(`/sign-in?next=${encodeURIComponent(here)}`);
  }
  const said = error as { message?: string; errors?: Schemas["ErrorPlace"][] } | undefined;
  throw new Refused(
    response.status,
    said?.message ?? `The server answered ${response.status}.`,
    said?.errors,
    error,
  );
}
