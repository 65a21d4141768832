package compile_test

import (
	"slices"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/diag"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
	"leitstand/internal/sample"
)

// tidedesk is a desktop that nobody has: it starts programs by any chord.
type tidedesk struct{}

func (tidedesk) Facts() mechanism.Facts {
	return mechanism.Facts{Name: "tidedesk", Stage: mechanism.Desktop, Takes: "at high water"}
}

func (tidedesk) Serves(m *mechanism.Machine) bool { return m.Desktop == "tidedesk" }

func (tidedesk) Take(_ *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if mechanism.Plain(b) && b.Effect.Kind == behaviour.Launches {
		return mechanism.Offer{Verdict: mechanism.Exact}
	}
	return mechanism.Offer{}
}

func (tidedesk) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var text []byte
	for _, b := range list {
		text = append(text, b.String()+"\n"...)
	}
	return mechanism.Changed(
		[]change.Change{
			change.File{About: change.About{In: "tidedesk/chords"}, Path: "~/.config/tidedesk/chords", Data: text},
		},
	), nil
}

// read is what reading a text finds wrong.
func read(t *testing.T, text string) diag.List {
	t.Helper()
	_, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	return diags
}

// A desktop takes a row in the list of desktops and a mechanism in the registry: then it can
// be said, scopes know it, a wrong spelling of it is told, presses land there, the page of
// mechanisms has it, and random mappings reach it.
func TestDesktopIsOneRowAndOneMechanism(t *testing.T) {
	remove := machine.Add(
		machine.Desktop{Name: "tidedesk", Title: "Tidedesk", Only: machine.X11, Called: []string{"gezeiten"}},
	)
	defer remove()
	defer registry.Add(tidedesk{})()
	_, builds, diags := build(t, `machine "mole" {
  system  = "linux"
  desktop = "tidedesk"
}
launch "Meta+F9" {
  run = "tidegauge"
  on  = "tidedesk"
}
`)
	require.Empty(t, diags)
	assert.Equal(t, "Linux with Tidedesk", builds[0].Machine.Place())
	assert.Equal(t, machine.X11, builds[0].Machine.Session)
	assert.Equal(t, mechanism.Exact, builds[0].Landings[0].Offer.Verdict)
	assert.Contains(t, string(builds[0].Folder()[0].Data), "tidedesk")
	for said, want := range map[string]string{"gezeiten": `write "tidedesk"`, "tidesdesk": `tidedesk`} {
		diags := read(t, "machine \"mole\" {\n  system = \"linux\"\n  desktop = \""+said+"\"\n}\n")
		require.True(
			t, slices.ContainsFunc(diags, func(d diag.Diagnostic) bool { return d.Code == "unknown-value" }), said,
		)
		assert.Contains(t, diags[0].Advice+diags[0].Summary, want)
	}
	assert.Regexp(
		t,
		`(?s)\n## Linux with Tidedesk, on X11\n.*\n\| a chord starts a program \| tidedesk \| exact \|`,
		mechanismsPage(t),
	)
	assert.Equal(t, "bad-name", read(t, "machine \"tidedesk\" { system = \"linux\" }\n")[0].Code)
	reached := false
	rapid.Check(t, func(t *rapid.T) {
		for _, m := range sample.Valid(t).Mapping.Machines {
			reached = reached || m.Desktop == "tidedesk"
		}
	})
	assert.True(t, reached, "no random mapping has the desktop")
}
