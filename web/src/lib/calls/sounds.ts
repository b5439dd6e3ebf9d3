// Rendered sounds and recordings, by the key of what they are.
import { client, file, got } from "../api";

/** The sound as a file, a WAVE. */
export const wave = (key: string, loop: boolean): Promise<ArrayBuffer> =>
  got(
    client.GET("/api/v1/sounds/{key}", {
      params: { path: { key: `${key}.wav` }, query: { loop } },
      parseAs: "arrayBuffer",
    }),
  );

/** Takes a recording in. */
export const record = async (from: File) =>
  got(
    client.POST("/api/v1/sounds", {
      params: { query: { file: from.name } },
      ...file(await from.arrayBuffer()),
    }),
  );

/** What differs between two sounds. */
export const contrasts = (a: string, b: string) =>
  got(client.GET("/api/v1/contrasts", { params: { query: { a, b } } }));
