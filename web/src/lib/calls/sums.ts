// The reckoner's sums.
import { client, got } from "../api";

type Given = {
  value?: string;
  tempo?: string;
  note?: string;
  time?: string;
  track?: string;
};

/** All sums; with a value those that it fits are worked out. */
export const list = (given: Given) =>
  got(client.GET("/api/v1/sums", { params: { query: given } }));

export const work = (
  id: string,
  given: Given & { left?: string; right?: string },
) =>
  got(
    client.GET("/api/v1/sums/{id}", { params: { path: { id }, query: given } }),
  );
