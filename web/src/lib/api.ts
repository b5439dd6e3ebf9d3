import type { Problem } from "./types";

/** An answer of the program that says what is wrong (RFC 9457). */
export class Refusal extends Error {
  problem: Problem;
  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

const base = "/api/v1";

/** Asks the program; the promise fails with a Refusal that says what to do next. */
export async function ask<T>(
  method: string,
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(base + path, {
      method,
      signal: signal ?? null,
      headers:
        body === undefined
          ? {}
          : {
              "Content-Type":
                body instanceof ArrayBuffer
                  ? "application/octet-stream"
                  : "application/json",
            },
      body:
        body === undefined
          ? null
          : typeof body === "string" || body instanceof ArrayBuffer
            ? body
            : JSON.stringify(body),
    });
  } catch {
    throw new Refusal({
      type: "about:blank",
      title: "The program does not answer",
      status: 0,
      detail:
        "It may have been stopped. Start it again, then reload; what was acknowledged is kept.",
    });
  }
  if (answer.status === 204) return undefined as T;
  const text = await answer.text();
  if (!answer.ok) {
    let problem: Problem;
    try {
      problem = JSON.parse(text) as Problem;
    } catch {
      problem = {
        type: "about:blank",
        title: answer.statusText || "The request failed",
        status: answer.status,
        detail: "The program gave no reason. Reload and try again.",
      };
    }
    throw new Refusal(problem);
  }
  return JSON.parse(text) as T;
}

/** The address of a file that the browser saves. */
export const exportURL = (path: string) => base + path;

export const part = (id: string) => encodeURIComponent(id);
