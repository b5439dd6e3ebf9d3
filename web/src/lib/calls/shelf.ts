// What is done with panels, patches and sheets as things: named, kept in sets, archived, deleted, imported.
import { client, file as sent, got } from "../api";
import type { Item, ItemKind, SetRow } from "../types";

export type ShelfDo = "archive" | "restore" | "delete";

export const act = (what: ShelfDo, items: Item[]) =>
  got(client.POST("/api/v1/shelf", { body: { do: what, items } }));
export const rename = (kind: ItemKind, id: string, name: string) =>
  got(client.PUT("/api/v1/names", { body: { kind, id, name } }));
export const copySheet = (id: number) =>
  got(client.POST("/api/v1/sheets/{id}/copy", { params: { path: { id } } }));

export const begin = (name: string, patches: string[]) =>
  got(client.POST("/api/v1/sets", { body: { name, patches } }));
export const put = (s: SetRow) =>
  got(
    client.PUT("/api/v1/sets/{id}", {
      params: { path: { id: s.id } },
      body: { name: s.name, patches: s.patches },
    }),
  );
export const drop = (id: number) =>
  got(client.DELETE("/api/v1/sets/{id}", { params: { path: { id } } }));

/** Takes a file by what is in it. Where one of its id is here and differs, "ask" stores nothing. */
export const take = async (file: File, as: "ask" | "version" | "beside") =>
  got(
    client.POST("/api/v1/import", {
      params: { query: { file: file.name, as } },
      ...sent(await file.arrayBuffer()),
    }),
  );
/** Takes the sample away, and nothing of one's own. */
export const dropSample = () => got(client.DELETE("/api/v1/sample"));
