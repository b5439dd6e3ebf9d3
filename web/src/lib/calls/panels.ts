// Panels and the workshop.
import { client, file, got } from "../api";
import type { Beginning, Control, Edit, Marks, NewBlock, Said } from "../types";

const of = (id: string) => ({ params: { path: { id } } });

export const get = (id: string) =>
  got(client.GET("/api/v1/panels/{id}", of(id)));
export const revisions = (id: string) =>
  got(client.GET("/api/v1/panels/{id}/revisions", of(id)));
export const find = (q: string) =>
  got(client.GET("/api/v1/controls", { params: { query: { q } } }));
export const begin = (body: Beginning) =>
  got(client.POST("/api/v1/panels/blank", { body }));
export const copy = (id: string, name: string) =>
  got(client.POST("/api/v1/panels/{id}/copy", { ...of(id), body: { name } }));
export const difference = (id: string, from: number, to: number) =>
  got(
    client.GET("/api/v1/panels/{id}/difference", {
      params: { path: { id }, query: { from, to } },
    }),
  );

export const workshop = (id: string) =>
  got(client.GET("/api/v1/panels/{id}/workshop", of(id)));
export const edit = (id: string, body: Edit) =>
  got(client.POST("/api/v1/panels/{id}/workshop", { ...of(id), body }));
export const rename = (id: string, kind: string, from: string, to: string) =>
  got(
    client.POST("/api/v1/panels/{id}/workshop/rename", {
      ...of(id),
      body: { kind, from, to },
    }),
  );
export const tryOut = (id: string, body: Control) =>
  got(client.POST("/api/v1/panels/{id}/workshop/try", { ...of(id), body }));
export const fit = (id: string, body: Marks) =>
  got(client.POST("/api/v1/panels/{id}/workshop/marks", { ...of(id), body }));
export const save = (id: string) =>
  got(client.POST("/api/v1/panels/{id}/workshop/save", of(id)));
export const leave = (id: string) =>
  got(client.DELETE("/api/v1/panels/{id}/workshop", of(id)));
export const restore = (id: string, revision: number) =>
  got(
    client.POST("/api/v1/panels/{id}/revisions/{revision}/restore", {
      params: { path: { id, revision } },
    }),
  );
export const readControls = async (id: string, from: File) =>
  got(
    client.PUT("/api/v1/panels/{id}/controls.csv", {
      params: { path: { id }, query: { file: from.name } },
      ...file(await from.arrayBuffer()),
    }),
  );

export const putBlock = (id: string, body: NewBlock) =>
  got(client.POST("/api/v1/panels/{id}/workshop/blocks", { ...of(id), body }));
export const say = (id: string, body: Said) =>
  got(client.POST("/api/v1/panels/{id}/workshop/lines", { ...of(id), body }));
export const trySaying = (id: string, body: Said) =>
  got(
    client.POST("/api/v1/panels/{id}/workshop/lines/try", { ...of(id), body }),
  );
export const findSets = (
  id: string,
  query: { find?: string; section?: string; label?: string },
) =>
  got(
    client.GET("/api/v1/panels/{id}/workshop/settings", {
      params: { path: { id }, query },
    }),
  );
export const ownBlocks = () => got(client.GET("/api/v1/blocks/own", {}));
