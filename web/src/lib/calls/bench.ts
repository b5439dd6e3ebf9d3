// The bench: measuring a control's own law.
import { client, file, got } from "../api";

const of = (id: string) => ({ params: { path: { id } } });
const at = (id: string, control: string) => ({
  params: { path: { id, control } },
});

export const list = (id: string) =>
  got(client.GET("/api/v1/panels/{id}/bench", of(id)));
export const sitting = (id: string, control: string, recipe = "") =>
  got(
    client.GET("/api/v1/panels/{id}/bench/{control}", {
      params: { path: { id, control }, query: { recipe } },
    }),
  );
export const forget = (id: string, control: string) =>
  got(client.DELETE("/api/v1/panels/{id}/bench/{control}", at(id, control)));
/** Has a stand-in set, played and measured. */
export const standIn = (
  id: string,
  control: string,
  unit: number,
  reading: string,
  recipe: string,
) =>
  got(
    client.POST("/api/v1/panels/{id}/bench/{control}/stand-in", {
      ...at(id, control),
      body: { unit, reading, recipe },
    }),
  );
/** Measures a recording of one take, or of several parted by silences. */
export const recording = (
  id: string,
  control: string,
  readings: string,
  recipe: string,
  wave: ArrayBuffer,
) =>
  got(
    client.POST("/api/v1/panels/{id}/bench/{control}/recording", {
      params: { path: { id, control }, query: { readings, recipe } },
      ...file(wave),
    }),
  );
export const drop = (id: string, control: string, index: number) =>
  got(
    client.DELETE("/api/v1/panels/{id}/bench/{control}/takes/{index}", {
      params: { path: { id, control, index } },
    }),
  );
export const adoption = (id: string, control: string) =>
  got(client.GET("/api/v1/panels/{id}/bench/{control}/adopt", at(id, control)));
export const adopt = (id: string, control: string, as: string) =>
  got(
    client.POST("/api/v1/panels/{id}/bench/{control}/adopt", {
      ...at(id, control),
      body: as ? { as } : {},
    }),
  );
/** What came from the instrument by MIDI. */
export const received = (id: string, before: number[], bytes: number[]) =>
  got(
    client.POST("/api/v1/panels/{id}/received", {
      ...of(id),
      body: { before, bytes },
    }),
  );
/** Sets how many bytes of recordings are kept. */
export const bound = (bytes: number) =>
  got(client.PUT("/api/v1/takes", { body: { bound: Math.round(bytes) } }));
