// Command leitstand compiles one keyboard mapping into the native configuration
// of every system.
package main

import (
	"os"
	"runtime/debug"

	"leitstand/internal/cli"
)

// Set by the build: see the Makefile.
var (
	version = "0.1.0"
	commit  = ""
)

func main() {
	// A run is short and small: collecting garbage less often makes it faster. A
	// large mapping must not pay for that in memory.
	debug.SetGCPercent(400)
	debug.SetMemoryLimit(120 << 20)
	os.Exit(cli.Run(os.Args[1:], func() string { return version + " (" + commitOf() + ")" }, os.Stdout, os.Stderr))
}

// commitOf is the commit the program was built from: the build's own word, or
// what the Go tool noted.
func commitOf() string {
	if commit != "" {
		return "commit " + commit
	}
	if info, ok := debug.ReadBuildInfo(); ok {
		for _, s := range info.Settings {
			if s.Key == "vcs.revision" && len(s.Value) >= 12 {
				return "commit " + s.Value[:12]
			}
		}
	}
	return "commit unknown"
}
