// Sheets: what is decided on them, what they sound like, how far they are dialled in.
import { client, got } from "../api";
import type {
  ToSend,
  LiveAsk,
  ListenTo,
  LiveNote,
  OpenSheet,
  PartChoice,
  SearchBy,
} from "../types";

const of = (id: number) => ({ params: { path: { id } } });

export const open = (body: OpenSheet) =>
  got(client.POST("/api/v1/sheets", { body }));
export const get = (id: number) =>
  got(client.GET("/api/v1/sheets/{id}", of(id)));
export const remove = (id: number) =>
  got(client.DELETE("/api/v1/sheets/{id}", of(id)));
/** How far both sides sound apart, and what of it each line makes; what nobody waits for any more is given up by the signal. */
export const heard = (id: number, signal: AbortSignal) =>
  got(client.GET("/api/v1/sheets/{id}/heard", { ...of(id), signal }));
/** Opens the sheet of a second layer, which plays what this one leaves out. */
export const second = (id: number) =>
  got(client.POST("/api/v1/sheets/{id}/second", of(id)));
/** The scales of a line along one axis. */
export const scales = (id: number, gloss: string) =>
  got(
    client.GET("/api/v1/sheets/{id}/rule", {
      params: { path: { id }, query: { gloss } },
    }),
  );
/** What the part of a line does on both sides; the target with a control at another reading where one is named. */
export const picture = (
  id: number,
  gloss: string,
  at?: { control: string; reading: string },
) =>
  got(
    client.GET("/api/v1/sheets/{id}/picture", {
      params: {
        path: { id },
        query: {
          gloss,
          control: at?.control ?? "",
          reading: at?.reading ?? "",
        },
      },
    }),
  );
export const paths = (id: number) =>
  got(client.GET("/api/v1/sheets/{id}/paths", of(id)));
export const override = (id: number, control: string, reading: string) =>
  got(
    client.PUT("/api/v1/sheets/{id}/overrides/{control}", {
      params: { path: { id, control } },
      body: { reading },
    }),
  );
export const takeBack = (id: number, control: string) =>
  got(
    client.DELETE("/api/v1/sheets/{id}/overrides/{control}", {
      params: { path: { id, control } },
    }),
  );
/** Decides about a part of the patch, or about the sheet as a whole where no part is named. */
export const choose = (id: number, choice: Partial<PartChoice>) =>
  got(
    client.PUT("/api/v1/sheets/{id}/choices", {
      ...of(id),
      body: { part: "", matters: "", refuse: [], ...choice },
    }),
  );
export const alternatives = (id: number, of: string) =>
  got(
    client.GET("/api/v1/sheets/{id}/alternatives", {
      params: { path: { id }, query: { part: of } },
    }),
  );
export const plans = (id: number) =>
  got(client.GET("/api/v1/sheets/{id}/plans", of(id)));
export const tick = (id: number, key: string, on: boolean) => {
  const at = { params: { path: { id, key } } };
  return on
    ? got(client.PUT("/api/v1/sheets/{id}/ticks/{key}", at))
    : got(client.DELETE("/api/v1/sheets/{id}/ticks/{key}", at));
};

/** Renders both sides; what nobody waits for any more is given up by the signal. */
export const listen = (id: number, body: ListenTo, signal: AbortSignal) =>
  got(client.POST("/api/v1/sheets/{id}/listen", { ...of(id), body, signal }));
/** One note of one side as a file, a WAVE. */
export const note = (id: number, body: LiveNote): Promise<ArrayBuffer> =>
  got(
    client.POST("/api/v1/sheets/{id}/note", {
      ...of(id),
      body,
      parseAs: "arrayBuffer",
    }),
  );
export const keepTrial = (
  id: number,
  body: { right: number; of: number; sounds: string },
) => got(client.POST("/api/v1/sheets/{id}/trials", { ...of(id), body }));

export const refining = (id: number) =>
  got(client.GET("/api/v1/sheets/{id}/refine", of(id)));
export const refine = (id: number, body: SearchBy) =>
  got(client.POST("/api/v1/sheets/{id}/refine", { ...of(id), body }));
export const stopRefining = (id: number) =>
  got(client.DELETE("/api/v1/sheets/{id}/refine", of(id)));
export const adopt = (id: number) =>
  got(client.POST("/api/v1/sheets/{id}/refine/adopt", of(id)));

/** A stretch of what is heard now, as a WAVE; with no seconds the whole of it, for looping. */
export const live = (id: number, body: LiveAsk, signal: AbortSignal) =>
  got(
    client.POST("/api/v1/sheets/{id}/live", {
      params: { path: { id } },
      body,
      signal,
      parseAs: "arrayBuffer",
    }),
  ) as Promise<ArrayBuffer>;
/** The settings as MIDI messages, in the order of work. */
export const sending = (id: number, query: ToSend) =>
  got(
    client.GET("/api/v1/sheets/{id}/send", {
      params: { path: { id }, query },
    }),
  );
/** What came from the target by MIDI, beside what is planned. */
export const received = (id: number, before: number[], bytes: number[]) =>
  got(
    client.POST("/api/v1/sheets/{id}/received", {
      ...of(id),
      body: { before, bytes },
    }),
  );
/** The phrase on a stand-in of the target, as MIDI has set it. */
export const onStandIn = (id: number, unit: number, bytes: number[]) =>
  got(
    client.POST("/api/v1/sheets/{id}/stand-in", {
      ...of(id),
      body: { unit, bytes },
      parseAs: "arrayBuffer",
    }),
  ) as Promise<ArrayBuffer>;
/** Sets a reading by hand, and says why. */
export const correct = (
  id: number,
  control: string,
  body: { reading: string; tags: string[]; why: string },
) =>
  got(
    client.PUT("/api/v1/sheets/{id}/corrections/{control}", {
      params: { path: { id, control } },
      body,
    }),
  );
/** Keeps a note of what was heard, or that somebody signs the sheet off. */
export const entry = (
  id: number,
  body: { kind: "note" | "sign-off"; why: string; who?: string },
) => got(client.POST("/api/v1/sheets/{id}/entries", { ...of(id), body }));
/** What is to be changed on the instrument from another sheet on it; from the first there is, for 0. */
export const changeover = (id: number, from: number) =>
  got(
    client.GET("/api/v1/sheets/{id}/changeover", {
      params: { path: { id }, query: { from } },
    }),
  );
/** Begins another round of listening: a sheet of its own, with what is wanted. */
export const round = (id: number, why: string) =>
  got(client.POST("/api/v1/sheets/{id}/round", { ...of(id), body: { why } }));
/** What typed readings of the target mean, beside what the sheet plans. */
export const said = (id: number, notes: string) =>
  got(client.POST("/api/v1/sheets/{id}/said", { ...of(id), body: { notes } }));
const over = (id: number, from: number) => ({ params: { path: { id, from } } });
/** What of a changeover is done. */
export const overTicks = (id: number, from: number) =>
  got(
    client.GET("/api/v1/sheets/{id}/changeover/{from}/ticks", over(id, from)),
  );
export const overTick = (
  id: number,
  from: number,
  key: string,
  done: boolean,
) =>
  got(
    client.PUT("/api/v1/sheets/{id}/changeover/{from}/ticks", {
      ...over(id, from),
      body: { key, done },
    }),
  );
export const overBegin = (id: number, from: number) =>
  got(
    client.DELETE(
      "/api/v1/sheets/{id}/changeover/{from}/ticks",
      over(id, from),
    ),
  );
/** What of a dial-in list is done. */
export const ticks = (id: number) =>
  got(client.GET("/api/v1/sheets/{id}/ticks", of(id)));
/** Keeps a recording of one side in the log. */
export const keepRecording = (id: number, key: string, side: string) =>
  got(
    client.POST("/api/v1/sheets/{id}/recordings", {
      ...of(id),
      body: { key, side },
    }),
  );
