// Command glossator is the program: the server, the demo, and the core on the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"
)

// Version of the program.
const Version = "0.1.0"

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
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return usageError{err} })
	root.AddCommand(demoCommand(), serveCommand(), convertCommand(), panelCommand(), translateCommand(), renderCommand(), measureCommand(), compareCommand())
	if err := root.ExecuteContext(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, err)
		var u usageError
		if errors.As(err, &u) || isUsage(err) {
			os.Exit(2)
		}
		os.Exit(1)
	}
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
