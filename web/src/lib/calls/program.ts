// What concerns the program as a whole.
import { client, got } from "../api";

export const undo = () => got(client.POST("/api/v1/undo"));
export const redo = () => got(client.POST("/api/v1/redo"));
export const desk = () => got(client.GET("/api/v1/desk"));
/** Loads the sample panels and patches that are not there yet. */
export const sample = () => got(client.POST("/api/v1/sample"));
/** How far the render under way is. */
export const rendering = () => got(client.GET("/api/v1/rendering"));
