// What each view is for, in the words of the trade: shown beside it.
import type { Place } from "./route.svelte";

export type Help = { says: string[]; words?: [string, string][] };

const verdicts: [string, string][] = [
  ["held", "it goes over: the difference is not heard"],
  [
    "near",
    "it goes over as far as the scale's steps or what is known of it allow",
  ],
  ["bent", "it goes over, and the difference is heard"],
  ["recast", "made by other means: another part stands for it"],
  ["left out", "the target has nothing for it"],
  ["idle", "it does nothing in this patch"],
];

export const help: Record<Place["view"], Help> = {
  desk: {
    says: [
      "The desk shows what is on the go: patches, their translations (sheets), the instruments' panels.",
      "A patch is the readings of one sound on one instrument, as they stand on its face. A sheet sets each of them to what gives the same on another instrument, and says what is lost.",
      "Dropping a file of a panel, a patch, a show or a table of controls anywhere takes it in.",
    ],
  },
  patches: {
    says: [
      "Every patch you have, with the instrument that it is of. Search by name, tag, kind or instrument.",
      "Sets keep patches in an order. What you archive is kept, and not in the way.",
    ],
  },
  patch: {
    says: [
      "A patch reads as its instrument does: section by section, in the order of the face. Type a reading as it stands there: 61, 7.5, 11:00, 16', -7 ct, 1/8., ~ for about.",
      "Beside each reading stands what it means (hertz, seconds, decibels), by the law of its control, and how sure that is.",
      "Space plays it; what you change is heard at once.",
    ],
    words: [
      ["init", "where a control stands in a fresh patch"],
      [
        "to taste",
        "a reading that another player may choose otherwise: losing it counts least",
      ],
      ["layer", "one of several sounds played together"],
    ],
  },
  targets: {
    says: [
      "Which instrument carries this patch best: how much of it goes over, and, once listened to, how far apart in sound.",
      "Prefer what you hear over what is counted.",
    ],
  },
  bank: {
    says: [
      "Many patches on many instruments at once: what each carries, as a table. Listening takes seconds for each pair, and can be left and taken up again.",
    ],
  },
  panels: {
    says: [
      "A panel describes an instrument: its controls with what is printed on them, the laws from printed to real values, and what is behind them.",
      "Most makers print no laws. What is assumed says so; the bench measures it.",
    ],
  },
  panel: {
    says: [
      "One instrument: each control with its scale. The scale strip shows printed readings against real values.",
      "The workshop changes it, the bench measures its laws, slots keep what stands in its memory.",
    ],
    words: [
      ["law", "how what is printed turns into hertz, seconds or decibels"],
      [
        "stated, assumed, measured",
        "where a law is from: the maker, common practice, your bench",
      ],
    ],
  },
  workshop: {
    says: [
      "Here a panel is made or changed, as a draft, until you save it as the next revision. Sheets made from older revisions say so, and stay.",
      "Say a control in one line: Cutoff 0-10, 20 Hz to 18 kHz.",
    ],
  },
  benches: {
    says: [
      "What of an instrument is worth measuring, by what your own patches gain: in just-noticeable differences.",
      "A sitting walks through all of it with the fewest changes of set-up.",
    ],
  },
  bench: {
    says: [
      "A control is measured by takes: set it where the bench says, play the note, record. After each take the law is fitted anew, and the next position is the one that tells the most.",
      "Come to every reading from the same side, let the instrument warm up, turn its effects off. Where it can get loud, that is said first.",
    ],
    words: [
      ["take", "one recording at one position"],
      ["k = 2 band", "where the true law lies in 95 of 100 cases"],
    ],
  },
  reckoner: {
    says: [
      "The trade's small sums, with the formula: note values and times, octaves and hertz, cents, decibels, feedback and repeats. Type in either side.",
    ],
  },
  log: {
    says: [
      "What was set otherwise than planned, and why; what was heard, noted and signed off. Where corrections between two instruments agree, the law that they point at is offered.",
    ],
  },
  keep: {
    says: [
      "A backup is the whole database, made while it is used. An archive is some of it, to take elsewhere: patches with their sheets, panels, shows, log and photographs.",
    ],
  },
  slots: {
    says: [
      "What you say stands in an instrument's memory. What is in use is written over only when asked; what is protected is never chosen.",
    ],
  },
  sheet: {
    says: [
      "The sheet: on the left what the patch is set to, in the middle how it goes over, on the right what to set on the target. Start with what is bent, recast or left out (l).",
      "The rule below shows both scales on one axis; the hairline moves by the target's steps. What you set by hand stays until you take it back.",
      "Figures answer for what is heard: listen before you trust them.",
    ],
    words: verdicts,
  },
  dialin: {
    says: [
      "The list to set the instrument by, in the order in which one works: what is plugged first, levels last. Turn down before lines with a caution.",
      "Tick as you go; another device sees it. What you set otherwise, say why (c): it is learnt from.",
    ],
  },
  changeover: {
    says: [
      "From one patch to the next on the same instrument: only what changes. “Anywhere” is a control that did nothing before and may stand anywhere.",
    ],
  },
  listen: {
    says: [
      "Both sides at the same loudness. Switch between them in the midst of a note; choose a part to hear alone.",
      "A blind test tells whether you hear a difference at all: X is A, or X is B.",
      "Start with the monitors down. Long listening at a high level harms: take breaks.",
    ],
  },
  ear: {
    says: [
      "How small a difference you hear, from your own patches. What is found can judge the lines of your sheets in place of the published differences.",
    ],
    words: [
      [
        "just-noticeable difference",
        "how far two values lie apart to be told from each other",
      ],
      [
        "staircase",
        "two right: smaller; one wrong: larger. It settles where seven in ten are heard",
      ],
    ],
  },
  earsitting: {
    says: [
      "Hear the patch, then the two; say which is the other one, then what differs. Guess where you do not hear it: guesses are reckoned with.",
      "Take a break when you tire: the sitting waits.",
    ],
  },
  shows: {
    says: [
      "A show is a book of cues over its evenings, and the houses that it goes to.",
    ],
  },
  show: {
    says: [
      "The plan says which hired instrument plays which cue, so that every changeover fits its gap, nobody's hands do two things at once, and the least is lost. It is exact: no other way loses less.",
      "Where an evening does not fit, it says which cues exclude each other, which gap is too short, and what would let all be played.",
      "Until all pairs have been listened to, losses are by weight; then in sound.",
    ],
    words: [
      ["cue", "a sound that is played from one time to another"],
      ["gap", "the time between two cues on one instrument"],
      ["hatched", "when a player's hands are at the changeover"],
    ],
  },
  hire: {
    says: [
      "What each instrument that the house can get would carry of the whole book, what a second one adds, and which two or three carry it best: every set was planned.",
    ],
  },
  rehearse: {
    says: [
      "The running order with a clock. Tick what you change; others see it on their devices. Without the program the page goes on, and sends what was done when it answers.",
      "What ran over is told the next time, and how long your hands take goes into the plan.",
    ],
  },
  lost: { says: ["There is no view at this address."] },
};
