package cli_test

import (
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/testscript"
	"github.com/santhosh-tekuri/jsonschema/v6"

	"leitstand/examples"
	"leitstand/internal/cli"
)

func TestMain(m *testing.M) {
	testscript.Main(m, map[string]func(){
		"leitstand": func() { os.Exit(cli.Run(os.Args[1:], func() string { return "test" }, os.Stdout, os.Stderr)) },
	})
}

var update = flag.Bool("update", false, "write what the program says into the scripts; read it before committing")

// The scripts of testdata/script drive the program as a user does.
func TestScripts(t *testing.T) {
	testscript.Run(t, testscript.Params{
		Dir: "testdata/script",
		Setup: func(e *testscript.Env) error {
			return os.WriteFile(e.Cd+"/tide.hcl", examples.TideOffice, 0o644)
		},
		RequireExplicitExec: true,
		UpdateScripts:       *update,
		Cmds:                map[string]func(*testscript.TestScript, bool, []string){"sarif": holdsSchema("sarif"), "schema": holdsSchema("compile")},
	})
}

// schemas are the OASIS standard's own schema of SARIF 2.1.0, Errata 01, and ours.
var schemas = map[string]string{"sarif": "testdata/sarif-schema-2.1.0.json", "compile": "../../docs/schema/compile-1.json"}

// holdsSchema holds what the last command printed against a schema.
func holdsSchema(name string) func(*testscript.TestScript, bool, []string) {
	path, _ := filepath.Abs(schemas[name])
	return func(ts *testscript.TestScript, negated bool, _ []string) {
		compiled, err := jsonschema.NewCompiler().Compile(path)
		ts.Check(err)
		report, err := jsonschema.UnmarshalJSON(strings.NewReader(ts.ReadFile("stdout")))
		ts.Check(err)
		switch err := compiled.Validate(report); {
		case err != nil && !negated:
			ts.Fatalf("not of the schema of %s: %v", name, err)
		case err == nil && negated:
			ts.Fatalf("of the schema of %s, which it should not be", name)
		}
	}
}
