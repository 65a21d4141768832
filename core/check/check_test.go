package check_test

import (
	"strings"
	"testing"
	"testing/fstest"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/check"
	"leitstand/core/diag"
	"leitstand/core/mapping"
	"leitstand/examples"
)

func load(t *testing.T, text string) *mapping.Mapping {
	t.Helper()
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	return mp
}

func here(has func(string) bool) check.Here {
	return check.Here{
		Machine: &mapping.Machine{
			Name:    "this-machine",
			System:  mapping.Linux,
			Desktop: "xfce",
			Layouts: []string{"us"},
		},
		Name:   "Gauge",
		System: mapping.Linux,
		Has:    has,
	}
}

func TestExample(t *testing.T) {
	mp := load(t, string(examples.TideOffice))
	r, err := check.Mapping(mp, here(func(string) bool { return true }), nil)
	require.NoError(t, err)
	assert.Len(t, r.Builds, len(mp.Machines))
	assert.Empty(t, r.Findings.Without(diag.Note))
	assert.Zero(t, r.Proof.Unexplained)
	assert.Positive(t, r.Proof.Announced)

	one, err := check.Mapping(mp, here(func(string) bool { return true }), []string{"lab"})
	require.NoError(t, err)
	assert.Len(t, one.Builds, 1)
	assert.Less(t, one.Proof.Presses, r.Proof.Presses)
	_, err = check.Mapping(mp, here(nil), []string{"lap"})
	assert.ErrorContains(t, err, `did you mean "lab"`)
}

// The examples are sound, short, narrow and laid out, and say once what may be left out.
func TestExamples(t *testing.T) {
	for name, most := range map[string]struct{ lines, columns int }{
		"tide-office": {137, 100}, "tide-pole": {21, 80}, "lighthouse": {163, 100}, "pilot-school": {26, 100},
	} {
		mp, diags, err := mapping.Load(examples.Files, name+"/leitstand.hcl", "")
		require.NoError(t, err, name)
		require.Empty(t, diags, name)
		r, err := check.Mapping(mp, here(func(string) bool { return true }), nil)
		require.NoError(t, err, name)
		assert.Empty(t, r.Findings.Without(diag.Note), name)
		assert.Zero(t, r.Proof.Unexplained, name)
		assert.Len(t, r.Builds, len(mp.Machines), name)

		text, err := examples.Files.ReadFile(name + "/leitstand.hcl")
		require.NoError(t, err)
		even, err := mapping.Format(text)
		require.NoError(t, err)
		assert.Equal(t, string(text), string(even), name)
		assert.LessOrEqual(t, strings.Count(string(text), "\n"), most.lines, name)
		assert.LessOrEqual(t, strings.Count(string(text), "allow"), 1, name)
		for line := range strings.Lines(string(text)) {
			assert.LessOrEqual(
				t, utf8.RuneCountInString(strings.TrimSuffix(line, "\n")), most.columns, "%s: %s", name, line,
			)
		}
	}
}

// Programs are looked for on the machine that the check runs on, and on no other.
func TestProgramsThatAreNotHere(t *testing.T) {
	has := func(program string) bool { return program == "tidegauge" }
	launches := `
launch "Ctrl+Meta+F9" { run = ["tidegauge", "3"] }
launch "Ctrl+Meta+F10" { run = ["chartview"] }
launch "Ctrl+Meta+F11" {
  run   = ["soundings"]
  allow = ["no-program"]
}
launch "Ctrl+Meta+F12" { run = ["~/bin/mine"] }
`
	for _, c := range []struct{ machines, on string }{
		{"", "this-machine"},
		{"machine \"gauge\" {\n system = \"linux\"\n desktop = \"xfce\"\n}\nmachine \"lab\" { system = " +
			"\"windows\" }\n", "gauge"},
		{"machine \"gauge\" { system = \"windows\" }\n", ""}, // the same computer, started with another system
		{"machine \"mess\" {\n system = \"linux\"\n desktop = \"xfce\"\n}\n", ""},
	} {
		r, err := check.Mapping(load(t, c.machines+launches), here(has), nil)
		require.NoError(t, err)
		var got []string
		for _, d := range r.Findings {
			if d.Code == "no-program" {
				got = append(got, d.Machines[0]+": "+d.Summary)
			}
		}
		if c.on == "" {
			assert.Empty(t, got)
			continue
		}
		assert.Equal(t, []string{c.on + ": chartview is not on this machine"}, got)
	}
}

// What is wrong with a mapping for a machine is told, and nothing is proved of it.
func TestErrors(t *testing.T) {
	mp := load(t, "machine \"lab\" { system = \"windows\" }\nhyper \"CapsLock\" { need = \"exact\" }\n")
	r, err := check.Mapping(mp, here(nil), nil)
	require.NoError(t, err)
	assert.True(t, r.Findings.HasErrors())
	assert.Zero(t, r.Proof.Presses)
}

// A rule for all boards that are plugged in, but for one, leaves that one its key.
func TestAllButOneExternalBoard(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`version = 1
board "chart-table" { ids = ["usb:1209:0001"] }
board "wheelhouse" { ids = ["any external"] }
machine "hut" {
  system  = "linux"
  session = "console"
  boards  = ["chart-table", "wheelhouse"]
}
remap "MetaRight" {
  to     = "ContextMenu"
  on     = ["wheelhouse"]
  except = ["chart-table"]
}
remap "CapsLock" {
  to     = "Escape"
  on     = ["wheelhouse"]
  except = ["chart-table"]
}
remap "CapsLock" {
  to = "F13"
  on = ["chart-table"]
}
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	r, err := check.Mapping(mp, check.Here{}, nil)
	require.NoError(t, err)
	assert.Empty(t, r.Findings.Without(diag.Note))
}
