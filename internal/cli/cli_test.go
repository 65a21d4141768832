package cli_test

import (
	"flag"
	"os"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/rogpeppe/go-internal/testscript"
	"github.com/santhosh-tekuri/jsonschema/v6"

	"leitstand/examples"
	"leitstand/internal/cli"
)

func TestMain(m *testing.M) {
	testscript.Main(tidied{m}, map[string]func(){
		"leitstand": func() { os.Exit(cli.Run(os.Args[1:], func() string { return "test" }, os.Stdout, os.Stderr)) },
	})
}

// tidied are tests behind which the programs go that they have built.
type tidied struct{ *testing.M }

// Run runs the tests.
func (t tidied) Run() int {
	defer func() { _ = os.RemoveAll(built.folder) }()
	return t.M.Run()
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
		Cmds: map[string]func(*testscript.TestScript, bool, []string){
			"sarif":  holdsSchema(sarifSchema),
			"schema": holdsOurSchema,
			"fits":   fits,
		},
	})
}

// fits checks that the last command printed at most so many lines, none wider than what is read at one glance.
func fits(ts *testscript.TestScript, negated bool, args []string) {
	most, err := strconv.Atoi(args[0])
	ts.Check(err)
	lines := strings.Split(strings.TrimRight(ts.ReadFile("stdout"), "\n"), "\n")
	if len(lines) > most {
		ts.Fatalf("%d lines, and %d is the most", len(lines), most)
	}
	for _, l := range lines {
		if n := utf8.RuneCountInString(l); n > 100 {
			ts.Fatalf("%d columns: %s", n, l)
		}
	}
}

// sarifSchema is the OASIS standard's own schema of SARIF 2.1.0, Errata 01.
const sarifSchema = "testdata/sarif-schema-2.1.0.json"

// holdsOurSchema holds what the last command printed against one of docs/schema, by its name.
func holdsOurSchema(ts *testscript.TestScript, negated bool, args []string) {
	if len(args) != 1 {
		ts.Fatalf("usage: schema NAME")
	}
	holdsSchema("../../docs/schema/"+args[0]+"-1.json")(ts, negated, nil)
}

// holdsSchema holds what the last command printed against a schema.
func holdsSchema(path string) func(*testscript.TestScript, bool, []string) {
	return func(ts *testscript.TestScript, negated bool, _ []string) {
		compiled, err := jsonschema.NewCompiler().Compile(path)
		ts.Check(err)
		report, err := jsonschema.UnmarshalJSON(strings.NewReader(ts.ReadFile("stdout")))
		ts.Check(err)
		switch err := compiled.Validate(report); {
		case err != nil && !negated:
			ts.Fatalf("not of the schema %s: %v", path, err)
		case err == nil && negated:
			ts.Fatalf("of the schema %s, which it should not be", path)
		}
	}
}
