// The API's types, as generated from the Go program (see docs/openapi.json).
import type { components } from "./schema";

type S = components["schemas"];
export type Desk = S["Desk"];
export type PanelRow = S["PanelRow"];
export type PatchRow = S["PatchRow"];
export type SheetRow = S["SheetRow"];
export type PanelView = S["PanelView"];
export type ControlView = S["ControlView"];
export type MeanView = S["MeanView"];
export type PatchView = S["PatchView"];
export type PatchLine = S["PatchLine"];
export type SheetView = S["SheetView"];
export type Sheet = S["Sheet"];
export type Gloss = S["Gloss"];
export type Reading = S["Reading"];
export type Rule = S["Rule"];
export type Side = S["Side"];
export type Tick = S["Tick"];
export type DialIn = S["DialIn"];
export type Line = S["Line"];
export type Pending = S["Pending"];
export type Problem = S["Problem"];
export type Fault = S["Fault"];
export type Opened = S["Opened"];
export type Done = S["Done"];
export type Sums = S["Sums"];
export type Sum = S["Sum"];
export type Answer = S["Answer"];
export type PasteResult = S["Result"];
export type FoundControls = S["FoundControls"];
export type Loaded = S["Loaded"];

export const verdicts = [
  "held",
  "near",
  "bent",
  "recast",
  "left out",
  "idle",
] as const;
export type Verdict = (typeof verdicts)[number];

export const steps: Record<string, string> = {
  voice: "Voice set-up",
  oscillators: "Oscillators",
  mixer: "Mixer",
  filter: "Filter",
  envelopes: "Envelopes",
  modulation: "Modulation",
  feel: "Playing feel",
  effects: "Effects",
  level: "Level",
};

export type Workshop = S["Workshop"];
export type Panel = S["Panel"];
export type Control = S["Control"];
export type Bind = S["Bind"];
export type Law = S["Law"];
export type Face = S["Face"];
export type When = S["When"];
export type Tried = S["Tried"];
export type Fitted = S["Fitted"];
export type EditOp = S["EditOp"];
export type Vocabulary = S["Vocabulary"];
export type Difference = S["Difference"];
export type Draft = S["Draft"];
export type Revisions = S["Revisions"];
export type Differences = S["Differences"];
export type PatchList = S["PatchList"];
export type Versions = S["Versions"];
export type Phrase = S["Phrase"];
export type PhraseNote = S["PhraseNote"];
export type PhrasePresets = S["PhrasePresets"];
export type LayerView = S["LayerView"];
export type Cable = S["Cable"];
export type Found = S["Found"];
export type Ranking = S["Ranking"];
export type Alternative = S["Alternative"];
export type Ways = S["Ways"];
export type Plans = S["Plans"];
export type Listening = S["Listening"];
export type Take = S["Take"];
export type Contrasts = S["Contrasts"];
export type Rendering = S["Rendering"];
export type Contrast = S["Contrast"];
export type Measured = S["Measured"];
export type Refining = S["Refining"];
export type TrialRow = S["TrialRow"];
export type Trials = S["Trials"];
