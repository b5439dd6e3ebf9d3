// What is kept beside: backups, archives, photographs, and what stands in the memory of instruments.
import { client, file as sent, got } from "../api";

export const backups = () => got(client.GET("/api/v1/backups"));
export const backUp = () => got(client.POST("/api/v1/backups"));
/** Sets how many daily backups are kept. */
export const keep = (kept: number) =>
  got(client.PUT("/api/v1/backups", { body: { kept } }));
export const dropBackup = (name: string) =>
  got(client.DELETE("/api/v1/backups/{name}", { params: { path: { name } } }));
export const restore = (name: string) =>
  got(
    client.POST("/api/v1/backups/{name}/restore", {
      params: { path: { name } },
    }),
  );
/** The parts of a request that sends a file without reading it first: it may be larger than memory. */
const whole = (from: File) => ({
  ...sent(""),
  body: from as unknown as string,
});
export const restoreFile = (from: File) =>
  got(client.POST("/api/v1/restore", whole(from)));
export const takeArchive = (from: File) =>
  got(
    client.POST("/api/v1/archive", {
      params: { query: { name: from.name } },
      ...whole(from),
    }),
  );

export type PhotographsOf = { patch: string } | { sheet: number };

export const photographs = (of: PhotographsOf) =>
  "patch" in of
    ? got(
        client.GET("/api/v1/patches/{id}/photographs", {
          params: { path: { id: of.patch } },
        }),
      )
    : got(
        client.GET("/api/v1/sheets/{id}/photographs", {
          params: { path: { id: of.sheet } },
        }),
      );
export const photograph = (of: PhotographsOf, from: File) =>
  "patch" in of
    ? got(
        client.POST("/api/v1/patches/{id}/photographs", {
          params: { path: { id: of.patch } },
          ...whole(from),
        }),
      )
    : got(
        client.POST("/api/v1/sheets/{id}/photographs", {
          params: { path: { id: String(of.sheet) } },
          ...whole(from),
        }),
      );
export const caption = (id: number, text: string) =>
  got(
    client.PUT("/api/v1/photographs/{id}", {
      params: { path: { id } },
      body: { caption: text },
    }),
  );
export const dropPhotograph = (id: number) =>
  got(client.DELETE("/api/v1/photographs/{id}", { params: { path: { id } } }));

export const slots = (id: string) =>
  got(client.GET("/api/v1/panels/{id}/slots", { params: { path: { id } } }));
export const layOut = (
  id: string,
  body: { banks: number; programs: number; first: number },
) =>
  got(
    client.PUT("/api/v1/panels/{id}/memory", {
      params: { path: { id } },
      body,
    }),
  );
const at = (id: string, bank: number, program: number) => ({
  params: { path: { id, bank, program } },
});
/** Says what stands in a slot; what is in use is written over only when asked. */
export const putSlot = (
  id: string,
  bank: number,
  program: number,
  body: { name: string; sheet: number; over: string },
) =>
  got(
    client.PUT("/api/v1/panels/{id}/slots/{bank}/{program}", {
      ...at(id, bank, program),
      body,
    }),
  );
export const clearSlot = (id: string, bank: number, program: number) =>
  got(
    client.DELETE(
      "/api/v1/panels/{id}/slots/{bank}/{program}",
      at(id, bank, program),
    ),
  );
export const protectSlot = (
  id: string,
  bank: number,
  program: number,
  on: boolean,
) =>
  got(
    client.PUT("/api/v1/panels/{id}/slots/{bank}/{program}/protection", {
      ...at(id, bank, program),
      body: { protected: on },
    }),
  );
