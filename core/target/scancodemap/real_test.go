package scancodemap_test

import (
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/target"
	"leitstand/core/target/scancodemap"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

var lab = sample.Machine(mapping.Machine{Name: "lab", System: mapping.Windows, Layouts: []string{"de"}})

// Wine's registry editor imports the file, and its export has the bytes that the
// documentation asks for.
func TestImportedByRegistryEditor(t *testing.T) {
	list := []target.Binding{
		sample.Becomes("CapsLock", "Escape"),
		sample.Becomes("AltLeft", "MetaLeft"),
		sample.Becomes("MetaLeft", "AltLeft"),
		{Chord: keys.Chord{Key: sample.Key("Insert")}, Effect: behaviour.Effect{Kind: behaviour.Nothing}},
	}
	// Enough of them that the value needs several lines.
	for _, k := range []string{"F13", "F14", "F15", "F16", "F17", "F18", "F19", "F20"} {
		list = append(list, sample.Becomes(k, "MediaPlayPause"))
	}
	out, err := scancodemap.Target{}.Write(lab, list)
	require.NoError(t, err)
	wine := realtest.NewWine(t)
	require.NoError(t, os.WriteFile(wine.Path("map.reg"), out.Files[0].Data, 0o644))
	wine.Run("reg", "import", `C:\map.reg`)
	wine.Run("reg", "export", `HKLM\SYSTEM\CurrentControlSet\Control\Keyboard Layout`, `C:\out.reg`, "/y")
	raw, err := os.ReadFile(wine.Path("out.reg"))
	require.NoError(t, err)
	text, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(raw)
	require.NoError(t, err)
	written, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(out.Files[0].Data)
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
