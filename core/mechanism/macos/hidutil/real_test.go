package hidutil_test

import (
	"encoding/json"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/change"
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

// The job, read by a second property-list parser, is what launchd expects, and what its script hands to
// hidutil is valid JSON with the right usages.
func TestReadBySecondParser(t *testing.T) {
	realtest.NeedFile(t, "/usr/bin/python3", "python3")
	out, err := mechanism.Write(hidutil.Mechanism{}, vessel(t), wanted())
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "job.plist")
	require.NoError(t, os.WriteFile(path, out.Files()[0].Data, 0o644))
	text, _ := realtest.Output(t, "/usr/bin/python3", "-c", "import plistlib,json,sys; "+
		"print(json.dumps(plistlib.load(open(sys.argv[1],'rb'))))", path)
	var job map[string]any
	require.NoError(t, json.Unmarshal([]byte(text), &job))
	assert.Equal(t, "leitstand.keymapping", job["Label"])
	assert.Equal(t, true, job["RunAtLoad"])
	assert.NotContains(t, job, "StartInterval", "one external board needs no polling")
	args := job["ProgramArguments"].([]any)
	require.Len(t, args, 3)
	for line := range strings.Lines(args[2].(string)) {
		for _, quoted := range regexp.MustCompile(`'([^']*)'`).FindAllStringSubmatch(line, -1) {
			assert.True(t, json.Valid([]byte(quoted[1])), line)
		}
	}
}

// theirs is a mapping of another program.
const theirs = `{"HIDKeyboardModifierMappingDst":30064771303,"HIDKeyboardModifierMappingSrc":30064771302}`

func wanted() []mechanism.Binding {
	return []mechanism.Binding{
		sample.Becomes("CapsLock", "ControlLeft"),
		sample.Becomes("Fn", "AudioVolumeMute"),
		{Chord: keys.Chord{Key: sample.Key("Insert")}, Effect: behaviour.Effect{Kind: behaviour.Nothing}},
		{Chord: keys.Chord{Key: sample.Key("F5")}, Effect: behaviour.Effect{Kind: behaviour.Acts, Action: "overview"}},
		sample.On("chart-table", sample.Becomes("AltLeft", "MetaLeft")),
		sample.On("chart-table", sample.Becomes("CapsLock", "Escape")),
		sample.On("chart-table", sample.Becomes("PrintScreen", "F13")),
		sample.Setting("repeat delay", "220ms"), sample.Setting("repeat rate", "40/s"),
	}
}

// The steps, taken on a Mac of stand-ins, leave the event system with each board's whole list; taken
// back, nothing is left. As an administrator it is a daemon of the system, else an agent of the user.
func TestStepsOnMac(t *testing.T) {
	general := map[uint64]uint64{
		30064771129:   30064771296,    // CapsLock, left Control
		30064771134:   0xFF0100000010, // F5, the overview
		30064771145:   30064771072,    // Insert, nothing
		1095216660483: 51539607778,    // Fn, mute
	}
	own := maps.Clone(general)
	own[30064771129] = 30064771113 // CapsLock, Escape
	own[30064771298] = 30064771299 // left Option, left Command
	for _, admin := range []bool{true, false} {
		mac, m := realtest.NewMac(t), vessel(t)
		m.Admin = admin
		out, err := mechanism.Write(hidutil.Mechanism{}, m, wanted())
		require.NoError(t, err)
		dir := t.TempDir()
		for _, f := range out.Files() {
			require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, f.Path)), 0o755))
			require.NoError(t, os.WriteFile(filepath.Join(dir, f.Path), f.Data, 0o644))
		}
		script := filepath.Join(dir, change.PreferencesFile)
		require.NoError(t, os.WriteFile(script, []byte(change.PreferencesScript), 0o644))
		had := mac.Has()
		said, holds := mac.Ask(dir, change.Asking(out.Changes))
		assert.False(t, holds)
		assert.Equal(t, 4, strings.Count(said, "not there"), said)
		lines := func(steps []mechanism.Step) (lines string) {
			for _, s := range steps {
				lines += strings.Join(s.Lines, "\n") + "\n"
			}
			return lines
		}
		if admin { // another program's mapping is there again afterwards
			mac.Run(dir, `hidutil property --set '{"UserKeyMapping":[`+theirs+`]}'`)
		}
		mac.Run(dir, lines(out.Steps()))
		said, holds = mac.Ask(dir, change.Asking(out.Changes))
		assert.True(t, holds, said)
		mac.Run(dir, lines(out.Steps())) // twice is as once
		has := mac.Has()
		place := "home/Library/LaunchAgents/leitstand.keymapping.plist"
		if admin {
			place = "root/Library/LaunchDaemons/leitstand.keymapping.plist"
		}
		assert.Contains(t, has, place)
		for match, want := range map[string]map[uint64]uint64{
			"": own, `{"Built-In":false}`: general, `{"Built-In":true}`: general,
			`{"VendorID":4617,"ProductID":1}`: own, `{"VendorID":4617,"ProductID":2}`: own,
		} {
			ask := "hidutil property --get UserKeyMapping"
			if match != "" {
				ask += " --matching '" + match + "'"
			}
			var list []struct {
				Src uint64 `json:"HIDKeyboardModifierMappingSrc"`
				Dst uint64 `json:"HIDKeyboardModifierMappingDst"`
			}
			require.NoError(t, json.Unmarshal([]byte(mac.Run(dir, ask)), &list))
			got := map[uint64]uint64{}
			for _, p := range list {
				got[p.Src] = p.Dst
			}
			assert.Equal(t, want, got, match)
		}
		mac.Run(dir, lines(out.Back()))
		gone := mac.Has()
		assert.NotContains(t, gone, place)
		assert.Equal(
			t,
			map[bool]string{true: "null", false: "[]"}[admin],
			strings.TrimSpace(mac.Run(dir, "hidutil property --get UserKeyMapping --matching '{\"Built-In\":true}'")),
		)
		held := strings.ReplaceAll(strings.TrimSpace(mac.Run(dir, "hidutil property --get UserKeyMapping")), " ", "")
		assert.Equal(t, map[bool]string{true: "[" + theirs + "]", false: "[]"}[admin], held)
		assert.Equal(t, "375000000", strings.TrimSpace(mac.Run(dir, "hidutil property --get HIDInitialKeyRepeat")))
		for place := range gone {
			assert.True(t, had[place] != "" || strings.HasPrefix(place, "state/"), place)
		}
	}
}
