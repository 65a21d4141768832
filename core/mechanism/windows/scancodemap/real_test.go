package scancodemap_test

import (
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/scancodemap"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

var lab = sample.Machine(mapping.Machine{Name: "lab", System: mapping.Windows, Layouts: []string{"de"}})

// Wine's registry editor imports the file, and its export has the bytes that the
// documentation asks for.
func TestImportedByRegistryEditor(t *testing.T) {
	list := []mechanism.Binding{
		sample.Becomes("CapsLock", "Escape"),
		sample.Becomes("AltLeft", "MetaLeft"),
		sample.Becomes("MetaLeft", "AltLeft"),
		{Chord: keys.Chord{Key: sample.Key("Insert")}, Effect: behaviour.Effect{Kind: behaviour.Nothing}},
	}
	// Enough of them that the value needs several lines.
	for _, k := range []string{"F13", "F14", "F15", "F16", "F17", "F18", "F19", "F20"} {
		list = append(list, sample.Becomes(k, "MediaPlayPause"))
	}
	out, err := mechanism.Write(scancodemap.Mechanism{}, lab, list)
	require.NoError(t, err)
	wine := realtest.NewWine(t)
	require.NoError(t, os.WriteFile(wine.Path("map.reg"), out.Files()[0].Data, 0o644))
	wine.Run("reg", "import", `C:\map.reg`)
	wine.Run("reg", "export", `HKLM\SYSTEM\CurrentControlSet\Control\Keyboard Layout`, `C:\out.reg`, "/y")
	raw, err := os.ReadFile(wine.Path("out.reg"))
	require.NoError(t, err)
	text, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(raw)
	require.NoError(t, err)
	written, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(out.Files()[0].Data)
	require.NoError(t, err)
	_, value, _ := strings.Cut(string(written), `"Scancode Map"`)
	assert.Contains(t, string(text), strings.TrimSpace(value), "broken into the same lines")
	joined := regexp.MustCompile(`\\\r?\n\s*`).ReplaceAllString(string(text), "")
	found := regexp.MustCompile(`"Scancode Map"=hex:([0-9a-f,]*)`).FindStringSubmatch(joined)
	require.NotNil(t, found, joined)
	want := []string{
		"00,00,00,00,00,00,00,00,0d,00,00,00", // version, flags, twelve entries and the terminator
		"5b,e0,38,00",                         // left Alt sends left Windows
		"01,00,3a,00",                         // CapsLock sends Escape
		"38,00,5b,e0",                         // left Windows sends left Alt
		"00,00,52,e0",                         // Insert sends nothing
		"22,e0,64,00", "22,e0,65,00", "22,e0,66,00", "22,e0,67,00",
		"22,e0,68,00", "22,e0,69,00", "22,e0,6a,00", "22,e0,6b,00",
		"00,00,00,00",
	}
	assert.Equal(t, strings.Join(want, ","), found[1])
}

// The steps, taken in the system's own shell, twice, set the map and give a former one back; taken
// back before they were ever taken, they leave it alone.
func TestStepsGiveFormerMapBack(t *testing.T) {
	out, err := mechanism.Write(scancodemap.Mechanism{}, lab, []mechanism.Binding{sample.Becomes("CapsLock", "Escape")})
	require.NoError(t, err)
	wine := realtest.NewWine(t)
	require.NoError(t, os.MkdirAll(wine.Path("lab/scancodemap"), 0o755))
	require.NoError(t, os.WriteFile(wine.Path("lab", out.Files()[0].Path), out.Files()[0].Data, 0o644))
	lines := func(steps []mechanism.Step) (all []string) {
		for _, s := range steps {
			all = append(all, s.Lines...)
		}
		return all
	}
	const key = `"HKLM\SYSTEM\CurrentControlSet\Control\Keyboard Layout"`
	export := func(name string) []string { return []string{"reg export " + key + ` C:\lab\` + name} }
	script := slices.Concat(
		[]string{
			"reg add " + key + ` /v "Scancode Map" /t REG_BINARY /d 00000000000000000200000000003A0000000000 /f`,
		},
		export("own"),
		lines(out.Back()),
		export("untouched"),
		lines(out.Steps()),
		lines(out.Steps()),
		export("ours"),
		lines(out.Back()),
		export("back"),
		[]string{
			"reg delete " + key + ` /v "Scancode Map" /f`,
		},
		export("none"),
		lines(out.Steps()),
		export("again"),
		lines(out.Back()),
		export("nothing"),
	)
	wine.Batch("lab", script...)
	has := func(name string) string {
		raw, err := os.ReadFile(wine.Path("lab", name))
		require.NoError(t, err)
		text, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(raw)
		require.NoError(t, err)
		return string(text)
	}
	assert.Contains(t, has("own"), "02,00,00,00,00,00,3a,00")
	assert.Equal(t, has("own"), has("untouched"))
	assert.Contains(t, has("ours"), "02,00,00,00,01,00,3a,00")
	assert.Equal(t, has("own"), has("back"))
	assert.NotContains(t, has("none"), "Scancode Map")
	assert.Equal(t, has("ours"), has("again"))
	assert.Equal(t, has("none"), has("nothing"))
}
