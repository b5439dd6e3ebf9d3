package main

import (
	"errors"
	"io/fs"

	"github.com/spf13/cobra"

	"glossator/web"
)

// licencesCommand prints the licences of all that is inside.
func licencesCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "licences",
		Short: "Prints the licences of everything inside the program",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			app, ok := web.App()
			if !ok {
				return errors.New("the program was compiled without its page, and without the list of licences: make build")
			}
			b, err := fs.ReadFile(app, "licences.txt")
			if err != nil {
				return errors.New("the program was compiled without its list of licences: make build")
			}
			_, err = cmd.OutOrStdout().Write(b)
			return err
		},
	}
}
