// The way to the program: a client typed from its description (docs/openapi.json). Nothing else in
// the page fetches; the calls of each noun are in calls/.
import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

type Problem = components["schemas"]["Problem"];

/** An answer of the program that says what is wrong (RFC 9457). */
export class Refusal extends Error {
  problem: Problem;
  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

/** What is wrong, where the program refused what was typed; undefined for other failures. */
export function refused(e: unknown): string | undefined {
  if (!(e instanceof Refusal) || e.problem.status !== 422) return undefined;
  return e.problem.faults?.map((f) => f.message).join("; ") || e.problem.detail;
}

/** The faults of what the program refused; undefined for other failures. */
export function refusals(e: unknown) {
  if (!(e instanceof Refusal) || ![400, 422].includes(e.problem.status))
    return undefined;
  const whole = [{ path: "", message: e.problem.detail }];
  return e.problem.faults?.length ? e.problem.faults : whole;
}

/** Tells whether something was changed elsewhere in the meantime. */
export const stale = (e: unknown): e is Refusal =>
  e instanceof Refusal &&
  (e.problem.status === 412 || e.problem.status === 409);

/** Tells whether the program does not know what was asked for. */
export const unknown = (e: unknown): e is Refusal =>
  e instanceof Refusal && e.problem.status === 404;

const problem = (title: string, status: number, detail: string): Problem => ({
  type: "about:blank",
  title,
  status,
  detail,
});

const refusing: Middleware = {
  async onResponse({ response }) {
    if (response.ok) return undefined;
    try {
      throw new Refusal((await response.json()) as Problem);
    } catch (e) {
      if (e instanceof Refusal) throw e;
      throw new Refusal(
        problem(
          response.statusText || "The request failed",
          response.status,
          "The program gave no reason. Reload and try again.",
        ),
      );
    }
  },
  onError({ error }) {
    if (error instanceof Refusal) return error;
    if (error instanceof DOMException && error.name === "AbortError")
      return error;
    return new Refusal(
      problem(
        "The program does not answer",
        0,
        "It may have been stopped. Start it again, then reload; what was acknowledged is kept.",
      ),
    );
  },
};

// What has been shown of each thing that can be changed: a change says for which version it is made
// (If-Match), and the program puts it together with what others have changed since. The changes of one thing
// go one after another: each is made for what the one before it has answered.
const shown = new Map<string, string>();
const last = new Map<string, Promise<void>>();
const ends = new WeakMap<Request, () => void>();
const changes = new Map<string, number>(); // how many have been begun
const begun = new WeakMap<Request, number>();

const thing =
  /\/api\/v1\/(patches\/[^/?]+|sheets\/[^/?]+|shows\/\d+|panels\/[^/?]+\/workshop)/;
/** What is asked with a body, and changes nothing. */
const asks =
  /\/(listen|run(\/\w+)?|note|try|marks|refine|trials|second|round|said|layers\/[^/]+\/(midi|paste))(\?|$)/;

const versions: Middleware = {
  async onRequest({ request }) {
    const of = thing.exec(request.url)?.[1];
    if (!of) return undefined;
    begun.set(request, changes.get(of) ?? 0);
    if (request.method === "GET" || asks.test(request.url)) return undefined;
    const before = last.get(of);
    let end: () => void = () => undefined;
    last.set(of, new Promise((done) => (end = done)));
    await before;
    changes.set(of, (changes.get(of) ?? 0) + 1);
    const version = shown.get(of);
    if (version) request.headers.set("If-Match", version);
    ends.set(request, end);
    return request;
  },
  onResponse({ request, response }) {
    const of = thing.exec(request.url)?.[1];
    const version = response.headers.get("ETag");
    const changed = ends.has(request);
    // an answer that a change has overtaken is not what is shown
    if (
      of &&
      version &&
      (changed || begun.get(request) === (changes.get(of) ?? 0))
    )
      shown.set(of, version);
    if (of && response.status === 412) shown.delete(of); // what stands there now is shown next
    ends.get(request)?.();
    return undefined;
  },
  onError({ request }) {
    ends.get(request)?.();
    return undefined;
  },
};

export const client = createClient<paths>({ baseUrl: location.origin });
client.use(refusing);
client.use(versions);

/** What an answer carries; it fails with a Refusal that says what to do next. */
export async function got<T>(answer: Promise<{ data?: T }>): Promise<T> {
  return (await answer).data as T;
}

/** The parts of a request that sends a file as it is. */
export const file = (data: string | ArrayBuffer) => ({
  body: data as string,
  bodySerializer: (b: unknown) => b as string,
  headers: { "Content-Type": "application/octet-stream" },
});

/** The address of a file that the browser saves. */
export const exportURL = (path: string) => "/api/v1" + path;

export const part = (id: string) => encodeURIComponent(id);
