// What concerns the program as a whole.
import { client, got } from "../api";

/** Takes a step back; one that is not the last is refused. Within a panel's workshop it is the last there. */
export const undo = (step: number, within: string) =>
  got(client.POST("/api/v1/undo", { params: { query: { step, within } } }));
export const redo = (step: number, within: string) =>
  got(client.POST("/api/v1/redo", { params: { query: { step, within } } }));
export const desk = () => got(client.GET("/api/v1/desk"));
/** Loads the sample panels and patches that are not there yet. */
export const sample = () => got(client.POST("/api/v1/sample"));
/** How far the render under way is. */
export const rendering = () => got(client.GET("/api/v1/rendering"));
