// Package dsp has the signal processing that synth, hear and compare share: windows, spectra of frames, filter responses, biquads and
// resampling, each by its closed form with its source. gonum has the Fourier transforms.
//
// Frequencies are in hertz and times in samples or seconds, as each comment says; nothing here knows of modules or patches.
package dsp
