package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"leitstand"
)

func (a *app) notices() *cobra.Command {
	return &cobra.Command{
		Use:   "notices",
		Short: "What the program is made with, and the notices that this asks for",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			_, err := fmt.Fprint(a.stdout, leitstand.Notice)
			return err
		},
	}
}
