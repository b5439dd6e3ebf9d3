// Ear practice: sittings, what they have found, whose ears judge.
import { client, got } from "../api";

const of = (id: number) => ({ params: { path: { id } } });
export const desk = () => got(client.GET("/api/v1/ear"));
export const listener = (who: string) =>
  got(client.PUT("/api/v1/ear/listener", { body: { who } }));
export const begin = (who: string, patch: string, parts: number) =>
  got(client.POST("/api/v1/ear", { body: { who, patch, parts } }));
export const get = (id: number) => got(client.GET("/api/v1/ear/{id}", of(id)));
export const answer = (
  id: number,
  body: { trial: number; second: boolean; named: string },
) => got(client.POST("/api/v1/ear/{id}/answers", { ...of(id), body }));
export const drop = (id: number) =>
  got(client.DELETE("/api/v1/ear/{id}", of(id)));
/** The address of a sound of the trial that is on. */
export const sound = (id: number, trial: number, which: "x" | "a" | "b") =>
  `/api/v1/ear/${id}/trials/${trial}/${which}`;
