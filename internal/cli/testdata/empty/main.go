// Command empty starts Cobra and ends: the measure for how fast a program of this
// kind can be.
package main

import (
	"os"

	"github.com/spf13/cobra"
)

func main() {
	c := &cobra.Command{Use: "empty", Run: func(*cobra.Command, []string) {}}
	if c.Execute() != nil {
		os.Exit(1)
	}
}
