// Command glossator is the program: the server, the demo, and the core on the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"regexp"
	"slices"
	"strings"

	"github.com/spf13/cobra"
)

// Version of the program; a release says its own.
var Version = "0.1.0"

// usageError marks a fault of the call itself: exit status 2.
type usageError struct{ error }

func main() {
	root := &cobra.Command{
		Use:           "glossator",
		Short:         "Translates synthesizer patches from one panel to another",
		Version:       Version,
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.CompletionOptions.DisableDefaultCmd = true
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return usageError{inWords(err)} })
	root.SetArgs(negatives(os.Args[1:]))
	out := &output{w: os.Stdout}
	root.SetOut(out)
	root.AddCommand(demoCommand(), serveCommand(), convertCommand(), panelCommand(), translateCommand(), bankCommand(), backupCommand(), restoreCommand(), archiveCommand(), importCommand(), showCommand(), licencesCommand(), renderCommand(), measureCommand(), compareCommand(), standInCommand(), benchCommand())
	err := root.ExecuteContext(context.Background())
	if err == nil && out.err != nil {
		err = fmt.Errorf("what was to be printed did not get out: %w", out.err)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		var u usageError
		if errors.As(err, &u) || isUsage(err) {
			os.Exit(2)
		}
		os.Exit(1)
	}
}

// output is where the program prints; it keeps the first error, as a full disk gives one.
type output struct {
	w   io.Writer
	err error
}

func (o *output) Write(b []byte) (int, error) {
	n, err := o.w.Write(b)
	if err != nil && o.err == nil {
		o.err = err
	}
	return n, err
}

var negative = regexp.MustCompile(`^-[0-9.,]`)

// negatives writes quantities below nothing, such as -9.5 dB, with the minus sign of print where they stand by themselves, so that they are not taken for flags.
func negatives(args []string) []string {
	out := slices.Clone(args)
	for i, a := range out {
		if a == "--" {
			break
		}
		if negative.MatchString(a) && (i == 0 || !strings.HasPrefix(out[i-1], "-") || strings.Contains(out[i-1], "=")) {
			out[i] = "−" + a[1:]
		}
	}
	return out
}

var badFlag = regexp.MustCompile(`^invalid argument "(.*)" for "(?:-\w, )?(--[\w-]+)" flag: (.*)$`)

// inWords says of a flag that could not be read what was expected, in place of the words of the library that reads it.
func inWords(err error) error {
	m := badFlag.FindStringSubmatch(err.Error())
	if m == nil {
		return err
	}
	expected := "a number"
	switch {
	case strings.Contains(m[3], "ParseInt"):
		expected = "a whole number"
	case strings.Contains(m[3], "ParseUint"):
		expected = "a whole number that is not below 0"
	case strings.Contains(m[3], "ParseBool"):
		expected = "true or false"
	}
	return fmt.Errorf("%s: expected %s, got %q", m[2], expected, m[1])
}

// isUsage recognises cobra's own complaints about the call, which have no type.
func isUsage(err error) bool {
	for _, p := range []string{"unknown command", "accepts ", "requires ", "required flag", "unknown flag", "unknown shorthand"} {
		if len(err.Error()) >= len(p) && err.Error()[:len(p)] == p {
			return true
		}
	}
	return false
}
