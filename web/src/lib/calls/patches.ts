// Patches, their readings, layers, phrases and versions.
import { client, file, got } from "../api";
import type {
  LiveAsk,
  Flavour,
  Move,
  Cable,
  PatchHead,
  Phrase,
  PhraseLine,
} from "../types";

const of = (id: string) => ({ params: { path: { id } } });
const on = (id: string, layer: string) => ({ params: { path: { id, layer } } });
const at = (id: string, layer: string, control: string) => ({
  params: { path: { id, layer, control } },
});

export const list = (q = "") =>
  got(client.GET("/api/v1/patches", { params: { query: { q } } }));
export const get = (id: string) =>
  got(client.GET("/api/v1/patches/{id}", of(id)));
export const blank = (name: string, kind: string, panel: string) =>
  got(client.POST("/api/v1/patches/blank", { body: { name, kind, panel } }));
/** Says of a reading that it is to taste, or that it is not. */
export const setTaste = (
  id: string,
  layer: string,
  control: string,
  taste: boolean,
) =>
  got(
    client.PUT("/api/v1/patches/{id}/layers/{layer}/readings/{control}/taste", {
      params: { path: { id, layer, control } },
      body: { taste },
    }),
  );
/** Changes what is moved while the phrase is played; a line in words adds to it. */
export const setMoves = (id: string, moves: Move[], more: MoreMoves = {}) =>
  got(
    client.PUT("/api/v1/patches/{id}/phrase/moves", {
      ...of(id),
      body: { moves, ...more },
    }),
  );
export type MoreMoves = {
  line?: string;
  layer?: string;
  /** One end of a control's move by steps of its face. */
  step?: { index: number; end: "from" | "to"; by: number };
};
/** Changes the flavours; a line in words makes one, or adds to one. */
export const setFlavours = (
  id: string,
  flavours: Flavour[],
  more: { line?: string; layer?: string } = {},
) =>
  got(
    client.PUT("/api/v1/patches/{id}/flavours", {
      ...of(id),
      body: { flavours, ...more },
    }),
  );
/** Makes a patch of its own of a flavour. */
export const flavourCopy = (id: string, name: string) =>
  got(
    client.POST("/api/v1/patches/{id}/flavours/copy", {
      ...of(id),
      body: { name },
    }),
  );
export const setHead = (id: string, body: PatchHead) =>
  got(client.PUT("/api/v1/patches/{id}", { ...of(id), body }));
export const copy = (id: string) =>
  got(client.POST("/api/v1/patches/{id}/copy", of(id)));
export const remove = (id: string) =>
  got(client.DELETE("/api/v1/patches/{id}", of(id)));
/** How well targets carry a patch, the best first. */
export const targets = (
  id: string,
  query: { layer?: string; targets?: string },
) =>
  got(
    client.GET("/api/v1/patches/{id}/targets", {
      params: { path: { id }, query },
    }),
  );
/** How far a patch sounds apart from its translation by ear. */
export const targetHeard = (id: string, target: string, signal?: AbortSignal) =>
  got(
    client.GET("/api/v1/patches/{id}/targets/{target}/heard", {
      params: { path: { id, target } },
      signal,
    }),
  );
export const listen = (id: string) =>
  got(
    client.POST("/api/v1/patches/{id}/listen", {
      ...of(id),
      body: { phrase: "", octaves: 0, off: [], plain: false },
    }),
  );

export const setReading = (
  id: string,
  layer: string,
  control: string,
  reading: string,
) =>
  got(
    client.PUT("/api/v1/patches/{id}/layers/{layer}/readings/{control}", {
      ...at(id, layer, control),
      body: { reading },
    }),
  );
export const toInit = (id: string, layer: string, control: string) =>
  got(
    client.DELETE(
      "/api/v1/patches/{id}/layers/{layer}/readings/{control}",
      at(id, layer, control),
    ),
  );
export const step = (id: string, layer: string, control: string, by: number) =>
  got(
    client.POST("/api/v1/patches/{id}/layers/{layer}/readings/{control}/step", {
      ...at(id, layer, control),
      body: { by },
    }),
  );
/** What a reading would mean; nothing is stored. */
export const tryOut = (
  id: string,
  layer: string,
  control: string,
  text: string,
) =>
  got(
    client.GET("/api/v1/patches/{id}/layers/{layer}/readings/{control}/try", {
      params: { path: { id, layer, control }, query: { text } },
    }),
  );
export const setReadings = (
  id: string,
  layer: string,
  readings: Record<string, string>,
) =>
  got(
    client.PUT("/api/v1/patches/{id}/layers/{layer}/readings", {
      ...on(id, layer),
      body: { readings },
    }),
  );
export const readNotes = (id: string, layer: string, notes: string) =>
  got(
    client.POST("/api/v1/patches/{id}/layers/{layer}/paste", {
      ...on(id, layer),
      body: { notes },
    }),
  );
export const readMIDI = async (id: string, layer: string, from: File) =>
  got(
    client.POST("/api/v1/patches/{id}/layers/{layer}/midi", {
      params: { path: { id, layer }, query: { file: from.name } },
      ...file(await from.arrayBuffer()),
    }),
  );

/** What came from the instrument by MIDI, beside what stands. */
export const received = (
  id: string,
  layer: string,
  before: number[],
  bytes: number[],
) =>
  got(
    client.POST("/api/v1/patches/{id}/layers/{layer}/received", {
      ...on(id, layer),
      body: { before, bytes },
    }),
  );

export const addLayer = (id: string, like: string) =>
  got(
    client.POST("/api/v1/patches/{id}/layers", {
      ...of(id),
      body: { label: "", like },
    }),
  );
export const setLayer = (
  id: string,
  layer: string,
  body: { label: string; transpose: string; level: string },
) =>
  got(
    client.PUT("/api/v1/patches/{id}/layers/{layer}", {
      ...on(id, layer),
      body,
    }),
  );
export const removeLayer = (id: string, layer: string) =>
  got(client.DELETE("/api/v1/patches/{id}/layers/{layer}", on(id, layer)));
export const setCables = (id: string, layer: string, cables: Cable[]) =>
  got(
    client.PUT("/api/v1/patches/{id}/layers/{layer}/cables", {
      ...on(id, layer),
      body: { cables },
    }),
  );

export const presets = (id: string) =>
  got(client.GET("/api/v1/patches/{id}/phrase/presets", of(id)));
export const makePhrase = (id: string, preset: string, note: string) =>
  got(
    client.POST("/api/v1/patches/{id}/phrase/preset", {
      ...of(id),
      body: { preset, note },
    }),
  );
export const setPhrase = (id: string, phrase: Phrase | null) =>
  got(
    client.PUT("/api/v1/patches/{id}/phrase", { ...of(id), body: { phrase } }),
  );
/** Sets the phrase in numbers; one that is under way survives the leaving of the page. */
export const setLine = (id: string, line: PhraseLine, keepalive = false) =>
  got(
    client.PUT("/api/v1/patches/{id}/phrase", {
      ...of(id),
      body: { phrase: null, line },
      keepalive,
    }),
  );
export const phraseFromMIDI = async (id: string, from: File) =>
  got(
    client.POST("/api/v1/patches/{id}/phrase/midi", {
      params: { path: { id }, query: { file: from.name } },
      ...file(await from.arrayBuffer()),
    }),
  );

export const versions = (id: string) =>
  got(client.GET("/api/v1/patches/{id}/versions", of(id)));
export const keepVersion = (id: string, note: string) =>
  got(
    client.POST("/api/v1/patches/{id}/versions", { ...of(id), body: { note } }),
  );
export const restoreVersion = (id: string, number: number) =>
  got(
    client.POST("/api/v1/patches/{id}/versions/{number}/restore", {
      params: { path: { id, number } },
    }),
  );

/** A stretch of what is heard now, as a WAVE; with no seconds the whole of it, for looping. */
export const live = (id: string, body: LiveAsk, signal: AbortSignal) =>
  got(
    client.POST("/api/v1/patches/{id}/live", {
      params: { path: { id } },
      body,
      signal,
      parseAs: "arrayBuffer",
    }),
  ) as Promise<ArrayBuffer>;
