package cli_test

import (
	"os"
	"testing"

	"github.com/rogpeppe/go-internal/testscript"

	"leitstand/examples"
	"leitstand/internal/cli"
)

func TestMain(m *testing.M) {
	testscript.Main(m, map[string]func(){
		"leitstand": func() { os.Exit(cli.Run(os.Args[1:], "test", os.Stdout, os.Stderr)) },
	})
}

// The scripts of testdata/script drive the program as a user does.
func TestScripts(t *testing.T) {
	testscript.Run(t, testscript.Params{
		Dir: "testdata/script",
		Setup: func(e *testscript.Env) error {
			return os.WriteFile(e.Cd+"/tide.hcl", examples.TideOffice, 0o644)
		},
		RequireExplicitExec: true,
	})
}
