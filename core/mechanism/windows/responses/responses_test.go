package responses_test

import (
	"os"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/responses"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

var lab = sample.Machine(mapping.Machine{Name: "lab", System: mapping.Windows, Layouts: []string{"de"}})

const path = "responses/leitstand.reg"

func settings(delay int64, rate int64) []behaviour.Binding {
	return []behaviour.Binding{
		behaviour.Set(behaviour.Option{Kind: behaviour.RepeatDelay}, behaviour.Milliseconds(delay)),
		behaviour.Set(behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(rate)),
	}
}

// How keys repeat reads back to the millisecond, a rate as the nearest that there is.
func TestReadsWhatItWrites(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		list := settings(rapid.Int64Range(1, 2000).Draw(r, "delay"), rapid.Int64Range(1, 200).Draw(r, "rate"))
		out, err := mechanism.Write(responses.Mechanism{}, lab, list)
		require.NoError(r, err)
		got, err := responses.Mechanism{}.Read(lab, fstest.MapFS{path: {Data: out.Files()[0].Data}})
		require.NoError(r, err)
		if o := (responses.Mechanism{}).Take(lab, list[1]); o.Does != nil {
			require.Equal(r, mechanism.Limited, o.Verdict)
			list[1].Effect = *o.Does
		}
		require.Empty(r, behaviour.Compare(list, got))
	})
}

// What leaves presses out, or does not hold, is no repeat.
func TestOthersOfTheKey(t *testing.T) {
	out, err := mechanism.Write(responses.Mechanism{}, lab, settings(220, 40))
	require.NoError(t, err)
	plain := strings.ReplaceAll(string(out.Files()[0].Data[2:]), "\x00", "")
	for old, now := range map[string]string{`"Flags"="3"`: `"Flags"="126"`, `"BounceTime"="0"`: `"BounceTime"="50"`} {
		require.Contains(t, plain, old)
		got, err := responses.Mechanism{}.Read(
			lab,
			fstest.MapFS{path: {Data: []byte(strings.Replace(plain, old, now, 1))}},
		)
		require.NoError(t, err)
		assert.Empty(t, got, now)
	}
}

// Wine's registry editor has the values, and the steps give back what was there.
func TestImportedByRegistryEditor(t *testing.T) {
	wine := realtest.NewWine(t)
	out, err := mechanism.Write(responses.Mechanism{}, lab, settings(220, 40))
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(wine.Path("lab/responses"), 0o700))
	require.NoError(t, os.WriteFile(wine.Path("lab", path), out.Files()[0].Data, 0o600))
	export := func(name string) string {
		return `reg export "HKCU\Control Panel\Accessibility\Keyboard Response" C:\lab\` + name + " /y"
	}
	lines := []string{`reg add "HKCU\Control Panel\Accessibility\Keyboard Response" /v Flags /d 126 /f`, export("had")}
	for _, s := range out.Steps() {
		lines = append(lines, s.Lines...)
	}
	lines = append(lines, export("has"))
	for _, s := range out.Back() {
		lines = append(lines, s.Lines...)
	}
	wine.Batch("lab", append(lines, export("again"))...)
	text := func(name string) string {
		raw, err := os.ReadFile(wine.Path("lab", name))
		require.NoError(t, err)
		return strings.ReplaceAll(string(raw), "\x00", "")
	}
	for _, line := range []string{`"AutoRepeatDelay"="220"`, `"AutoRepeatRate"="25"`, `"Flags"="3"`, `"BounceTime"="0"`} {
		assert.Contains(t, text("has"), line)
	}
	assert.Equal(t, text("had"), text("again"))
}
