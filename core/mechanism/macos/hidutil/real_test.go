package hidutil_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/hidutil"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// vessel is a Mac with its own board and one on two buses.
func vessel(t testing.TB) *mechanism.Machine {
	t.Helper()
	mp, diags, err := mapping.Load(os.DirFS("testdata"), "vessel.hcl", "testdata")
	require.NoError(t, err)
	require.Empty(t, diags)
	m, ok := mp.Machine("vessel")
	require.True(t, ok)
	return intent.NewMachine(mp, m)
}

// The agent, read by a second property-list parser, is what launchd expects, and
// what its script really hands to hidutil is valid JSON with the right usages.
func TestReadBySecondParser(t *testing.T) {
	realtest.NeedFile(t, "/usr/bin/python3", "python3")
	out, err := mechanism.Write(hidutil.Mechanism{}, vessel(t), []mechanism.Binding{
		sample.Becomes("CapsLock", "ControlLeft"),
		sample.Becomes("Fn", "AudioVolumeMute"),
		{Chord: keys.Chord{Key: sample.Key("Insert")}, Effect: behaviour.Effect{Kind: behaviour.Nothing}},
		sample.On("chart-table", sample.Becomes("AltLeft", "MetaLeft")),
		sample.On("chart-table", sample.Becomes("CapsLock", "Escape")),
	})
	require.NoError(t, err)
	dir := t.TempDir()
	path := filepath.Join(dir, "agent.plist")
	require.NoError(t, os.WriteFile(path, out.Files[0].Data, 0o644))
	text, _ := realtest.Output(t, "/usr/bin/python3", "-c", "import plistlib,json,sys; "+
		"print(json.dumps(plistlib.load(open(sys.argv[1],'rb'))))", path)
	var agent map[string]any
	require.NoError(t, json.Unmarshal([]byte(text), &agent))
	assert.Equal(t, "leitstand.keymapping", agent["Label"])
	assert.Equal(t, true, agent["RunAtLoad"])
	assert.Equal(t, 60.0, agent["StartInterval"])
	args := agent["ProgramArguments"].([]any)
	require.Len(t, args, 3)

	// The script runs under a real shell, with a program that writes down its
	// arguments in hidutil's place.
	log := filepath.Join(dir, "log")
	recorder := filepath.Join(dir, "recorder")
	require.NoError(
		t, os.WriteFile(recorder, []byte("#!/bin/sh\nfor a; do printf '%s\\n' \"$a\"; done >> "+log+"\n"), 0o755),
	)
	script := strings.ReplaceAll(args[2].(string), "/usr/bin/hidutil", recorder)
	shell := exec.Command(args[0].(string), args[1].(string), script)
	printed, err := shell.CombinedOutput()
	require.NoError(t, err, "%s", printed)
	said, err := os.ReadFile(log)
	require.NoError(t, err)

	const all = `{"UserKeyMapping":[` +
		`{"HIDKeyboardModifierMappingSrc":30064771129,"HIDKeyboardModifierMappingDst":30064771296},` + // CapsLock, left Control
		`{"HIDKeyboardModifierMappingSrc":30064771145,"HIDKeyboardModifierMappingDst":30064771072},` + // Insert, nothing
		`{"HIDKeyboardModifierMappingSrc":1095216660483,"HIDKeyboardModifierMappingDst":51539607778}]}` // Fn, mute
	const own = `{"UserKeyMapping":[` +
		`{"HIDKeyboardModifierMappingSrc":30064771298,"HIDKeyboardModifierMappingDst":30064771299},` + // left Option, left Command
		`{"HIDKeyboardModifierMappingSrc":30064771129,"HIDKeyboardModifierMappingDst":30064771113},` + // CapsLock, Escape
		`{"HIDKeyboardModifierMappingSrc":30064771145,"HIDKeyboardModifierMappingDst":30064771072},` +
		`{"HIDKeyboardModifierMappingSrc":1095216660483,"HIDKeyboardModifierMappingDst":51539607778}]}`
	want := []string{
		"property", "--set", all,
		"property", "--matching", `{"VendorID":4617,"ProductID":1}`, "--set", own,
		"property", "--matching", `{"VendorID":4617,"ProductID":2}`, "--set", own,
	}
	got := strings.Split(strings.TrimSpace(string(said)), "\n")
	assert.Equal(t, want, got)
	for _, line := range got {
		if strings.HasPrefix(line, "{") {
			assert.True(t, json.Valid([]byte(line)), line)
		}
	}
}
