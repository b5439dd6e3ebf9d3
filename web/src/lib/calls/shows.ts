// Shows: cues, houses, plans, hire lists and rehearsals.
import { client, file as sent, got } from "../api";
import type { RunTick, ShowDoc } from "../types";

const of = (id: number) => ({ params: { path: { id } } });
const within = (id: number, house: string) => ({
  params: { path: { id }, query: { house } },
});
const on = (id: number, house: string, evening: number) => ({
  params: { path: { id }, query: { house, evening } },
});

export const list = () => got(client.GET("/api/v1/shows"));
export const begin = (name: string) =>
  got(client.POST("/api/v1/shows", { body: { name } }));
export const take = async (from: File) =>
  got(
    client.POST("/api/v1/shows/import", {
      params: { query: { file: from.name } },
      ...sent(await from.text()),
    } as never),
  ) as Promise<{ id: number; name: string }>;
export const get = (id: number) =>
  got(client.GET("/api/v1/shows/{id}", of(id)));
export const put = (id: number, doc: ShowDoc) =>
  got(client.PUT("/api/v1/shows/{id}", { ...of(id), body: doc }));
export const drop = (id: number) =>
  got(client.DELETE("/api/v1/shows/{id}", of(id)));
export const plan = (id: number, house: string) =>
  got(client.GET("/api/v1/shows/{id}/plan", within(id, house)));
export const hire = (id: number, house: string, rack: string) =>
  got(
    client.GET("/api/v1/shows/{id}/hire", {
      params: { path: { id }, query: { house, rack } },
    }),
  );
/** Listens to what nobody has listened to yet: of all houses where none is named. */
export const listen = (id: number, house: string, rack: string) =>
  got(
    client.POST("/api/v1/shows/{id}/listen", {
      params: { path: { id }, query: { house, rack } },
    }),
  );
export const listening = (id: number) =>
  got(client.GET("/api/v1/shows/{id}/listen", of(id)));
export const stop = (id: number) =>
  got(client.DELETE("/api/v1/shows/{id}/listen", of(id)));

export const run = (id: number, house: string, evening: number) =>
  got(client.GET("/api/v1/shows/{id}/run", on(id, house, evening)));
export const state = (id: number, house: string, evening: number) =>
  got(client.GET("/api/v1/shows/{id}/run/state", on(id, house, evening)));
export const anew = (id: number, house: string, evening: number) =>
  got(client.POST("/api/v1/shows/{id}/run", on(id, house, evening)));
export const clock = (
  id: number,
  house: string,
  evening: number,
  body: { run: number; going: boolean; clock: number },
) =>
  got(
    client.PUT("/api/v1/shows/{id}/run/clock", {
      ...on(id, house, evening),
      body,
    }),
  );
export const tick = (
  id: number,
  house: string,
  evening: number,
  body: RunTick,
) =>
  got(
    client.PUT("/api/v1/shows/{id}/run/ticks", {
      ...on(id, house, evening),
      body,
    }),
  );
