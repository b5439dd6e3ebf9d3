// Package compare sets two sounds side by side: a table of what differs, in units and in just-noticeable
// differences, and one distance.
//
// The distance is the root of the sum of squares of six parts, each in just-noticeable differences:
//
//   - level: the difference in loudness (ITU-R BS.1770), over 1 dB;
//   - colour: the effective difference of the mean levels in auditory bands at equal loudness, weighed by how loud
//     the bands are, over 1 dB;
//   - shape: the effective difference of the loudness over time at equal loudness, over 1 dB;
//   - brightness: the effective difference of the centre of the spectrum over time, over 0.25 of an auditory band;
//   - motion: how far the movement within bands has to be shifted in rate (octaves) and in amount, over 0.25;
//   - pitch: by how many cents the partials have to be moved to lie on each other, over 5, at most 20 (a semitone, an octave); the middle of those
//     at five places of the sound.
//
// The same sound has a distance of 0. Spectra and loudness are taken from the energy of both channels together, and one channel counts as two of the
// same. What hangs on a phase (where a beat stands at a time) averages out where a sound is sketched from several renderings (Sketched); how fast
// and how far it beats is compared.
//
// Its neighbours: hear measures one sound, refine lessens the distance.
package compare
