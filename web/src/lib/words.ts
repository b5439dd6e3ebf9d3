// The program's words: steps, verdicts, kinds, laws, notes. The page is built with them
// (vocabulary.json, made from the program by `make generate`).
import type { Vocabulary } from "./types";
import vocabulary from "./vocabulary.json";

export const words: Vocabulary = vocabulary;

/** The title of a step of the work. */
export const stepTitle = (step: string) =>
  words.steps.find((s) => s.step === step)?.title ?? step;

/** Where a step stands in the order of the work. */
export const stepOrder = (step: string) =>
  words.steps.findIndex((s) => s.step === step);
