// The log: what was corrected, noted and signed off.
import { client, got } from "../api";

export const read = (query: { find?: string; sheet?: number }) =>
  got(client.GET("/api/v1/log", { params: { query } }));
/** Takes over what corrections say of a law. */
export const adopt = (panel: string, control: string, source: string) =>
  got(
    client.POST("/api/v1/panels/{id}/learnt/{control}", {
      params: { path: { id: panel, control }, query: { source } },
    }),
  );
