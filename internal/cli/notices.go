package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"leitstand"
)

func (a *app) notices() *cobra.Command {
	return &cobra.Command{
		Use:   "notices",
		Short: "Show the licences of what the program is made with",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			_, err := fmt.Fprint(a.stdout, leitstand.Notice)
			return err
		},
	}
}
